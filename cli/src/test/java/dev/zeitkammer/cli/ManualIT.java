package dev.zeitkammer.cli;

import static org.assertj.core.api.Assertions.assertThat;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.openqa.selenium.By;
import org.openqa.selenium.Keys;

/** The manual as pages, read in a real browser from their folder. */
class ManualIT {

    private static final Path PAGES =
            Path.of("../manual/target/manual").toAbsolutePath().normalize();

    @Test
    void wordsAreFoundByKeyboardAloneAndWithoutAServer() throws Exception {
        assumeTrue(Files.exists(PAGES.resolve("index.html")), "the module of the manual was not built");
        Optional<Browser> there = Browser.open();
        assumeTrue(there.isPresent(), "there is no chromium here, and it could not be installed");
        try (Browser browser = there.get()) {
            browser.open(PAGES.resolve("index.html"));
            browser.type("/");
            browser.type("extra steps");
            assertThat(browser.find(By.cssSelector("#hits a")).getText()).startsWith("Definitions · Extra steps");
            browser.type(Keys.ARROW_DOWN);
            assertThat(browser.focused()).startsWith("Definitions · Extra steps");
            browser.type(Keys.ENTER);
            assertThat(browser.ask("return location.href.split('/').pop()")).isEqualTo("definitions.html#extra-steps");
            assertThat(browser.ask("return document.getElementById('extra-steps').getBoundingClientRect().top < 200"))
                    .isEqualTo(true);
            browser.type("/", "edelweiss meadow");
            assertThat(browser.find(By.id("hits")).getText()).isEqualTo("No section has these words.");
            assertThat(browser.complaints()).isEmpty();
            assertThat(browser.requests()).isEmpty();
        }
    }
}
