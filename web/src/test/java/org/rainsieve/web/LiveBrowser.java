package org.rainsieve.web;

import com.microsoft.playwright.Browser;
import com.microsoft.playwright.BrowserType;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.Playwright;
import com.microsoft.playwright.assertions.PlaywrightAssertions;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;

/** A page of the system's Chromium that remembers what went wrong in it. */
final class LiveBrowser implements AutoCloseable {
    final Page page;
    final List<String> problems = new ArrayList<>();
    private final Playwright playwright =
            Playwright.create(new Playwright.CreateOptions().setEnv(Map.of("PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD", "1")));

    LiveBrowser() {
        Browser browser = playwright
                .chromium()
                .launch(new BrowserType.LaunchOptions()
                        .setExecutablePath(Path.of("/usr/bin/chromium"))
                        .setArgs(List.of(
                                "--headless",
                                "--no-sandbox",
                                "--disable-gpu",
                                "--disable-quic",
                                "--no-first-run",
                                "--disable-background-networking",
                                "--disable-component-update",
                                "--disable-sync")));
        page = browser.newPage(new Browser.NewPageOptions().setViewportSize(1280, 800));
        // A slow machine is no failure.
        page.setDefaultTimeout(120_000);
        PlaywrightAssertions.setDefaultAssertionTimeout(120_000);
        page.onConsoleMessage(message -> {
            if (message.type().equals("error")) {
                problems.add(message.text() + " " + message.location());
            }
        });
        page.onPageError(problems::add);
    }

    @Override
    public void close() {
        playwright.close();
    }
}
