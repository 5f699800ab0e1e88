@echo off
rem The targets of the Makefile, for Windows.
setlocal
cd /d "%~dp0"
set TARGETS=setup build run test{= if browser =} test-browser{= end =} lint live{= if packed =} update{= end =} clean
for %%t in (%TARGETS%) do if "%1"=="%%t" goto target
echo make %TARGETS%
exit /b 2
:target
:: {= if paired =}
if "%API%"=="" set API={= api =}
for %%p in ("%API::=" "%") do set SERVICE_PORT=%%~p
for %%t in (setup build test lint clean) do if "%1"=="%%t" call :service %1 || exit /b 1
:: {= end =}
goto %1
{= place "node-targets-cmd" =}
:build
call {= manager =} run build
exit /b %ERRORLEVEL%
:run
call make.cmd build || exit /b 1
:: {= if paired =}
start "{= service =}" /b cmd /c "set PORT=%SERVICE_PORT%&& cd {= service =}&& make.cmd run"
:: {= end =}
call {= manager =} run start
exit /b %ERRORLEVEL%
:test
call {= manager =} run test
exit /b %ERRORLEVEL%
:: {= if browser =}
:test-browser
call make.cmd build || exit /b 1
call {= manager =} run test-browser
exit /b %ERRORLEVEL%
:: {= end =}
:lint
:: {= if packed =}
call {= manager =} run lint || exit /b 1
call {= manager =} run typecheck
:: {= else =}
for %%d in (pages tools tests) do for %%f in (%%d\*.js) do node --check "%%f" || exit /b 1
node tools/build.js --check
:: {= end =}
exit /b %ERRORLEVEL%
:live
:: {= if paired =}
start "{= service =}" /b cmd /c "set PORT=%SERVICE_PORT%&& cd {= service =}&& make.cmd live"
:: {= end =}
call {= manager =} run live
exit /b %ERRORLEVEL%
:clean
if exist dist rd /s /q dist
:: {= if packed =}
for %%d in (coverage node_modules) do if exist %%d rd /s /q %%d
:: {= end =}
exit /b 0
:: {= if paired =}
:service
setlocal
set PORT=%SERVICE_PORT%
cd {= service =}
call make.cmd %1
exit /b %ERRORLEVEL%
:: {= end =}
