@echo off
rem The targets of the Makefile, for Windows: make setup, make build, {= if program =}make run, {= end =}make test, {= if lint =}make lint, {= end =}make watch, make clean.
rem {= if cmake =}It needs CMake and a compiler that CMake finds.{= else =}It needs gcc or another compiler that is called as gcc is: set CC to its name.{= end =}
setlocal
cd /d "%~dp0"
if "%CC%"=="" set CC=gcc
if "%ARGS%"=="" set ARGS=README.md
if "%1"=="setup" goto setup
if "%1"=="build" goto build
:: {= if program =}
if "%1"=="run" goto run
:: {= end =}
if "%1"=="test" goto test
:: {= if lint =}
if "%1"=="lint" goto lint
:: {= end =}
if "%1"=="watch" goto watch
if "%1"=="clean" goto clean
echo make setup, make build, {= if program =}make run, {= end =}make test, {= if lint =}make lint, {= end =}make watch, make clean
exit /b 0
:setup
{= if cmake =}cmake --version{= else =}%CC% --version{= end =}
exit /b %ERRORLEVEL%
:build
:: {= if cmake =}
cmake -S . -B build
if errorlevel 1 exit /b 1
cmake --build build --config Release
exit /b %ERRORLEVEL%
:: {= else =}
if not exist build mkdir build
set OBJECTS=
set FAILED=
for %%f in (src\*.c) do call :compile "%%f"
if defined FAILED exit /b 1
:: {= if library =}
ar rcs build\lib{= prefix =}.a %OBJECTS%
if errorlevel 1 exit /b 1
:: {= end =}
:: {= if program =}
%CC% -std={= standard =} -Wall -Wextra -Wpedantic -O2 -Iinclude -o build\{= name =}.exe src\main.c %OBJECTS%
:: {= end =}
exit /b %ERRORLEVEL%
:: {= end =}
:: {= if program =}
:run
call "%~f0" build
if errorlevel 1 exit /b 1
set PROGRAM=build\{= name =}.exe
:: {= if cmake =}
rem Some generators of CMake keep a folder for each configuration.
if exist build\Release\{= name =}.exe set PROGRAM=build\Release\{= name =}.exe
:: {= end =}
%PROGRAM% %ARGS%
exit /b %ERRORLEVEL%
:: {= end =}
:test
:: {= if cmake =}
call "%~f0" build
if errorlevel 1 exit /b 1
ctest --test-dir build -C Release --output-on-failure
:: {= else =}
if not exist build mkdir build
set SOURCES=
for %%f in (tests\*.c src\*.c) do call :take "%%f"
%CC% -std={= standard =} -Wall -Wextra -Wpedantic -Iinclude -o build\tests.exe %SOURCES%
if errorlevel 1 exit /b 1
build\tests.exe
:: {= end =}
exit /b %ERRORLEVEL%
:: {= if lint =}
:lint
set FAILED=
for %%f in (src\*.c tests\*.c) do call :strictly "%%f"
if defined FAILED exit /b 1
exit /b 0
:: {= end =}
:watch
powershell -NoProfile -Command "while (1) { cmd /c make.cmd test; $seen = Get-Date; while (-not (Get-ChildItem include,src,tests -Recurse -File | Where-Object LastWriteTime -gt $seen)) { Start-Sleep 1 } }"
exit /b %ERRORLEVEL%
:clean
if exist build rd /s /q build
exit /b 0
:: {= if not cmake =}
:compile
if "%~n1"=="main" exit /b 0
%CC% -std={= standard =} -Wall -Wextra -Wpedantic -O2 -Iinclude -c -o build\%~n1.o %1
if errorlevel 1 set FAILED=yes
set OBJECTS=%OBJECTS% build\%~n1.o
exit /b 0
:take
if not "%~n1"=="main" set SOURCES=%SOURCES% %1
exit /b 0
:: {= end =}
:: {= if lint =}
:strictly
%CC% -std={= standard =} -Wall -Wextra -Wpedantic -Wshadow -Wconversion -Werror -fsyntax-only -Iinclude %1
if errorlevel 1 set FAILED=yes
exit /b 0
:: {= end =}
