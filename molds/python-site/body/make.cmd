@echo off
rem The targets of the Makefile, for Windows.
setlocal
cd /d "%~dp0"
if "%PYTHON%"=="" set PYTHON=py -3
set PY=.venv\Scripts\python
set TARGETS=setup build run test lint live update migrate migration account clean
for %%t in (%TARGETS%) do if "%1"=="%%t" goto %%t
echo make %TARGETS%
exit /b 2
{= place "python-setup-cmd" =}
:build
:: {= if uv =}
uv build --quiet --wheel
:: {= else =}
if not exist .venv\Scripts\python.exe call make.cmd setup || exit /b 1
%PY% -m pip wheel --quiet --disable-pip-version-check --no-deps --wheel-dir dist .
:: {= end =}
exit /b %ERRORLEVEL%
:run
call :ready || exit /b 1
set DEBUG=false
%PY% -m {= module =}
exit /b %ERRORLEVEL%
:test
call :ready || exit /b 1
%PY% -m pytest
exit /b %ERRORLEVEL%
:live
call :ready || exit /b 1
set DEBUG=true
.venv\Scripts\watchfiles "%PY% -m {= module =}" src
exit /b %ERRORLEVEL%
:migrate
call :ready || exit /b 1
%PY% -m {= module =} migrate
exit /b %ERRORLEVEL%
:migration
call :ready || exit /b 1
%PY% -m {= module =} makemigrations || exit /b 1
.venv\Scripts\ruff check --quiet --fix src
.venv\Scripts\ruff format --quiet src
exit /b %ERRORLEVEL%
:account
call :ready || exit /b 1
%PY% -m {= module =} migrate || exit /b 1
%PY% -m {= module =} createsuperuser
exit /b %ERRORLEVEL%
:ready
if not exist .venv\Scripts\python.exe call make.cmd setup || exit /b 1
if not exist .env %PYTHON% -c "import pathlib, secrets; pathlib.Path('.env').write_text(pathlib.Path('.env.example').read_text().replace('make-a-key', secrets.token_urlsafe(40)))" || exit /b 1
exit /b 0
:clean
for /d /r src %%d in (__pycache__) do if exist "%%d" rd /s /q "%%d"
for %%d in (.venv build dist .mypy_cache .pytest_cache .ruff_cache) do if exist %%d rd /s /q %%d
exit /b 0
