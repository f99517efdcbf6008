package org.rainsieve.web;

import java.util.Arrays;
import org.rainsieve.web.demo.DrawCommand;
import org.rainsieve.web.process.ProcessCommand;
import org.springframework.boot.SpringApplication;
import org.springframework.boot.WebApplicationType;
import org.springframework.boot.autoconfigure.SpringBootApplication;
import org.springframework.boot.context.properties.ConfigurationPropertiesScan;

/**
 * One jar, four ways to start it: {@code serve} (default), {@code worker}, {@code process} and, for the demo,
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
            case "draw" -> DrawCommand.run(rest);
            case "serve" -> new SpringApplication(Main.class).run(rest);
            default -> {
                System.err.println("There is no command called " + command + ". Use serve, worker, process or draw.");
                System.exit(2);
            }
        }
    }
}
