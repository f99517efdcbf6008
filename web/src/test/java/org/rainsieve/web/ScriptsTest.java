package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.File;
import java.nio.charset.StandardCharsets;
import org.junit.jupiter.api.Test;

/** The scripts' own tests, by Node's runner: geometry of views and crops, and who gets a key. */
class ScriptsTest {
    @Test
    void geometryAndKeys() throws Exception {
        assertThat(node("node", "--test", "scripts/test/")).contains("# fail 0").doesNotContain("# pass 0");
    }

    /** A linter looks for what is never used or never defined, a formatter for lines that nobody can read. */
    @Test
    void scriptsAreInOrder() throws Exception {
        assertThat(node("npm", "run", "-s", "check")).contains("All matched files");
    }

    private static String node(String... command) throws Exception {
        Process process = new ProcessBuilder(command)
                .directory(new File("src/main/frontend"))
                .redirectErrorStream(true)
                .start();
        String told = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        assertThat(process.waitFor()).as(told).isZero();
        return told;
    }
}
