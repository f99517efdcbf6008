package org.rainsieve.web.access;

import java.io.BufferedReader;
import java.io.Console;
import java.io.IOException;
import java.io.InputStream;
import java.io.InputStreamReader;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;

/** {@code ./sieve password}: sets the password, read from the terminal or the standard input; {@code --remove} takes it away. */
public final class PasswordCommand {
    private PasswordCommand() {}

    public static int run(String[] args, AccessService access, InputStream in, PrintStream out, PrintStream err) {
        if (args.length == 1 && args[0].equals("--remove")) {
            access.remove();
            out.println("The password is removed. Only this machine is answered from now on.");
            return 0;
        }
        if (args.length > 0) {
            err.println("Usage: ./sieve password [--remove]");
            return 2;
        }
        try {
            access.set(read(in));
        } catch (IllegalArgumentException | IOException e) {
            err.println(e.getMessage() + " Nothing was changed.");
            return 2;
        }
        out.println(
                "The password is set. It is asked for from now on; SIEVE_ADDRESS may now be an address of your network.");
        return 0;
    }

    private static String read(InputStream in) throws IOException {
        Console console = System.console();
        if (console != null) {
            char[] typed = console.readPassword("New password: ");
            char[] again = console.readPassword("Once more: ");
            if (typed == null || again == null || !new String(typed).equals(new String(again))) {
                throw new IllegalArgumentException("The two are not the same.");
            }
            return new String(typed);
        }
        String line = new BufferedReader(new InputStreamReader(in, StandardCharsets.UTF_8)).readLine();
        return line == null ? "" : line;
    }
}
