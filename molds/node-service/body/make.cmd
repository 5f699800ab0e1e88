@echo off
rem The targets of the Makefile, for Windows: make setup, make build, make run, make test, {= if lint =}make lint, {= end =}make watch, make clean.
setlocal
cd /d "%~dp0"
set SETTINGS=
if exist .env set SETTINGS=--env-file=.env
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
node --version
if errorlevel 1 exit /b 1
:: {= if needs =}
call {= manager =} install
:: {= end =}
exit /b %ERRORLEVEL%
:build
:: {= if ts =}
call {= manager =} run build
:: {= else =}
set FAILED=
for %%f in (src\*.js test\*.js) do call :check "%%f"
if defined FAILED exit /b 1
:: {= end =}
exit /b %ERRORLEVEL%
:run
:: {= if ts =}
call {= manager =} run build
if errorlevel 1 exit /b 1
:: {= end =}
node %SETTINGS% {= out =}src/main.js
exit /b %ERRORLEVEL%
:test
:: {= if ts =}
call {= manager =} run build
if errorlevel 1 exit /b 1
:: {= end =}
setlocal enabledelayedexpansion
set TESTS=
for %%f in ({= out.replace("/", "\\") =}test\*.test.js) do set TESTS=!TESTS! %%f
node --test !TESTS!
exit /b %ERRORLEVEL%
:: {= if lint =}
:lint
call node_modules\.bin\oxlint --deny-warnings src test
exit /b %ERRORLEVEL%
:: {= end =}
:watch
:: {= if ts =}
call {= manager =} run build
if errorlevel 1 exit /b 1
start /b {= manager =} run build {= if manager == "npm" =}-- {= end =}--watch --preserveWatchOutput
:: {= end =}
node --watch %SETTINGS% {= out =}src/main.js
exit /b %ERRORLEVEL%
:clean
if exist dist rd /s /q dist
if exist node_modules rd /s /q node_modules
exit /b 0
:: {= if not ts =}
:check
node --check %1
if errorlevel 1 set FAILED=yes
exit /b 0
:: {= end =}
