@echo off
rem The targets of the Makefile, for Windows: make setup, make build, make run, make test, {= if lint =}make lint, {= end =}{= if docs =}make docs, {= end =}make watch, make clean.
setlocal
cd /d "%~dp0"
if "%PYTHON%"=="" set PYTHON=py -3
set PYTHONPATH=%~dp0src
if "%1"=="setup" goto setup
if "%1"=="build" goto build
if "%1"=="run" goto run
if "%1"=="test" goto test
:: {= if lint =}
if "%1"=="lint" goto lint
:: {= end =}
:: {= if docs =}
if "%1"=="docs" goto docs
:: {= end =}
if "%1"=="watch" goto watch
if "%1"=="clean" goto clean
echo make setup, make build, make run, make test, {= if lint =}make lint, {= end =}{= if docs =}make docs, {= end =}make watch, make clean
exit /b 0
:setup
%PYTHON% -m compileall -q src tests
exit /b %ERRORLEVEL%
:build
%PYTHON% -m pip wheel --quiet --disable-pip-version-check --no-deps --wheel-dir dist .
exit /b %ERRORLEVEL%
:run
{= if command =}%PYTHON% -m {= module =} %ARGS%{= else =}%PYTHON% -i -c "import {= module =}"{= end =}
exit /b %ERRORLEVEL%
:test
%PYTHON% -m unittest discover -s tests
exit /b %ERRORLEVEL%
:: {= if lint =}
:lint
if not exist .venv\Scripts\ruff.exe %PYTHON% -m venv .venv
if not exist .venv\Scripts\ruff.exe .venv\Scripts\pip install --quiet --disable-pip-version-check {= linters =}
.venv\Scripts\ruff check src tests
:: {= if typed =}
if errorlevel 1 exit /b 1
.venv\Scripts\mypy src
:: {= end =}
exit /b %ERRORLEVEL%
:: {= end =}
:: {= if docs =}
:docs
if not exist build\docs mkdir build\docs
cd build\docs
%PYTHON% -m pydoc -w {= module =} {= module =}.counts
exit /b %ERRORLEVEL%
:: {= end =}
:watch
powershell -NoProfile -Command "while (1) { cmd /c make.cmd test; $seen = Get-Date; while (-not (Get-ChildItem src,tests -Recurse -Filter *.py | Where-Object LastWriteTime -gt $seen)) { Start-Sleep 1 } }"
exit /b %ERRORLEVEL%
:clean
for /d /r %%d in (__pycache__) do if exist "%%d" rd /s /q "%%d"
if exist build rd /s /q build
if exist dist rd /s /q dist
exit /b 0
