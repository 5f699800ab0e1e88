@echo off
rem The targets of the Makefile, for Windows.
setlocal
cd /d "%~dp0"
if "%PYTHON%"=="" set PYTHON=py -3
set PY=.venv\Scripts\python
if "%PORT%"=="" set PORT=8400
if "%LANGUAGE%"=="" set LANGUAGE=en
set TARGETS=setup build run test lint live update clean
for %%t in (%TARGETS%) do if "%1"=="%%t" goto %%t
echo make %TARGETS%
exit /b 2
:setup
if not exist .venv\Scripts\python.exe %PYTHON% -m venv .venv || exit /b 1
%PY% -m pip install --quiet --disable-pip-version-check --upgrade "pip>=25.1" || exit /b 1
set CONSTRAINT=
if exist constraints.txt set CONSTRAINT=--constraint constraints.txt
%PY% -m pip install --quiet --disable-pip-version-check %CONSTRAINT% --group dev || exit /b 1
%PY% -m pip freeze --exclude-editable > .venv\constraints.txt || exit /b 1
copy /y .venv\constraints.txt constraints.txt > nul
exit /b 0
:update
if exist .venv rd /s /q .venv
if exist constraints.txt del constraints.txt
call make.cmd setup
exit /b %ERRORLEVEL%
:lint
if not exist .venv\Scripts\ruff.exe call make.cmd setup || exit /b 1
.venv\Scripts\ruff format --check || exit /b 1
.venv\Scripts\ruff check || exit /b 1
.venv\Scripts\mypy
exit /b %ERRORLEVEL%
:build
call :ready || exit /b 1
if exist build\site rd /s /q build\site
%PY% -m mkdocs build --strict --config-file sites\en.yml || exit /b 1
%PY% tools\publish.py frame
exit /b %ERRORLEVEL%
:run
call make.cmd build || exit /b 1
%PY% tools\publish.py serve
exit /b %ERRORLEVEL%
:test
call make.cmd build || exit /b 1
%PY% tools\publish.py check
exit /b %ERRORLEVEL%
:live
call :ready || exit /b 1
%PY% -m mkdocs serve --livereload --dev-addr 127.0.0.1:%PORT% --config-file sites\%LANGUAGE%.yml
exit /b %ERRORLEVEL%
:clean
for %%d in (.venv build .mypy_cache .ruff_cache) do if exist %%d rd /s /q %%d
exit /b 0
:ready
if exist .venv\Scripts\ruff.exe exit /b 0
call make.cmd setup
exit /b %ERRORLEVEL%
