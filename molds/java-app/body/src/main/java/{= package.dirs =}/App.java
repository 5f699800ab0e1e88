package {= package =};

import java.io.IOException;
// {= if service =}
import java.nio.channels.UnresolvedAddressException;
// {= else =}
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
// {= end =}

/** The entry point. */
public final class App {
    // {= if not service =}
    /** What it is for. */
    static final String SUMMARY = {= summary.java =};

    // {= end =}
    private App() {}

    // {= if service =}
    /** Starts the service, and stops it cleanly; exits with 2 where a setting cannot stand, with 1 where it cannot listen. */
    public static void main(String[] args) {
        Config config;
        try {
            config = Config.from(System.getenv());
        } catch (IllegalArgumentException error) {
            System.err.println("error: " + error.getMessage());
            System.exit(2);
            return;
        }
        Log log = new Log(config.json());
        try {
            Service service = new Service(config.host(), config.port(), log);
            service.start();
            log.info("listening on " + service.address());
            Runtime.getRuntime().addShutdownHook(new Thread(() -> {
                service.stop();
                log.info("stopped");
            }));
        } catch (IOException | UnresolvedAddressException error) {
            log.error("cannot listen on " + config.host() + ":" + config.port() + ": " + error);
            System.exit(1);
        }
    }
    // {= else =}
    /** Counts files, or standard input; exits with 0, with 1 where a file cannot be read, with 2 where the command line is wrong. */
    public static void main(String[] args) {
        System.exit(run(args));
    }

    static int run(String... args) {
        if (args.length == 1 && args[0].equals("--help")) {
            System.out.println(SUMMARY);
            System.out.println();
            System.out.println("App [FILE...]    count lines, words and characters; standard input without a file");
            return 0;
        }
        int code = 0;
        Counts total = new Counts(0, 0, 0);
        for (String name : args.length == 0 ? new String[] {"-"} : args) {
            if (name.startsWith("--")) {
                System.err.println("error: there is no option " + name);
                return 2;
            }
            try {
                Counts counts = Counts.of(read(name));
                show(counts, name);
                total = total.plus(counts);
            } catch (IOException error) {
                System.err.println("error: " + name + " cannot be read");
                code = 1;
            }
        }
        if (args.length > 1) {
            show(total, "in all");
        }
        return code;
    }

    private static String read(String name) throws IOException {
        if (name.equals("-")) {
            return new String(System.in.readAllBytes(), StandardCharsets.UTF_8);
        }
        return Files.readString(Path.of(name));
    }

    private static void show(Counts counts, String name) {
        System.out.printf("%8d %8d %8d  %s%n", counts.lines(), counts.words(), counts.characters(), name);
    }
    // {= end =}
}
