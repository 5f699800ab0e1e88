@echo off
rem The targets of the Makefile, for Windows.
setlocal
cd /d "%~dp0"
if "%PYTHON%"=="" set PYTHON=py -3
set PY=.venv\Scripts\python
:: {= if needs =}
set TARGETS=setup build run test lint live update{= if stored =} migrate migration account{= end =} clean
:: {= else =}
set TARGETS=setup build run test lint live clean
set PYTHONPATH=src
:: {= end =}
for %%t in (%TARGETS%) do if "%1"=="%%t" goto %%t
echo make %TARGETS%
exit /b 2
{= place "python-setup-cmd" =}
:build
:: {= if not needs =}
if not exist build mkdir build
%PYTHON% -m zipapp src -m {= module =}.__main__:main -o build\{= name =}.pyz
:: {= else if uv =}
uv build --quiet --wheel
:: {= else =}
if not exist .venv\Scripts\python.exe call make.cmd setup || exit /b 1
%PY% -m pip wheel --quiet --disable-pip-version-check --no-deps --wheel-dir dist .
:: {= end =}
exit /b %ERRORLEVEL%
:run
:: {= if needs =}
if not exist .venv\Scripts\python.exe call make.cmd setup || exit /b 1
%PY% -m {= module =}
:: {= else =}
%PYTHON% -m {= module =}
:: {= end =}
exit /b %ERRORLEVEL%
:test
:: {= if needs =}
if not exist .venv\Scripts\python.exe call make.cmd setup || exit /b 1
%PY% -m pytest
:: {= else =}
%PYTHON% -m unittest discover --start-directory src --top-level-directory src
:: {= end =}
exit /b %ERRORLEVEL%
:live
if not exist .venv\Scripts\watchfiles.exe call make.cmd setup || exit /b 1
.venv\Scripts\watchfiles --filter python "%PY% -m {= module =}" src
exit /b %ERRORLEVEL%
:: {= if stored =}
:migrate
%PY% -m {= module =} migrate
exit /b %ERRORLEVEL%
:migration
%PY% -m {= module =} migrate || exit /b 1
.venv\Scripts\alembic revision --autogenerate --message "%FOR%" || exit /b 1
.venv\Scripts\ruff check --quiet --fix src\{= module =}\migrations
.venv\Scripts\ruff format --quiet src\{= module =}\migrations
exit /b %ERRORLEVEL%
:account
if "%NAME%"=="" set NAME=admin
%PY% -m {= module =} account %NAME%
exit /b %ERRORLEVEL%
:: {= end =}
:clean
for /d /r src %%d in (__pycache__) do if exist "%%d" rd /s /q "%%d"
for %%d in (.venv build dist .mypy_cache .pytest_cache .ruff_cache) do if exist %%d rd /s /q %%d
exit /b 0
