package org.rainsieve.web.access;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.net.InetAddress;
import java.net.URI;
import java.net.UnknownHostException;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.security.authentication.AnonymousAuthenticationToken;
import org.springframework.security.authorization.AuthorizationDecision;
import org.springframework.security.config.Customizer;
import org.springframework.security.config.annotation.web.builders.HttpSecurity;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.userdetails.User;
import org.springframework.security.core.userdetails.UserDetailsService;
import org.springframework.security.core.userdetails.UsernameNotFoundException;
import org.springframework.security.crypto.password.PasswordEncoder;
import org.springframework.security.web.SecurityFilterChain;
import org.springframework.security.web.authentication.UsernamePasswordAuthenticationFilter;
import org.springframework.security.web.context.SecurityContextHolderFilter;
import org.springframework.security.web.header.writers.ReferrerPolicyHeaderWriter.ReferrerPolicy;
import org.springframework.security.web.header.writers.StaticHeadersWriter;
import org.springframework.web.filter.OncePerRequestFilter;

/**
 * The application listens on loopback. A page elsewhere must not be able to use it through the photographer's browser:
 * the Host must be ours (no re-bound names), a foreign Origin is refused, every change carries a CSRF token, and only our
 * own scripts run. Where a password was set, nothing is answered before it was given.
 */
@Configuration
@ConditionalOnWebApplication
class SecurityConfiguration {
    private static final Set<String> OWN_NAMES = Set.of("127.0.0.1", "localhost", "[::1]");

    /** What the page to sign in on is made of. */
    private static final Set<String> OPEN = Set.of("/sign-in", "/app.css");

    private static final Set<String> FOR_THIS_MACHINE = Set.of("/health", "/metrics");

    private final AccessService access;
    private final Throttle throttle = new Throttle();
    private final Set<String> names;

    /** @param more names by which this machine is called in its network, next to its address */
    SecurityConfiguration(
            AccessService access,
            @Value("${sieve.names:}") List<String> more,
            @Value("${server.address:127.0.0.1}") String address) {
        this.access = access;
        String refusal = access.refusal();
        if (refusal != null) {
            throw new SetUpException(refusal);
        }
        names = new HashSet<>(OWN_NAMES);
        names.addAll(more);
        names.add(address.contains(":") ? "[" + address + "]" : address);
    }

    @Bean
    PasswordEncoder encoder() {
        return access.encoder();
    }

    @Bean
    UserDetailsService photographer() {
        return name -> {
            String hash = access.hash();
            if (hash == null) {
                throw new UsernameNotFoundException("no password is set");
            }
            return User.withUsername("photographer")
                    .password(hash)
                    .roles("PHOTOGRAPHER")
                    .build();
        };
    }

    @Bean
    SecurityFilterChain security(HttpSecurity http) throws Exception {
        return http.authorizeHttpRequests(all -> all.anyRequest()
                        .access((who, asked) -> new AuthorizationDecision(allowed(who.get(), asked.getRequest()))))
                .csrf(Customizer.withDefaults())
                .formLogin(form -> form.loginPage("/sign-in")
                        .successHandler((request, response, who) -> {
                            throttle.right(request.getRemoteAddr());
                            response.sendRedirect("/shoots");
                        })
                        .failureHandler((request, response, e) -> {
                            throttle.wrong(request.getRemoteAddr(), System.currentTimeMillis());
                            response.sendRedirect("/sign-in?wrong");
                        }))
                .httpBasic(basic -> basic.disable())
                .logout(logout -> logout.logoutUrl("/sign-out").logoutSuccessUrl("/sign-in"))
                .anonymous(Customizer.withDefaults())
                .headers(headers -> headers.contentSecurityPolicy(policy -> policy.policyDirectives(
                                "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' blob: data:;"
                                        + " font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none';"
                                        + " frame-ancestors 'none'"))
                        .referrerPolicy(referrer -> referrer.policy(ReferrerPolicy.SAME_ORIGIN))
                        .addHeaderWriter(new StaticHeadersWriter("Cross-Origin-Resource-Policy", "same-origin"))
                        .cacheControl(cache -> cache.disable()))
                .addFilterBefore(new HostAndOriginFilter(names), SecurityContextHolderFilter.class)
                .addFilterBefore(new ThrottleFilter(throttle), UsernamePasswordAuthenticationFilter.class)
                .build();
    }

    private boolean allowed(Authentication who, HttpServletRequest request) {
        String path = request.getRequestURI();
        boolean signedIn = who != null && who.isAuthenticated() && !(who instanceof AnonymousAuthenticationToken);
        return signedIn
                || OPEN.contains(path)
                || path.startsWith("/fonts/")
                || FOR_THIS_MACHINE.contains(path) && here(request)
                || !access.required();
    }

    private static boolean here(HttpServletRequest request) {
        try {
            return InetAddress.getByName(request.getRemoteAddr()).isLoopbackAddress();
        } catch (UnknownHostException e) {
            return false;
        }
    }

    /** Wrong passwords are answered ever more slowly, right ones too while the wait lasts. */
    private static final class ThrottleFilter extends OncePerRequestFilter {
        private final Throttle throttle;

        ThrottleFilter(Throttle throttle) {
            this.throttle = throttle;
        }

        @Override
        protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
                throws ServletException, IOException {
            long wait = throttle.waitSeconds(request.getRemoteAddr(), System.currentTimeMillis());
            if (wait > 0
                    && request.getMethod().equals("POST")
                    && request.getRequestURI().equals("/sign-in")) {
                response.setHeader("Retry-After", Long.toString(wait));
                response.sendRedirect("/sign-in?wait=" + wait);
            } else {
                chain.doFilter(request, response);
            }
        }
    }

    private static final class HostAndOriginFilter extends OncePerRequestFilter {
        private final Set<String> names;

        HostAndOriginFilter(Set<String> names) {
            this.names = names;
        }

        @Override
        protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
                throws ServletException, IOException {
            String host = request.getHeader("Host");
            String origin = request.getHeader("Origin");
            if (host == null || !names.contains(host.replaceFirst(":\\d+$", ""))) {
                response.sendError(HttpServletResponse.SC_FORBIDDEN);
            } else if (origin != null && !sameOrigin(origin, host)) {
                response.sendError(HttpServletResponse.SC_FORBIDDEN);
            } else {
                chain.doFilter(request, response);
            }
        }

        private static boolean sameOrigin(String origin, String host) {
            try {
                return host.equals(URI.create(origin).getRawAuthority());
            } catch (IllegalArgumentException e) {
                return false;
            }
        }
    }
}
