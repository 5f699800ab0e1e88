@echo off
rem The targets of the Makefile, for Windows: make setup, make build, make run, make test{= if lint =}, make lint{= end =}, make watch, make clean.
setlocal
cd /d "%~dp0"
if exist .env for /f "usebackq eol=# tokens=1,* delims==" %%a in (".env") do if not defined %%a set "%%a=%%b"
if "%1"=="setup" goto setup
if "%1"=="build" goto build
if "%1"=="run" goto run
if "%1"=="test" goto test
:: {= if lint =}
if "%1"=="lint" goto lint
:: {= end =}
if "%1"=="watch" goto watch
if "%1"=="clean" goto clean
echo make setup   check that this machine can build it
echo make build   build the program, optimised, into target\release
echo make run     start it (HOST, PORT, LOG_FORMAT and LOG_LEVEL are settings)
echo make test    run the tests
:: {= if lint =}
echo make lint    find mistakes and odd style
:: {= end =}
echo make watch   start it again whenever a file changes
echo make clean   remove what the other targets made
exit /b 0
:setup
cargo --version
if errorlevel 1 exit /b 1
cargo build --all-targets
exit /b %ERRORLEVEL%
:build
cargo build --release
exit /b %ERRORLEVEL%
:run
cargo run --quiet
exit /b %ERRORLEVEL%
:test
cargo test
exit /b %ERRORLEVEL%
:: {= if lint =}
:lint
cargo fmt --check
if errorlevel 1 exit /b 1
cargo clippy --all-targets -- -D warnings
exit /b %ERRORLEVEL%
:: {= end =}
:watch
powershell -NoProfile -Command "while (1) { $service = Start-Process cargo -ArgumentList 'run --quiet' -NoNewWindow -PassThru; $seen = Get-Date; while (-not (Get-ChildItem src -Recurse -File | Where-Object LastWriteTime -gt $seen)) { Start-Sleep 1 }; taskkill /T /F /PID $service.Id }"
exit /b %ERRORLEVEL%
:clean
cargo clean
exit /b %ERRORLEVEL%
