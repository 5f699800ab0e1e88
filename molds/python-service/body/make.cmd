@echo off
rem The targets of the Makefile, for Windows: make setup, make run, make test, make clean.
setlocal
cd /d "%~dp0"
if "%PYTHON%"=="" set PYTHON=py -3
set PYTHONPATH=src
if "%1"=="setup" goto setup
if "%1"=="run" goto run
if "%1"=="test" goto test
if "%1"=="clean" goto clean
echo make setup   check that this machine can run it
echo make run     start it (PORT, HOST, LOG_FORMAT and LOG_LEVEL are settings)
echo make test    run the tests
echo make clean   remove what the other targets made
exit /b 0
:setup
%PYTHON% -m compileall -q src tests
exit /b %ERRORLEVEL%
:run
%PYTHON% -m {= module =}
exit /b %ERRORLEVEL%
:test
%PYTHON% -m unittest discover -s tests
exit /b %ERRORLEVEL%
:clean
for /d /r %%d in (__pycache__) do if exist "%%d" rd /s /q "%%d"
if exist build rd /s /q build
if exist dist rd /s /q dist
exit /b 0
