@echo off
rem The targets of the Makefile, for Windows.
setlocal
cd /d "%~dp0"
if "%ARGS%"=="" set ARGS=count README.md
set TARGETS=setup build run test lint live{= if clap =} update{= end =} clean
for %%t in (%TARGETS%) do if "%1"=="%%t" goto %%t
echo make %TARGETS%
exit /b 2
{= place "rust-targets-cmd" =}
:run
cargo run --quiet -- %ARGS%
exit /b %ERRORLEVEL%
:live
powershell -NoProfile -Command "while (1) { cargo test --quiet; $seen = Get-Date; while (-not (Get-ChildItem src,tests,Cargo.toml -Recurse -File | Where-Object LastWriteTime -gt $seen)) { Start-Sleep 1 } }"
exit /b %ERRORLEVEL%
