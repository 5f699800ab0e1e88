@echo off
rem The targets of the Makefile, for Windows.
setlocal
cd /d "%~dp0"
if "%ARGS%"=="" set ARGS=README.md
set TARGETS=setup build run test lint{= if "format" in checks =} format{= end =} live clean
for %%t in (%TARGETS%) do if "%1"=="%%t" goto %%t
echo make %TARGETS%
exit /b 2
:: {= if maven =}
{= place "java-targets-cmd" =}
:: {= else =}
:setup
javac --release {= java =} -version
exit /b %ERRORLEVEL%
:build
if exist build\classes rd /s /q build\classes
md build\classes
dir /s /b src\main\java\*.java > build\sources
javac --release {= java =} -encoding UTF-8 -Xlint:all -Werror -d build\classes @build\sources || exit /b 1
> build\manifest echo Main-Class: {= package =}.{= entry =}
>> build\manifest echo Implementation-Version: {= release =}
jar --create --file {= jar.replace("/", "\\") =} --manifest build\manifest -C build\classes .
exit /b %ERRORLEVEL%
:test
call make.cmd build || exit /b 1
dir /s /b src\test\java\*.java > build\sources
javac --release {= java =} -encoding UTF-8 -Xlint:all -Werror -cp build\classes -d build\test @build\sources || exit /b 1
java -cp build\classes;build\test {= package =}.Checks
exit /b %ERRORLEVEL%
:lint
dir /s /b src\*.java > build\sources
javac --release {= java =} -encoding UTF-8 -Xlint:all -Werror -Xdoclint:all,-missing -d build\lint @build\sources
exit /b %ERRORLEVEL%
:: {= end =}
:run
call make.cmd build || exit /b 1
java -jar {= jar.replace("/", "\\") =} %ARGS%
exit /b %ERRORLEVEL%
{= place "java-live-cmd" =}
:clean
for %%d in ({= out =}{= if several =} core\target app\target{= end =}) do if exist %%d rd /s /q %%d
exit /b 0
