package org.rainsieve.web.access;

import jakarta.servlet.http.HttpServletRequest;
import java.net.InetAddress;
import java.net.UnknownHostException;
import java.util.Arrays;
import java.util.List;
import java.util.stream.Stream;

/**
 * Who asks. Behind a proxy every connection comes from the proxy: only one that the set-up names is believed when it tells for
 * whom it asks (X-Forwarded-For). A request that was passed on, by whomever, is never taken for one of this machine.
 */
final class Clients {
    private static final List<String> PASSED_ON = List.of("X-Forwarded-For", "Forwarded", "X-Real-IP", "Via");

    private final List<InetAddress> proxies;

    Clients(List<String> proxies) {
        this.proxies = proxies.stream()
                .filter(proxy -> !proxy.isBlank())
                .flatMap(Clients::addresses)
                .toList();
    }

    private static Stream<InetAddress> addresses(String proxy) {
        try {
            return Arrays.stream(InetAddress.getAllByName(proxy.strip()));
        } catch (UnknownHostException e) {
            throw new SetUpException("SIEVE_PROXY names " + proxy + ", which is no address that is known here.");
        }
    }

    /** The address that tries are counted for. */
    String address(HttpServletRequest request) {
        String direct = request.getRemoteAddr();
        String told = request.getHeader("X-Forwarded-For");
        if (told == null || !proxies.contains(parsed(direct))) {
            return direct;
        }
        // What stands before the last one anybody may have written.
        return told.substring(told.lastIndexOf(',') + 1).strip();
    }

    /** Whether the request comes from this machine itself. */
    boolean here(HttpServletRequest request) {
        InetAddress direct = parsed(request.getRemoteAddr());
        return direct != null
                && direct.isLoopbackAddress()
                && PASSED_ON.stream().allMatch(header -> request.getHeader(header) == null);
    }

    private static InetAddress parsed(String address) {
        try {
            return InetAddress.getByName(address);
        } catch (UnknownHostException e) {
            return null;
        }
    }
}
