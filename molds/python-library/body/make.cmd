@echo off
rem The targets of the Makefile, for Windows.
setlocal
cd /d "%~dp0"
if "%PYTHON%"=="" set PYTHON=py -3
set PY=.venv\Scripts\python
set TARGETS=setup build run test lint live update{= if docs =} docs{= end =} clean
for %%t in (%TARGETS%) do if "%1"=="%%t" goto %%t
echo make %TARGETS%
exit /b 2
{= place "python-setup-cmd" =}
:build
call :ready || exit /b 1
%PY% -m build --outdir dist
exit /b %ERRORLEVEL%
:run
call :ready || exit /b 1
:: {= if command =}
if "%ARGS%"=="" set ARGS=README.md
%PY% -m {= module =} %ARGS%
:: {= else =}
%PY% -i -c "import {= module =}"
:: {= end =}
exit /b %ERRORLEVEL%
:test
call :ready || exit /b 1
%PY% -m pytest
exit /b %ERRORLEVEL%
:live
call :ready || exit /b 1
.venv\Scripts\watchfiles --filter python "%PY% -m pytest --no-cov" src tests
exit /b %ERRORLEVEL%
:: {= if docs =}
:docs
call :ready || exit /b 1
%PY% -m pdoc --output-directory build\docs {= module =}
exit /b %ERRORLEVEL%
:: {= end =}
:clean
for /d /r src %%d in (__pycache__) do if exist "%%d" rd /s /q "%%d"
for %%d in (.venv build dist .mypy_cache .pytest_cache .ruff_cache) do if exist %%d rd /s /q %%d
exit /b 0
:ready
if exist .venv\Scripts\ruff.exe exit /b 0
call make.cmd setup
exit /b %ERRORLEVEL%
