package org.rainsieve.web;

import java.util.Arrays;
import org.rainsieve.web.access.AccessService;
import org.rainsieve.web.access.PasswordCommand;
import org.rainsieve.web.access.SetUpException;
import org.rainsieve.web.demo.DrawCommand;
import org.rainsieve.web.intake.OpenCommand;
import org.rainsieve.web.process.ProcessCommand;
import org.springframework.boot.SpringApplication;
import org.springframework.boot.WebApplicationType;
import org.springframework.boot.autoconfigure.SpringBootApplication;
import org.springframework.boot.context.properties.ConfigurationPropertiesScan;
import org.springframework.context.ConfigurableApplicationContext;

/**
 * One jar, six ways to start it: {@code serve} (default), {@code worker}, {@code process}, {@code open}, {@code password} and,
 * for the demo, {@code draw FOLDER}.
 */
@SpringBootApplication
@ConfigurationPropertiesScan
public class Main {
    public static void main(String[] args) {
        String command = args.length == 0 ? "serve" : args[0];
        String[] rest = args.length == 0 ? args : Arrays.copyOfRange(args, 1, args.length);
        switch (command) {
            case "process" -> System.exit(ProcessCommand.run(rest, System.out, System.err));
            case "worker" -> {
                SpringApplication application = new SpringApplication(Main.class);
                application.setWebApplicationType(WebApplicationType.NONE);
                application.setAdditionalProfiles("worker");
                application.run(rest);
            }
            case "open" ->
                System.exit(OpenCommand.run(
                        rest,
                        System.getenv().getOrDefault("SIEVE_HOME", "run"),
                        System.getenv().getOrDefault("SIEVE_PORT", "8437"),
                        System.out,
                        System.err));
            case "draw" -> DrawCommand.run(rest);
            case "password" -> {
                SpringApplication application = new SpringApplication(Main.class);
                application.setWebApplicationType(WebApplicationType.NONE);
                try (ConfigurableApplicationContext context = application.run()) {
                    System.exit(PasswordCommand.run(
                            rest, context.getBean(AccessService.class), System.in, System.out, System.err));
                }
            }
            case "serve" -> serve(rest);
            default -> {
                System.err.println("There is no command called " + command
                        + ". Use serve, worker, process, open, password or draw.");
                System.exit(2);
            }
        }
    }

    private static void serve(String[] rest) {
        try {
            new SpringApplication(Main.class).run(rest);
        } catch (RuntimeException e) {
            for (Throwable cause = e; cause != null; cause = cause.getCause()) {
                if (cause instanceof SetUpException) {
                    System.err.println(cause.getMessage());
                    System.exit(3);
                }
            }
            throw e;
        }
    }
}
