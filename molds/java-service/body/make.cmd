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
call make.cmd build || exit /b 1
java -jar {= jar.replace("/", "\\") =}
exit /b %ERRORLEVEL%
{= place "java-live-cmd" =}
:clean
for %%d in (target{= if several =} core\target app\target{= end =}) do if exist %%d rd /s /q %%d
exit /b 0
