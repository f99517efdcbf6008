package org.rainsieve.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import org.junit.jupiter.api.Test;

/** The scripts' own tests, by Node's runner: geometry of views and crops, and who gets a key. */
class ScriptsTest {
    @Test
    void geometryAndKeys() throws Exception {
        Process node = new ProcessBuilder("node", "--test", "src/main/frontend/scripts/test/")
                .redirectErrorStream(true)
                .start();
        String told = new String(node.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        assertThat(node.waitFor()).as(told).isZero();
        assertThat(told).contains("# fail 0").doesNotContain("# pass 0");
    }
}
