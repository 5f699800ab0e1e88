@echo off
rem The targets of the Makefile, for Windows.
setlocal
cd /d "%~dp0"
set TARGETS=setup build run test lint live{= if needs =} update{= end =} clean
for %%t in (%TARGETS%) do if "%1"=="%%t" goto %%t
echo make %TARGETS%
exit /b 2
:setup
:: {= if needs =}
go mod tidy || exit /b 1
go mod download
:: {= else =}
go version
:: {= end =}
exit /b %ERRORLEVEL%
:build
set CGO_ENABLED=0
go build -trimpath -o build\{= name =}.exe .\cmd\{= name =}
exit /b %ERRORLEVEL%
:run
call make.cmd build || exit /b 1
build\{= name =}.exe
exit /b %ERRORLEVEL%
:test
go test ./...
exit /b %ERRORLEVEL%
:lint
for /f %%f in ('gofmt -l .') do echo %%f is not formatted & exit /b 1
go vet ./... || exit /b 1
go run honnef.co/go/tools/cmd/staticcheck@v0.8.2 ./...
exit /b %ERRORLEVEL%
:live
go run github.com/air-verse/air@v1.67.4 -build.cmd "go build -o build\{= name =}.exe .\cmd\{= name =}" -build.bin build\{= name =}.exe -tmp_dir build
exit /b %ERRORLEVEL%
:: {= if needs =}
:update
go get -u ./... || exit /b 1
go mod tidy
exit /b %ERRORLEVEL%
:: {= end =}
:clean
if exist build rd /s /q build
exit /b 0
