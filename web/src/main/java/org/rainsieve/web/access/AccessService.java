package org.rainsieve.web.access;

import java.net.InetAddress;
import java.net.UnknownHostException;
import java.util.List;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.dao.DataAccessException;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.security.crypto.bcrypt.BCryptPasswordEncoder;
import org.springframework.security.crypto.password.PasswordEncoder;
import org.springframework.stereotype.Service;

/** Whether a password is asked for, and which. Without one only this machine is answered. */
@Service
public class AccessService {
    private static final int SHORTEST = 10;
    /** What bcrypt looks at. */
    private static final int LONGEST_BYTES = 72;

    private static final long KNOWN_MS = 2000;

    private final JdbcTemplate jdbc;
    private final String address;
    private final Throttle changes = new Throttle();
    private final PasswordEncoder encoder = new BCryptPasswordEncoder(12);
    private String hash;
    private long knownAt;

    AccessService(JdbcTemplate jdbc, @Value("${server.address:127.0.0.1}") String address) {
        this.jdbc = jdbc;
        this.address = address;
    }

    PasswordEncoder encoder() {
        return encoder;
    }

    /** Asked on every request, so not always of the database. */
    synchronized String hash() {
        if (System.currentTimeMillis() - knownAt > KNOWN_MS) {
            try {
                List<String> found = jdbc.queryForList("SELECT password_hash FROM access", String.class);
                hash = found.isEmpty() ? null : found.get(0);
            } catch (DataAccessException e) {
                // While the database is away what was asked for last is asked for still.
                if (knownAt == 0) {
                    throw e;
                }
            }
            knownAt = System.currentTimeMillis();
        }
        return hash;
    }

    /** Name of whoever signed in with the password of that hash: with another password it is nobody's any more. */
    static String signedIn(String hash) {
        return "photographer " + Integer.toHexString(hash.hashCode()) + hash.substring(hash.length() - 8);
    }

    /** Whether a name is that of somebody who signed in with today's password. */
    boolean isSignedIn(String name) {
        String known = hash();
        return known != null && signedIn(known).equals(name);
    }

    public boolean required() {
        return hash() != null;
    }

    /** @throws IllegalArgumentException in plain words for one that is too short or too long */
    public synchronized void set(String password) {
        if (password.length() < SHORTEST) {
            throw new IllegalArgumentException("A password needs at least " + SHORTEST + " characters.");
        }
        if (password.getBytes(java.nio.charset.StandardCharsets.UTF_8).length > LONGEST_BYTES) {
            throw new IllegalArgumentException("A password may be no longer than " + LONGEST_BYTES + " bytes.");
        }
        jdbc.update("REPLACE INTO access (id, password_hash) VALUES (1, ?)", encoder.encode(password));
        knownAt = 1;
    }

    /**
     * Sets a password by somebody who knows the one until now.
     *
     * @param address whose tries are counted
     * @throws IllegalArgumentException in plain words
     */
    void change(String now, String next, String address) {
        if (required()) {
            long wait = changes.begin(address, System.currentTimeMillis());
            if (wait > 0) {
                throw new IllegalArgumentException("Too many tries. Wait " + wait + " s.");
            }
            if (!encoder.matches(now, hash())) {
                throw new IllegalArgumentException("That is not the password until now.");
            }
            changes.right(address);
        }
        set(next);
    }

    public synchronized void remove() {
        jdbc.update("DELETE FROM access");
        knownAt = 1;
    }

    /** Why this installation must not start as it is set up; null when it may. */
    public String refusal() {
        boolean here;
        try {
            here = InetAddress.getByName(address).isLoopbackAddress();
        } catch (UnknownHostException e) {
            return "SIEVE_ADDRESS is " + address + ", which is no address of this machine.";
        }
        return here || required()
                ? null
                : "Rain Sieve is to listen on " + address
                        + ", where others can reach it. Set a password first: ./sieve password";
    }
}
