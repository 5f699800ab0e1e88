@echo off
rem The targets of the Makefile, for Windows.
setlocal
cd /d "%~dp0"
if "%PYTHON%"=="" set PYTHON=py -3
set PY=.venv\Scripts\python
if "%PORT%"=="" set PORT={= port =}
:: {= if packaged =}
if "%LANGUAGE%"=="" set LANGUAGE={= first =}
:: {= end =}
set TARGETS=setup build run test lint live{= if packaged =} update{= end =}{= if 'versions' in extras =} versions{= end =} clean
for %%t in (%TARGETS%) do if "%1"=="%%t" goto %%t
echo make %TARGETS%
exit /b 2
{= place "python-setup-cmd" =}
:build
:: {= if packaged =}
call :ready || exit /b 1
if exist build\site rd /s /q build\site
:: {= else =}
set PY=%PYTHON%
:: {= end =}
:: {= if sphinx =}
:: {= for l in languages =}
%PY% -m sphinx --quiet --fail-on-warning --builder dirhtml -c pages -D language={= l =} -d build\doctrees\{= l =} pages\{= l =} build\site\{= l =} || exit /b 1
:: {= end =}
:: {= else if mkdocs =}
:: {= for l in languages =}
%PY% -m mkdocs build --strict --config-file sites\{= l =}.yml || exit /b 1
:: {= end =}
:: {= else =}
%PY% tools\build.py || exit /b 1
:: {= end =}
%PY% tools\publish.py frame
exit /b %ERRORLEVEL%
:run
call make.cmd build || exit /b 1
{= if packaged =}%PY%{= else =}%PYTHON%{= end =} tools\publish.py serve
exit /b %ERRORLEVEL%
:test
call make.cmd build || exit /b 1
{= if packaged =}%PY%{= else =}%PYTHON%{= end =} tools\publish.py check
exit /b %ERRORLEVEL%
:live
:: {= if sphinx =}
call :ready || exit /b 1
%PY% -m sphinx_autobuild --port %PORT% -b dirhtml -c pages -D language=%LANGUAGE% pages\%LANGUAGE% build\live\%LANGUAGE%
:: {= else if mkdocs =}
call :ready || exit /b 1
%PY% -m mkdocs serve --livereload --dev-addr 127.0.0.1:%PORT% --config-file sites\%LANGUAGE%.yml
:: {= else =}
%PYTHON% tools\live.py
:: {= end =}
exit /b %ERRORLEVEL%
:: {= if 'versions' in extras =}
:versions
call make.cmd build || exit /b 1
{= if packaged =}%PY%{= else =}%PYTHON%{= end =} tools\versions.py
exit /b %ERRORLEVEL%
:: {= end =}
:clean
for %%d in (.venv build .mypy_cache .ruff_cache) do if exist %%d rd /s /q %%d
exit /b 0
:ready
if exist .venv\Scripts\ruff.exe exit /b 0
call make.cmd setup
exit /b %ERRORLEVEL%
