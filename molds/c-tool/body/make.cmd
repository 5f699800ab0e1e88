@echo off
rem The targets of the Makefile, for Windows.
rem {= if cmake =}It needs CMake and a compiler that CMake finds.{= else =}It needs gcc or another compiler that is called as gcc is: set CC to its name.{= end =}
setlocal
cd /d "%~dp0"
if "%CC%"=="" set CC=gcc
:: {= if program =}
if "%ARGS%"=="" set ARGS=README.md
:: {= end =}
if "%PREFIX%"=="" set PREFIX=%LOCALAPPDATA%\{= name =}
set FLAGS=-std={= standard.flag =} -Wall -Wextra -Wpedantic -Wshadow -Wconversion -Iinclude
set TARGETS=setup build{= if program =} run{= end =} test lint live install clean
for %%t in (%TARGETS%) do if "%1"=="%%t" goto %%t
echo make %TARGETS%
exit /b 2
:: {= if cmake =}
:setup
cmake --preset release || exit /b 1
cmake --preset check
exit /b %ERRORLEVEL%
:build
cmake --preset release || exit /b 1
cmake --build --preset release
exit /b %ERRORLEVEL%
:test
cmake --preset check || exit /b 1
cmake --build --preset check || exit /b 1
ctest --preset check
exit /b %ERRORLEVEL%
:install
call make.cmd build || exit /b 1
cmake --install build --config RelWithDebInfo --prefix "%PREFIX%"
exit /b %ERRORLEVEL%
:: {= else =}
:setup
%CC% --version
exit /b %ERRORLEVEL%
:build
if not exist build mkdir build
set MODULES=
for %%f in (src\*.c) do call :module "%%f"
:: {= if library =}
del /q build\*.o build\*.a 2>nul
pushd build
for %%f in (%MODULES%) do %CC% %FLAGS% -I..\include -O2 -c ..\%%f || exit /b 1
ar rcs lib{= name =}.a *.o || exit /b 1
popd
%CC% %FLAGS% -O2 -shared -o build\{= name =}.dll %MODULES% || exit /b 1
:: {= end =}
:: {= if program =}
%CC% %FLAGS% -O2 -o build\{= name =}.exe src\{= name =}.c %MODULES%
:: {= end =}
exit /b %ERRORLEVEL%
:module
if not "%~n1"=="{= name =}" set MODULES=%MODULES% %~1
exit /b 0
:test
if not exist build mkdir build
set MODULES=
for %%f in (src\*.c tests\*.c) do call :module "%%f"
%CC% %FLAGS% -o build\tests.exe %MODULES%{= if cmocka =} -lcmocka{= end =} || exit /b 1
build\tests.exe
exit /b %ERRORLEVEL%
:install
call make.cmd build || exit /b 1
if not exist "%PREFIX%" mkdir "%PREFIX%"
:: {= if program =}
copy /y build\{= name =}.exe "%PREFIX%" >nul || exit /b 1
:: {= end =}
:: {= if library =}
copy /y build\lib{= name =}.a "%PREFIX%" >nul || exit /b 1
copy /y build\{= name =}.dll "%PREFIX%" >nul || exit /b 1
xcopy /y /e /i /q include "%PREFIX%\include" >nul || exit /b 1
:: {= end =}
exit /b 0
:: {= end =}
:: {= if program =}
:run
call make.cmd build || exit /b 1
set PROGRAM=build\{= name =}.exe
:: {= if cmake =}
rem Some generators of CMake keep a folder for each configuration.
if exist build\RelWithDebInfo\{= name =}.exe set PROGRAM=build\RelWithDebInfo\{= name =}.exe
:: {= end =}
%PROGRAM% %ARGS%
exit /b %ERRORLEVEL%
:: {= end =}
:lint
for %%f in (src\*.c tests\*.c) do %CC% %FLAGS% -Werror -fsyntax-only %%f || exit /b 1
:: {= if lint =}
for %%f in (src\*.c tests\*.c tests\*.h include\{= name =}\*.h) do clang-format --dry-run -Werror %%f || exit /b 1
for %%f in (src\*.c tests\*.c) do clang-tidy --quiet %%f -- %FLAGS% || exit /b 1
:: {= end =}
exit /b 0
:live
powershell -NoProfile -Command "while (1) { cmd /c make.cmd test; $seen = Get-Date; while (-not (Get-ChildItem include,src,tests -Recurse -File | Where-Object LastWriteTime -gt $seen)) { Start-Sleep 1 } }"
exit /b %ERRORLEVEL%
:clean
if exist build rd /s /q build
exit /b 0
