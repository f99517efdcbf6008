package org.rainsieve.web.access;

import org.springframework.security.authentication.AuthenticationProvider;
import org.springframework.security.authentication.BadCredentialsException;
import org.springframework.security.authentication.LockedException;
import org.springframework.security.authentication.UsernamePasswordAuthenticationToken;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.authority.AuthorityUtils;

/**
 * Checks a password. Each try is counted before it is looked at, for the address it comes from, so that many at once are no way
 * round the wait.
 */
final class PasswordCheck implements AuthenticationProvider {
    private final AccessService access;
    private final Throttle throttle;

    PasswordCheck(AccessService access, Throttle throttle) {
        this.access = access;
        this.throttle = throttle;
    }

    /** Tries have to wait. */
    static final class WaitException extends LockedException {
        private static final long serialVersionUID = 1L;
        final long seconds;

        WaitException(long seconds) {
            super("too many tries");
            this.seconds = seconds;
        }
    }

    @Override
    public Authentication authenticate(Authentication tried) {
        String address = String.valueOf(tried.getDetails());
        long wait = throttle.begin(address, System.currentTimeMillis());
        if (wait > 0) {
            throw new WaitException(wait);
        }
        String hash = access.hash();
        if (hash == null || !access.encoder().matches(String.valueOf(tried.getCredentials()), hash)) {
            throw new BadCredentialsException("wrong password");
        }
        throttle.right(address);
        return UsernamePasswordAuthenticationToken.authenticated(
                AccessService.signedIn(hash), null, AuthorityUtils.createAuthorityList("ROLE_PHOTOGRAPHER"));
    }

    @Override
    public boolean supports(Class<?> type) {
        return UsernamePasswordAuthenticationToken.class.isAssignableFrom(type);
    }
}
