package org.rainsieve.web.access;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.net.URI;
import java.security.Principal;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.security.access.AccessDeniedException;
import org.springframework.security.authentication.AuthenticationProvider;
import org.springframework.security.authorization.AuthorizationDecision;
import org.springframework.security.config.Customizer;
import org.springframework.security.config.annotation.web.builders.HttpSecurity;
import org.springframework.security.core.Authentication;
import org.springframework.security.web.SecurityFilterChain;
import org.springframework.security.web.access.AccessDeniedHandlerImpl;
import org.springframework.security.web.context.SecurityContextHolderFilter;
import org.springframework.security.web.csrf.CsrfException;
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
    private final AccessDeniedHandlerImpl refusals = new AccessDeniedHandlerImpl();
    private final Throttle throttle = new Throttle();
    private final Set<String> names;
    private final Clients clients;
    private final OpenToken openToken;

    /**
     * @param more names by which this machine is called in its network, next to its address
     * @param proxies that pass requests on from the network, and are believed when they tell whose
     */
    SecurityConfiguration(
            AccessService access,
            @Value("${sieve.names:}") List<String> more,
            @Value("${sieve.proxy:}") List<String> proxies,
            @Value("${sieve.home:}") String home,
            @Value("${server.address:127.0.0.1}") String address) {
        this.access = access;
        String refusal = access.refusal();
        if (refusal != null) {
            throw new SetUpException(refusal);
        }
        clients = new Clients(proxies);
        openToken = new OpenToken(home);
        names = new HashSet<>(OWN_NAMES);
        names.addAll(more);
        names.add(address.contains(":") ? "[" + address + "]" : address);
    }

    /** In the place of a user store: there is one password, and nobody to look up. */
    @Bean
    AuthenticationProvider passwordCheck() {
        return new PasswordCheck(access, throttle);
    }

    @Bean
    SecurityFilterChain security(HttpSecurity http, AuthenticationProvider passwordCheck) throws Exception {
        return http.authenticationProvider(passwordCheck)
                .authorizeHttpRequests(all -> all.anyRequest()
                        .access((who, asked) -> new AuthorizationDecision(allowed(who.get(), asked.getRequest()))))
                .csrf(csrf -> csrf.ignoringRequestMatchers(openToken::in))
                .formLogin(form -> form.loginPage("/sign-in")
                        .authenticationDetailsSource(clients::address)
                        .successHandler((request, response, who) -> response.sendRedirect("/shoots"))
                        .failureHandler((request, response, e) -> {
                            if (e instanceof PasswordCheck.WaitException waits) {
                                response.setHeader("Retry-After", Long.toString(waits.seconds));
                                response.sendRedirect("/sign-in?wait=" + waits.seconds);
                            } else {
                                response.sendRedirect("/sign-in?wrong");
                            }
                        }))
                .exceptionHandling(denied -> denied.accessDeniedHandler(this::denied))
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
                .addFilterBefore(new FairShareFilter(clients), SecurityContextHolderFilter.class)
                .addFilterBefore(new OnlyHereFilter(access, clients), SecurityContextHolderFilter.class)
                .build();
    }

    /** Whose session began with another password is asked for today's. */
    private void denied(HttpServletRequest request, HttpServletResponse response, AccessDeniedException denied)
            throws IOException, ServletException {
        Principal who = request.getUserPrincipal();
        if (who != null && !access.isSignedIn(who.getName()) && !(denied instanceof CsrfException)) {
            response.sendRedirect("/sign-in");
        } else {
            refusals.handle(request, response, denied);
        }
    }

    private boolean allowed(Authentication who, HttpServletRequest request) {
        String path = request.getServletPath();
        boolean signedIn = who != null && who.isAuthenticated() && access.isSignedIn(who.getName());
        return signedIn
                || OPEN.contains(path)
                || path.startsWith("/fonts/")
                || FOR_THIS_MACHINE.contains(path) && clients.here(request)
                || openToken.in(request) && clients.here(request)
                || !access.required();
    }

    private static void refuse(HttpServletResponse response, String why) throws IOException {
        response.setStatus(HttpServletResponse.SC_FORBIDDEN);
        response.setContentType("text/plain;charset=UTF-8");
        response.getWriter().write(why);
    }

    /** Without a password nobody but this machine is answered, from that moment on. */
    private static final class OnlyHereFilter extends OncePerRequestFilter {
        private final AccessService access;
        private final Clients clients;

        OnlyHereFilter(AccessService access, Clients clients) {
            this.access = access;
            this.clients = clients;
        }

        @Override
        protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
                throws ServletException, IOException {
            if (!clients.here(request) && !access.required()) {
                refuse(response, "Without a password only this machine is answered. Set one there: ./sieve password");
            } else {
                chain.doFilter(request, response);
            }
        }
    }

    /** One address of the network cannot take every place: so many of its requests are worked on at once, and no more. */
    private static final class FairShareFilter extends OncePerRequestFilter {
        private static final int AT_ONCE = 100;

        private final Clients clients;
        private final Map<String, Integer> atWork = new ConcurrentHashMap<>();

        FairShareFilter(Clients clients) {
            this.clients = clients;
        }

        @Override
        protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
                throws ServletException, IOException {
            if (clients.here(request)) {
                chain.doFilter(request, response);
                return;
            }
            String address = clients.address(request);
            try {
                if (atWork.merge(address, 1, Integer::sum) > AT_ONCE) {
                    response.setStatus(HttpServletResponse.SC_SERVICE_UNAVAILABLE);
                    response.setHeader("Retry-After", "2");
                    response.setContentType("text/plain;charset=UTF-8");
                    response.getWriter().write("This address asks for too much at once. Load the page again.");
                } else {
                    chain.doFilter(request, response);
                }
            } finally {
                atWork.computeIfPresent(address, (who, count) -> count > 1 ? count - 1 : null);
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
                refuse(response, "This name is not one of this machine's. Add it to SIEVE_NAMES to use it.");
            } else if (origin != null && !sameOrigin(origin, host)) {
                refuse(response, "Requests of other pages are not answered.");
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
