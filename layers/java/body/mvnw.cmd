@echo off
rem Runs Maven: the version that .mvn\wrapper\maven-wrapper.properties names if it was fetched before, else the one that is
rem installed. Without any, it fetches that version once, and checks its digest.
setlocal
cd /d "%~dp0"
for /f "usebackq tokens=1,* delims==" %%a in (".mvn\wrapper\maven-wrapper.properties") do set "%%a=%%b"
for %%f in ("%distributionUrl%") do set "NAME=%%~nf"
set "NAME=%NAME:-bin.tar=%"
if not defined MAVEN_USER_HOME set "MAVEN_USER_HOME=%USERPROFILE%\.m2"
set "FOLDER=%MAVEN_USER_HOME%\wrapper\%NAME%"
if exist "%FOLDER%\bin\mvn.cmd" goto run
where mvn >nul 2>nul && (call mvn %* & exit /b)
echo mvnw: fetching %distributionUrl% 1>&2
if not exist "%MAVEN_USER_HOME%\wrapper" md "%MAVEN_USER_HOME%\wrapper"
set "FILE=%FOLDER%-%RANDOM%.tar.gz"
powershell -NoProfile -Command "$ErrorActionPreference = 'Stop'; Invoke-WebRequest '%distributionUrl%' -OutFile '%FILE%'; if ((Get-FileHash '%FILE%').Hash -ne '%distributionSha256Sum%') { Remove-Item '%FILE%'; throw 'its digest is another one' }" || exit /b 1
tar -xzf "%FILE%" -C "%MAVEN_USER_HOME%\wrapper" || exit /b 1
del "%FILE%"
:run
call "%FOLDER%\bin\mvn.cmd" %*
exit /b %ERRORLEVEL%
