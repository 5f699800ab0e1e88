@echo off
rem The targets of the Makefile, for Windows.
setlocal
cd /d "%~dp0"
set TARGETS=setup build run test lint live update clean
for %%t in (%TARGETS%) do if "%1"=="%%t" goto %%t
echo make %TARGETS%
exit /b 2
{= place "rust-targets-cmd" =}
:run
cargo run --quiet
exit /b %ERRORLEVEL%
:live
powershell -NoProfile -Command "while (1) { $service = Start-Process cargo -ArgumentList 'run --quiet' -NoNewWindow -PassThru; $seen = Get-Date; while (-not (Get-ChildItem src,Cargo.toml -Recurse -File | Where-Object LastWriteTime -gt $seen)) { Start-Sleep 1 }; taskkill /T /F /PID $service.Id }"
exit /b %ERRORLEVEL%
