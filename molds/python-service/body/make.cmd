@echo off
rem The targets of the Makefile, for Windows: make setup, make build, make run, make test{= if lint =}, make lint{= end =}, make watch, make clean.
setlocal
cd /d "%~dp0"
if "%PYTHON%"=="" set PYTHON=py -3
set PYTHONPATH=src
if "%1"=="setup" goto setup
if "%1"=="build" goto build
if "%1"=="run" goto run
if "%1"=="test" goto test
:: {= if lint =}
if "%1"=="lint" goto lint
:: {= end =}
if "%1"=="watch" goto watch
if "%1"=="clean" goto clean
echo make setup   check that this machine can run it
echo make build   make build\{= name =}.pyz, the service in one file
echo make run     start it (PORT, HOST, LOG_FORMAT and LOG_LEVEL are settings)
echo make test    run the tests
:: {= if lint =}
echo make lint    find mistakes and odd style
:: {= end =}
echo make watch   start it again whenever a file changes
echo make clean   remove what the other targets made
exit /b 0
:setup
%PYTHON% -m compileall -q src tests
exit /b %ERRORLEVEL%
:build
if not exist build mkdir build
%PYTHON% -m zipapp src -m {= module =}.__main__:main -o build\{= name =}.pyz
exit /b %ERRORLEVEL%
:run
%PYTHON% -m {= module =}
exit /b %ERRORLEVEL%
:test
%PYTHON% -m unittest discover -s tests
exit /b %ERRORLEVEL%
:: {= if lint =}
:lint
if not exist .venv\Scripts\ruff.exe %PYTHON% -m venv .venv
if not exist .venv\Scripts\ruff.exe .venv\Scripts\pip install --quiet --disable-pip-version-check {= linter =}
.venv\Scripts\ruff check src tests
exit /b %ERRORLEVEL%
:: {= end =}
:watch
powershell -NoProfile -Command "while (1) { $service = Start-Process cmd -ArgumentList '/c make.cmd run' -NoNewWindow -PassThru; $seen = Get-Date; while (-not (Get-ChildItem src -Recurse -Filter *.py | Where-Object LastWriteTime -gt $seen)) { Start-Sleep 1 }; taskkill /T /F /PID $service.Id }"
exit /b %ERRORLEVEL%
:clean
for /d /r %%d in (__pycache__) do if exist "%%d" rd /s /q "%%d"
if exist build rd /s /q build
if exist dist rd /s /q dist
exit /b 0
