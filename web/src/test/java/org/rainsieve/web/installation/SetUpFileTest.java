package org.rainsieve.web.installation;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.web.setup.NotPossibleException;

/** What the page sets reaches the next start by the script's own reader, and never goes before the environment. */
class SetUpFileTest {
    @TempDir
    Path home;

    @Test
    void theScriptReadsWhatThePageWrote() throws Exception {
        Path photos = Files.createDirectories(home.resolve("photos of 2026"));
        SetUpFile.write(
                home, Map.of("SIEVE_ROOTS", photos.toString(), "SIEVE_QUIET", "08:00-18:00", "SIEVE_CORES", "3"));
        assertThat(SetUpFile.read(home))
                .containsEntry("SIEVE_ROOTS", photos.toString())
                .hasSize(3);
        // Hands go into the file, too: what is no line of ours does nothing.
        Files.writeString(
                home.resolve("set-up.conf"),
                Files.readString(home.resolve("set-up.conf")) + "PATH=/nowhere\n$(touch made)\nSIEVE_MEMORY_MB=900");
        assertThat(started(Map.of("SIEVE_QUIET", "01:00-02:00"))).isEqualTo(photos + "|01:00-02:00|3|900| SIEVE_QUIET");
        assertThat(home.resolve("made")).doesNotExist();
    }

    /** The script's function alone, in a shell of its own. */
    private String started(Map<String, String> environment) throws IOException, InterruptedException {
        String script = Files.readString(Path.of("..", "sieve"));
        int from = script.indexOf("set_up_file() {");
        String function = script.substring(from, script.indexOf("\n}\n", from) + 3);
        ProcessBuilder shell = new ProcessBuilder(
                "bash",
                "-c",
                "set -euo pipefail; home=$PWD\n" + function
                        + "set_up_file; printf '%s|%s|%s|%s|%s' \"$SIEVE_ROOTS\" \"$SIEVE_QUIET\" \"$SIEVE_CORES\""
                        + " \"$SIEVE_MEMORY_MB\" \"$SIEVE_GIVEN\"");
        shell.directory(home.toFile());
        shell.environment().keySet().removeIf(name -> name.startsWith("SIEVE_"));
        shell.environment().putAll(environment);
        Process process = shell.redirectErrorStream(true).start();
        String told = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        assertThat(process.waitFor()).as(told).isZero();
        return told;
    }

    @Test
    void whatCannotBeUsedIsRefusedInWords() {
        for (String[] wrong : new String[][] {
            {"SIEVE_ROOTS", "/nowhere/at/all", "There is no folder"},
            {"SIEVE_RETURNS", "returns", "whole path"},
            {"SIEVE_QUIET", "at night", "two times of day"},
            {"SIEVE_CORES", "0", "outside 1 to 256"},
            {"SIEVE_MEMORY_MB", "much", "not a whole number"},
            {"SIEVE_QUIET", "08:00-18:00\nSIEVE_ROOTS=/", "one line"}
        }) {
            assertThatThrownBy(() -> SetUpFile.write(home, Map.of(wrong[0], wrong[1])))
                    .as(wrong[0])
                    .isInstanceOf(NotPossibleException.class)
                    .hasMessageContaining(wrong[2]);
        }
        assertThat(home.resolve("set-up.conf")).doesNotExist();
    }
}
