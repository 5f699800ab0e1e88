@echo off
rem The targets of the Makefile, for Windows: make setup, make build, make run, make test, {= if lint =}make lint, {= end =}make watch, make clean.
setlocal
cd /d "%~dp0"
:: {= if service =}
if exist .env for /f "usebackq eol=# tokens=1,* delims==" %%a in (".env") do if not defined %%a set "%%a=%%b"
:: {= else =}
if "%ARGS%"=="" set ARGS=README.md
:: {= end =}
if "%1"=="setup" goto setup
if "%1"=="build" goto build
if "%1"=="run" goto run
if "%1"=="test" goto test
:: {= if lint =}
if "%1"=="lint" goto lint
:: {= end =}
if "%1"=="watch" goto watch
if "%1"=="clean" goto clean
echo make setup, make build, make run, make test, {= if lint =}make lint, {= end =}make watch, make clean
exit /b 0
:: {= if maven =}
:setup
call mvn --version
exit /b %ERRORLEVEL%
:build
call mvn --batch-mode --quiet package -DskipTests
exit /b %ERRORLEVEL%
:run
call "%~f0" build
if errorlevel 1 exit /b 1
java -jar target\{= jar =}{= if not service =} %ARGS%{= end =}
exit /b %ERRORLEVEL%
:test
call mvn --batch-mode --quiet test
exit /b %ERRORLEVEL%
:: {= else =}
:setup
javac --version
exit /b %ERRORLEVEL%
:build
if exist build rd /s /q build
javac --release {= java =} -Xlint:all --source-path src/main/java -d build/main src/main/java/{= package.dirs =}/App.java
if errorlevel 1 exit /b 1
jar --create --file build\{= jar =} --main-class {= package =}.App -C build\main .
exit /b %ERRORLEVEL%
:run
call "%~f0" build
if errorlevel 1 exit /b 1
java -jar build\{= jar =}{= if not service =} %ARGS%{= end =}
exit /b %ERRORLEVEL%
:test
call "%~f0" build
if errorlevel 1 exit /b 1
javac --release {= java =} -cp build/main --source-path src/test/java -d build/test src/test/java/{= package.dirs =}/AppTest.java
if errorlevel 1 exit /b 1
java -cp build\main;build\test {= package =}.AppTest
exit /b %ERRORLEVEL%
:: {= end =}
:: {= if lint =}
:lint
call {= if maven =}mvn --batch-mode --quiet checkstyle:check{= else =}checkstyle -c checkstyle.xml src{= end =}
exit /b %ERRORLEVEL%
:: {= end =}
:watch
{= if service =}
powershell -NoProfile -Command "while (1) { $service = Start-Process cmd -ArgumentList '/c make.cmd run' -NoNewWindow -PassThru; $seen = Get-Date; while (-not (Get-ChildItem src -Recurse -File | Where-Object LastWriteTime -gt $seen)) { Start-Sleep 1 }; taskkill /T /F /PID $service.Id }"
{= else =}
powershell -NoProfile -Command "while (1) { cmd /c make.cmd test; $seen = Get-Date; while (-not (Get-ChildItem src -Recurse -File | Where-Object LastWriteTime -gt $seen)) { Start-Sleep 1 } }"
{= end =}
exit /b %ERRORLEVEL%
:clean
if exist build rd /s /q build
if exist target rd /s /q target
exit /b 0
