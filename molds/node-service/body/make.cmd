@echo off
rem The targets of the Makefile, for Windows.
setlocal
cd /d "%~dp0"
set TARGETS=setup build run test lint live{= if tokens =} token{= end =}{= if needs =} update{= end =} clean
for %%t in (%TARGETS%) do if "%1"=="%%t" goto %%t
echo make %TARGETS%
exit /b 2
{= place "node-targets-cmd" =}
:build
:: {= if ts =}
if exist dist rd /s /q dist
call {= manager =} run build
:: {= else =}
for /r src %%f in (*.js) do node --check "%%f" || exit /b 1
:: {= end =}
exit /b %ERRORLEVEL%
:run
:: {= if ts =}
call make.cmd build || exit /b 1
:: {= end =}
node --env-file-if-exists=.env {= out =}/{= name =}.js
exit /b %ERRORLEVEL%
:test
call {= manager =} run test
exit /b %ERRORLEVEL%
:lint
:: {= if needs =}
call {= manager =} run lint || exit /b 1
call {= manager =} run typecheck
:: {= else =}
for /r src %%f in (*.js) do node --check "%%f" || exit /b 1
:: {= end =}
exit /b %ERRORLEVEL%
:live
set SETTINGS=
if exist .env set SETTINGS=--env-file=.env
node --watch %SETTINGS% src/{= name =}.{= ext =}
exit /b %ERRORLEVEL%
:: {= if tokens =}
:token
node --env-file-if-exists=.env src/tokens/make.{= ext =} %2 %3
exit /b %ERRORLEVEL%
:: {= end =}
:clean
if exist dist rd /s /q dist
:: {= if needs =}
if exist node_modules rd /s /q node_modules
:: {= end =}
exit /b 0
