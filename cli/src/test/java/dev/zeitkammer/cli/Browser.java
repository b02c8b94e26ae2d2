package dev.zeitkammer.cli;

import java.io.File;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.TimeUnit;
import java.util.logging.Level;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import java.util.stream.StreamSupport;
import org.openqa.selenium.By;
import org.openqa.selenium.Dimension;
import org.openqa.selenium.Keys;
import org.openqa.selenium.WebElement;
import org.openqa.selenium.chrome.ChromeDriver;
import org.openqa.selenium.chrome.ChromeDriverService;
import org.openqa.selenium.chrome.ChromeOptions;
import org.openqa.selenium.logging.LogEntry;
import org.openqa.selenium.logging.LogType;
import org.openqa.selenium.logging.LoggingPreferences;

/** A browser without a window; it is installed from the system's packages where it is not there. */
final class Browser implements AutoCloseable {

    private static final Pattern ADDRESS = Pattern.compile("\"url\":\"([^\"]*)\"");

    private final ChromeDriver driver;
    private final Path profile;

    /** A browser; empty where there is none and the system's packages have none either. */
    static Optional<Browser> open() throws IOException {
        Optional<File> binary = installed("chromium");
        Optional<File> control = installed("chromedriver");
        return binary.isPresent() && control.isPresent()
                ? Optional.of(new Browser(binary.get(), control.get()))
                : Optional.empty();
    }

    private Browser(File binary, File control) throws IOException {
        profile = Files.createTempDirectory("browser");
        LoggingPreferences logged = new LoggingPreferences();
        logged.enable(LogType.BROWSER, Level.ALL);
        logged.enable(LogType.PERFORMANCE, Level.ALL);
        ChromeOptions options = new ChromeOptions();
        options.setBinary(binary);
        options.addArguments(
                "--headless",
                "--no-sandbox",
                "--disable-gpu",
                "--disable-quic",
                "--no-first-run",
                "--disable-background-networking",
                "--disable-component-update",
                "--disable-sync",
                "--user-data-dir=" + profile);
        options.setCapability("goog:loggingPrefs", logged);
        driver = new ChromeDriver(
                new ChromeDriverService.Builder()
                        .usingDriverExecutable(control)
                        .usingAnyFreePort()
                        .build(),
                options);
        driver.manage().window().setSize(new Dimension(1280, 800));
    }

    private static Optional<File> installed(String program) {
        Optional<File> there = find(program);
        if (there.isPresent()) {
            return there;
        }
        try {
            run("apt-get", "update");
            run("apt-get", "install", "-y", "--no-install-recommends", "chromium", "chromium-driver");
        } catch (IOException noPackages) {
            return Optional.empty();
        }
        return find(program);
    }

    private static Optional<File> find(String program) {
        return Stream.of(System.getenv("PATH").split(File.pathSeparator))
                .map(folder -> new File(folder, program))
                .filter(File::canExecute)
                .findFirst();
    }

    private static void run(String... command) throws IOException {
        Process process = new ProcessBuilder(command)
                .redirectErrorStream(true)
                .redirectOutput(ProcessBuilder.Redirect.DISCARD)
                .start();
        try {
            if (!process.waitFor(15, TimeUnit.MINUTES)) {
                process.destroyForcibly();
            }
        } catch (InterruptedException interrupted) {
            Thread.currentThread().interrupt();
            throw new IOException(interrupted);
        }
    }

    void open(Path page) {
        driver.get(page.toUri().toString());
    }

    void size(int width, int height) {
        driver.manage().window().setSize(new Dimension(width, height));
    }

    WebElement find(By what) {
        return driver.findElement(what);
    }

    /** The column of a picture under its full name. */
    WebElement row(String section, String full) {
        return driver.findElement(By.cssSelector("#" + section + " [data-full='" + full + "']"));
    }

    void click(WebElement element) {
        driver.executeScript("arguments[0].dispatchEvent(new MouseEvent('click', {bubbles: true}))", element);
    }

    void type(CharSequence... keys) {
        driver.switchTo().activeElement().sendKeys(keys);
    }

    void tabTo(String wanted) {
        for (int presses = 0; presses < 60; presses++) {
            if (focused().contains(wanted)) {
                return;
            }
            type(Keys.TAB);
        }
        throw new AssertionError("the keyboard does not reach " + wanted + "; it is at " + focused());
    }

    /** What the element with the focus is called. */
    String focused() {
        return String.valueOf(
                ask("return document.activeElement.getAttribute('aria-label') || document.activeElement.textContent"));
    }

    /** The full names of all columns that are lit. */
    List<String> lit() {
        return driver.findElements(By.cssSelector(".row.lit")).stream()
                .map(row -> row.getDomAttribute("data-full"))
                .sorted()
                .toList();
    }

    Object ask(String script, Object... arguments) {
        return driver.executeScript(script, arguments);
    }

    Object wait(String script, Object... arguments) {
        return driver.executeAsyncScript(script, arguments);
    }

    /** What the page has complained of. */
    List<String> complaints() {
        return StreamSupport.stream(driver.manage().logs().get(LogType.BROWSER).spliterator(), false)
                .map(LogEntry::getMessage)
                .toList();
    }

    /** What a page asked for from elsewhere than files. */
    List<String> requests() {
        return StreamSupport.stream(
                        driver.manage().logs().get(LogType.PERFORMANCE).spliterator(), false)
                .map(LogEntry::getMessage)
                .filter(message -> message.contains("\"Network.requestWillBeSent\""))
                .filter(message -> message.contains("\"documentURL\":\"file:"))
                .flatMap(message -> ADDRESS.matcher(message).results().map(found -> found.group(1)))
                .filter(address -> !address.startsWith("file:") && !address.startsWith("data:"))
                .toList();
    }

    @Override
    public void close() {
        driver.quit();
        profile.toFile().deleteOnExit();
    }
}
