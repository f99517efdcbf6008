package org.rainsieve.web;

import java.util.Arrays;
import org.rainsieve.web.demo.DrawCommand;
import org.rainsieve.web.intake.OpenCommand;
import org.rainsieve.web.process.ProcessCommand;
import org.springframework.boot.SpringApplication;
import org.springframework.boot.WebApplicationType;
import org.springframework.boot.autoconfigure.SpringBootApplication;
import org.springframework.boot.context.properties.ConfigurationPropertiesScan;

/**
 * One jar, five ways to start it: {@code serve} (default), {@code worker}, {@code process}, {@code open} and, for the demo,
 * {@code draw FOLDER}.
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
                        rest, System.getenv().getOrDefault("SIEVE_PORT", "8437"), System.out, System.err));
            case "draw" -> DrawCommand.run(rest);
            case "serve" -> new SpringApplication(Main.class).run(rest);
            default -> {
                System.err.println(
                        "There is no command called " + command + ". Use serve, worker, process, open or draw.");
                System.exit(2);
            }
        }
    }
}
