@echo off
rem The targets of the Makefile, for Windows: make setup, make build, make run, make test{= if lint =}, make lint{= end =}{= if stored =}, make migrate, make account{= end =}, make watch, make clean.
setlocal
cd /d "%~dp0"
if exist .env for /f "usebackq eol=# tokens=1,* delims==" %%a in (".env") do if not defined %%a set "%%a=%%b"
:: {= if needs =}
if "%PYTHON%"=="" set PYTHON=py -3
set PY=.venv\Scripts\python
:: {= else =}
if "%PYTHON%"=="" set PYTHON=py -3
if exist .venv\Scripts\python.exe set PYTHON=.venv\Scripts\python
set PY=%PYTHON%
set PYTHONPATH=src
:: {= end =}
if "%1"=="setup" goto setup
if "%1"=="build" goto build
if "%1"=="run" goto run
if "%1"=="test" goto test
:: {= if lint =}
if "%1"=="lint" goto lint
:: {= end =}
:: {= if stored =}
if "%1"=="migrate" goto migrate
if "%1"=="account" goto account
:: {= end =}
if "%1"=="watch" goto watch
if "%1"=="clean" goto clean
echo make setup, make build, make run, make test{= if lint =}, make lint{= end =}{= if stored =}, make migrate, make account{= end =}, make watch, make clean
exit /b 0
:setup
:: {= if needs =}
:: {= if manager == "uv" =}
uv sync
:: {= else =}
%PYTHON% -m venv .venv
.venv\Scripts\pip install --quiet --disable-pip-version-check --editable .
:: {= end =}
:: {= else =}
%PY% -m compileall -q src tests
:: {= end =}
exit /b %ERRORLEVEL%
:build
:: {= if needs and manager == "uv" =}
uv build --wheel
:: {= else if needs =}
.venv\Scripts\pip wheel --quiet --disable-pip-version-check --no-deps --wheel-dir dist .
:: {= else =}
if not exist build mkdir build
%PYTHON% -m zipapp src -m {= module =}.__main__:main -o build\{= name =}.pyz
:: {= end =}
exit /b %ERRORLEVEL%
:run
%PY% -m {= module =}
exit /b %ERRORLEVEL%
:test
%PY% -m unittest discover -s tests
exit /b %ERRORLEVEL%
:: {= if lint =}
:lint
if not exist .venv\Scripts\python.exe %PYTHON% -m venv .venv
:: {= if needs and manager == "uv" =}
if not exist .venv\Scripts\ruff.exe uv pip install --quiet {= linter =}
:: {= else =}
if not exist .venv\Scripts\ruff.exe .venv\Scripts\pip install --quiet --disable-pip-version-check {= linter =}
:: {= end =}
.venv\Scripts\ruff check src tests
exit /b %ERRORLEVEL%
:: {= end =}
:: {= if stored =}
:migrate
%PY% -m {= module =}.database
exit /b %ERRORLEVEL%
:account
if "%NAME%"=="" set NAME=admin
%PY% -m {= module =}.accounts %NAME%
exit /b %ERRORLEVEL%
:: {= end =}
:watch
powershell -NoProfile -Command "while (1) { $service = Start-Process cmd -ArgumentList '/c make.cmd run' -NoNewWindow -PassThru; $seen = Get-Date; while (-not (Get-ChildItem src -Recurse -File | Where-Object LastWriteTime -gt $seen)) { Start-Sleep 1 }; taskkill /T /F /PID $service.Id }"
exit /b %ERRORLEVEL%
:clean
for /d /r %%d in (__pycache__) do if exist "%%d" rd /s /q "%%d"
if exist build rd /s /q build
if exist dist rd /s /q dist
exit /b 0
