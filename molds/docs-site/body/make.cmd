@echo off
rem The targets of the Makefile, for Windows: make setup, make build, make run, make test, {= if lint =}make lint, {= end =}make watch, make clean.
setlocal
cd /d "%~dp0"
if "%PYTHON%"=="" set PYTHON=py -3
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
:setup
%PYTHON% --version
exit /b %ERRORLEVEL%
:build
%PYTHON% tools/build.py
exit /b %ERRORLEVEL%
:run
%PYTHON% tools/serve.py
exit /b %ERRORLEVEL%
:test
%PYTHON% -m unittest discover -s tests
exit /b %ERRORLEVEL%
:: {= if lint =}
:lint
if not exist .venv\Scripts\ruff.exe %PYTHON% -m venv .venv
if not exist .venv\Scripts\ruff.exe .venv\Scripts\pip install --quiet --disable-pip-version-check {= linter =}
.venv\Scripts\ruff check tools tests
exit /b %ERRORLEVEL%
:: {= end =}
:watch
%PYTHON% tools/serve.py --watch
exit /b %ERRORLEVEL%
:clean
if exist build rd /s /q build
for /d /r %%d in (__pycache__) do if exist "%%d" rd /s /q "%%d"
exit /b 0
