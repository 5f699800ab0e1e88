@echo off
rem The targets of the Makefile, for Windows.
setlocal
cd /d "%~dp0"
set TARGETS=setup build run test lint{= if "format" in checks =} format{= end =} live clean
for %%t in (%TARGETS%) do if "%1"=="%%t" goto %%t
echo make %TARGETS%
exit /b 2
{= place "java-targets-cmd" =}
:run
call mvnw.cmd --quiet test-compile dependency:build-classpath -Dmdep.outputFile=target\classpath || exit /b 1
set /p CLASSPATH=<target\classpath
jshell --class-path "target\classes;%CLASSPATH%"
exit /b %ERRORLEVEL%
{= place "java-live-cmd" =}
:clean
if exist target rd /s /q target
exit /b 0
