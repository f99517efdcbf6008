package org.rainsieve.web.access;

import jakarta.servlet.http.HttpServletRequest;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.security.MessageDigest;
import java.security.SecureRandom;
import java.util.HexFormat;
import java.util.Set;
import org.rainsieve.web.files.OwnFiles;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Lets {@code ./sieve open} hand files over where a password is set: who can read the token in the home folder owns the
 * application.
 */
public final class OpenToken {
    public static final String HEADER = "X-Sieve-Open";
    private static final Logger LOG = LoggerFactory.getLogger(OpenToken.class);
    private static final String FILE = "open.token";
    private static final Set<String> PATHS = Set.of("/intake/open", "/intake/opened");

    private final String token;

    /** @param home folder of the application; empty for none, and so no token */
    OpenToken(String home) {
        byte[] random = new byte[32];
        new SecureRandom().nextBytes(random);
        String made = HexFormat.of().formatHex(random);
        String kept = null;
        if (!home.isEmpty()) {
            try {
                OwnFiles.replaceSecret(file(home), made);
                kept = made;
            } catch (IOException e) {
                LOG.warn("The token for ./sieve open could not be kept in {}", home);
            }
        }
        token = kept;
    }

    public static Path file(String home) {
        return Path.of(home).resolve(FILE);
    }

    boolean in(HttpServletRequest request) {
        String told = request.getHeader(HEADER);
        return token != null
                && told != null
                && request.getMethod().equals("POST")
                && PATHS.contains(request.getServletPath())
                && MessageDigest.isEqual(told.getBytes(StandardCharsets.UTF_8), token.getBytes(StandardCharsets.UTF_8));
    }
}
