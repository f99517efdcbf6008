package org.rainsieve.web.setup;

import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.ThreadFactory;
import org.springframework.boot.tomcat.TomcatProtocolHandlerCustomizer;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.core.task.VirtualThreadTaskExecutor;

/**
 * A thread for each request and each page with live events, light ones where the Java in use has them (from 21 on): a client that
 * sends or reads slowly costs a connection, and no other client's time.
 */
@Configuration
public class LightThreads {
    private static final boolean LIGHT = Runtime.version().feature() >= 21;

    /** An executor that begins every task at once. */
    public static ExecutorService executor(String name) {
        ThreadFactory threads = LIGHT
                ? new VirtualThreadTaskExecutor(name + "-").getVirtualThreadFactory()
                : task -> {
                    Thread thread = new Thread(task, name);
                    thread.setDaemon(true);
                    return thread;
                };
        return Executors.newCachedThreadPool(threads);
    }

    @Bean
    TomcatProtocolHandlerCustomizer<?> requests() {
        return handler -> {
            if (LIGHT) {
                handler.setExecutor(new VirtualThreadTaskExecutor("request-"));
            }
        };
    }
}
