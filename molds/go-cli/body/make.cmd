@echo off
rem The targets of the Makefile, for Windows.
setlocal
cd /d "%~dp0"
if "%ARGS%"=="" set ARGS=count README.md
set TARGETS=setup build run test lint live{= if cobra =} update{= end =} clean
for %%t in (%TARGETS%) do if "%1"=="%%t" goto %%t
echo make %TARGETS%
exit /b 2
{= place "go-targets-cmd" =}
:build
set CGO_ENABLED=0
go build -trimpath -o build\{= name =}.exe .\cmd\{= name =}
exit /b %ERRORLEVEL%
:run
call make.cmd build || exit /b 1
build\{= name =}.exe %ARGS%
exit /b %ERRORLEVEL%
:live
go run github.com/air-verse/air@v1.67.4 -build.cmd "go vet ./..." -build.full_bin "go test ./..." -tmp_dir build
exit /b %ERRORLEVEL%
:clean
if exist build rd /s /q build
exit /b 0
