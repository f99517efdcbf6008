package org.rainsieve.web.setup;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.net.URI;
import java.util.Set;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.security.config.Customizer;
import org.springframework.security.config.annotation.web.builders.HttpSecurity;
import org.springframework.security.web.SecurityFilterChain;
import org.springframework.security.web.context.SecurityContextHolderFilter;
import org.springframework.security.web.header.writers.ReferrerPolicyHeaderWriter.ReferrerPolicy;
import org.springframework.security.web.header.writers.StaticHeadersWriter;
import org.springframework.web.filter.OncePerRequestFilter;

/**
 * The application listens on loopback. A page elsewhere must not be able to use it through the photographer's browser:
 * the Host must be ours (no re-bound names), a foreign Origin is refused, every change carries a CSRF token, and only our
 * own scripts run.
 */
@Configuration
@ConditionalOnWebApplication
class SecurityConfiguration {
    private static final Set<String> OWN_NAMES = Set.of("127.0.0.1", "localhost", "[::1]");

    @Bean
    SecurityFilterChain security(HttpSecurity http) throws Exception {
        return http.authorizeHttpRequests(all -> all.anyRequest().permitAll())
                .csrf(Customizer.withDefaults())
                .formLogin(form -> form.disable())
                .httpBasic(basic -> basic.disable())
                .logout(logout -> logout.disable())
                .anonymous(Customizer.withDefaults())
                .headers(headers -> headers.contentSecurityPolicy(policy -> policy.policyDirectives(
                                "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' blob: data:;"
                                        + " font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none';"
                                        + " frame-ancestors 'none'"))
                        .referrerPolicy(referrer -> referrer.policy(ReferrerPolicy.SAME_ORIGIN))
                        .addHeaderWriter(new StaticHeadersWriter("Cross-Origin-Resource-Policy", "same-origin"))
                        .cacheControl(cache -> cache.disable()))
                .addFilterBefore(new HostAndOriginFilter(), SecurityContextHolderFilter.class)
                .build();
    }

    private static final class HostAndOriginFilter extends OncePerRequestFilter {
        @Override
        protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
                throws ServletException, IOException {
            String host = request.getHeader("Host");
            String origin = request.getHeader("Origin");
            if (host == null || !OWN_NAMES.contains(host.replaceFirst(":\\d+$", ""))) {
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
