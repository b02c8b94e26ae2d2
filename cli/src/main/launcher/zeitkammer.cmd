@echo off
rem Runs the program. At its first start it keeps the classes that it loads in a form that later starts need not prepare again.
setlocal
set "APP=%~dp0"
set "ARCHIVE=%APP%classes.jsa"
set "JAVA=java"
if defined JAVA_HOME set "JAVA=%JAVA_HOME%\bin\java"
set "OPTIONS=-XX:+UseSerialGC -XX:TieredStopAtLevel=1 -Dfile.encoding=UTF-8 -Xshare:auto -Xlog:disable --enable-native-access=ALL-UNNAMED"

"%JAVA%" -version >nul 2>&1
if errorlevel 1 (
    echo zeitkammer: no Java found; install Java 17 or newer, or set JAVA_HOME 1>&2
    exit /b 1
)

if not exist "%ARCHIVE%" (
    "%JAVA%" %OPTIONS% -XX:ArchiveClassesAtExit="%ARCHIVE%" -cp "%APP%lib\zeitkammer.jar" dev.zeitkammer.cli.Main demo "%TEMP%\zeitkammer-%RANDOM%" >nul 2>&1
    if not exist "%ARCHIVE%" type nul >"%ARCHIVE%" 2>nul
)

if not defined ZEITKAMMER_LAUNCHER set "ZEITKAMMER_LAUNCHER=%APP%zeitkammer"
"%JAVA%" %OPTIONS% -XX:SharedArchiveFile="%ARCHIVE%" -cp "%APP%lib\zeitkammer.jar" dev.zeitkammer.cli.Main %*
exit /b %ERRORLEVEL%
