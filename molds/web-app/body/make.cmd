@echo off
rem The targets of the Makefile, for Windows: make setup, make build, make run, make test{= if lint =}, make lint{= end =}, make watch, make clean.
setlocal enabledelayedexpansion
cd /d "%~dp0"
if "%1"=="setup" goto setup
if "%1"=="build" goto build
if "%1"=="run" goto run
if "%1"=="test" goto test
:: {= if lint =}
if "%1"=="lint" goto lint
:: {= end =}
if "%1"=="watch" goto watch
if "%1"=="clean" goto clean
echo make setup, make build, make run, make test{= if lint =}, make lint{= end =}, make watch, make clean
exit /b 0
:setup
{= if needs =}call npm install{= else =}node --version{= end =}
exit /b %ERRORLEVEL%
:build
node tools/build.js
exit /b %ERRORLEVEL%
:run
node tools/build.js
if errorlevel 1 exit /b 1
node tools/serve.js
exit /b %ERRORLEVEL%
:test
node tools/build.js
if errorlevel 1 exit /b 1
:: {= if ts =}
call npx {= if view == "vue" =}vue-tsc{= else =}tsc{= end =}
if errorlevel 1 exit /b 1
:: {= end =}
set TESTS=
for %%f in (test\*.test.js) do set TESTS=!TESTS! %%f
node --test !TESTS!
exit /b %ERRORLEVEL%
:: {= if lint =}
:lint
call npx oxlint --deny-warnings src test tools
exit /b %ERRORLEVEL%
:: {= end =}
:watch
{= if bundled =}call npx vite{= else =}node tools/serve.js --watch{= end =}
exit /b %ERRORLEVEL%
:clean
if exist dist rd /s /q dist
if exist build rd /s /q build
:: {= if needs =}
if exist node_modules rd /s /q node_modules
:: {= end =}
exit /b 0
