package {= package =};

{= place "java-import" given names = [
    "java.io.IOException",
    "java.io.InputStream",
    "java.io.InputStreamReader",
    "java.io.PrintStream",
    "java.io.Reader",
    "java.nio.charset.StandardCharsets",
    "java.nio.file.Files",
    "java.nio.file.InvalidPathException",
    "java.nio.file.Path",
    "java.util.List",
    package + ".count.Counts",
    package + ".count.Report"
] + (if picocli then ["java.io.PrintWriter", "java.util.concurrent.Callable", "picocli.CommandLine", "picocli.CommandLine.Command", "picocli.CommandLine.IVersionProvider", "picocli.CommandLine.Model.CommandSpec", "picocli.CommandLine.Parameters", "picocli.CommandLine.Spec"]
     else ["java.util.ArrayList"])
  + (if picocli and json then ["picocli.CommandLine.Option"] else [])
  + (if slf4j then ["org.slf4j.Logger", "org.slf4j.LoggerFactory"] else [])
=}

// {= if picocli =}
/** The entry: what the command line says. */
@Command(
        name = "{= name =}",
        mixinStandardHelpOptions = true,
        versionProvider = {= entry =}.Version.class,
        header = {= summary.java =},
        description = "Counts lines, words and characters.",
        sortOptions = false)
public final class {= entry =} implements Callable<Integer> {
    // {= if slf4j =}
    private static final Logger LOG = LoggerFactory.getLogger({= entry =}.class);
    // {= end =}
    private static final String NAME = "{= name =}";

    private final InputStream in;
    private final PrintStream out;

    @Spec
    private CommandSpec spec;

    // {= if json =}
    @Option(names = "--json", description = "Print JSON.")
    private boolean json;

    // {= end =}
    @Parameters(paramLabel = "FILE", description = "What is counted; standard input for - and without any.")
    private List<String> files = List.of("-");

    {= entry =}(InputStream in, PrintStream out) {
        this.in = in;
        this.out = out;
    }

    /**
     * Counts files, or standard input. Exits with 0, with 1 where something cannot be read or written, with 2 where the
     * command line is wrong.
     *
     * @param args the command line
     */
    public static void main(String[] args) {
        System.exit(run(args, System.in, System.out, System.err));
    }

    static int run(String[] args, InputStream in, PrintStream out, PrintStream err) {
        PrintStream text = new PrintStream(out, false, StandardCharsets.UTF_8);
        int code = new CommandLine(new {= entry =}(in, text))
                .setOut(new PrintWriter(text, true, StandardCharsets.UTF_8))
                .setErr(new PrintWriter(err, true, StandardCharsets.UTF_8))
                .execute(args);
        // Somebody closed the pipe, or the disk is full.
        return text.checkError() ? Math.max(code, 1) : code;
    }

    @Override
    public Integer call() {
        int code = 0;
        Report report = new Report();
        for (String name : files) {
            try {
                report.add(name, count(name));
            } catch (IOException | InvalidPathException error) {
                spec.commandLine().getErr().println(NAME + ": cannot read " + name + ": " + error.getMessage());
                code = 1;
            }
        }
        out.print({= if json =}json ? report.asJson() : {= end =}report.asText());
        return code;
    }

    private Counts count(String name) throws IOException {
        // {= if slf4j =}
        LOG.debug("counting {}", name);
        // {= end =}
        InputStream bytes = name.equals("-") ? in : Files.newInputStream(Path.of(name));
        try (Reader reader = new InputStreamReader(bytes, StandardCharsets.UTF_8)) {
            return Counts.of(reader);
        }
    }

    /** The version that the build wrote into the jar. */
    static final class Version implements IVersionProvider {
        @Override
        public String[] getVersion() {
            String version = {= entry =}.class.getPackage().getImplementationVersion();
            return new String[] {NAME + " " + (version == null ? "from its sources" : version)};
        }
    }
}
// {= else =}
/** The entry: what the command line says. */
public final class {= entry =} {
    // {= if slf4j =}
    private static final Logger LOG = LoggerFactory.getLogger({= entry =}.class);
    // {= end =}
    private static final String NAME = "{= name =}";
    private static final String USAGE = "Usage: " + NAME + " [OPTION]... [FILE]...";
    private static final List<String> HELP = List.of(
            {= summary.java =},
            "Counts lines, words and characters; of standard input for - and without a file.",
            "",
            USAGE,
            "",
            // {= if json =}
            "  --json        print JSON",
            // {= end =}
            "  -h, --help    show this",
            "  --version     show the version",
            "  --            what follows is a file, whatever it is called");

    private {= entry =}() {}

    /**
     * Counts files, or standard input. Exits with 0, with 1 where something cannot be read or written, with 2 where the
     * command line is wrong.
     *
     * @param args the command line
     */
    public static void main(String[] args) {
        System.exit(run(args, System.in, System.out, System.err));
    }

    static int run(String[] args, InputStream in, PrintStream out, PrintStream err) {
        PrintStream text = new PrintStream(out, false, StandardCharsets.UTF_8);
        int code = answer(args, in, text, err);
        // Somebody closed the pipe, or the disk is full.
        return text.checkError() ? Math.max(code, 1) : code;
    }

    private static int answer(String[] args, InputStream in, PrintStream out, PrintStream err) {
        List<String> files = new ArrayList<>();
        boolean optionsEnded = false;
        // {= if json =}
        boolean json = false;
        // {= end =}
        for (String arg : args) {
            if (optionsEnded || !arg.startsWith("-") || arg.equals("-")) {
                files.add(arg);
            } else if (arg.equals("--")) {
                optionsEnded = true;
            } else if (arg.equals("-h") || arg.equals("--help")) {
                HELP.forEach(out::println);
                return 0;
            } else if (arg.equals("--version")) {
                out.println(NAME + " " + version());
                return 0;
                // {= if json =}
            } else if (arg.equals("--json")) {
                json = true;
                // {= end =}
            } else {
                err.println(NAME + ": there is no option " + arg);
                err.println(USAGE);
                return 2;
            }
        }
        if (files.isEmpty()) {
            files.add("-");
        }
        int code = 0;
        Report report = new Report();
        for (String name : files) {
            try {
                report.add(name, count(name, in));
            } catch (IOException | InvalidPathException error) {
                err.println(NAME + ": cannot read " + name + ": " + error.getMessage());
                code = 1;
            }
        }
        out.print({= if json =}json ? report.asJson() : {= end =}report.asText());
        return code;
    }

    private static Counts count(String name, InputStream in) throws IOException {
        // {= if slf4j =}
        LOG.debug("counting {}", name);
        // {= end =}
        InputStream bytes = name.equals("-") ? in : Files.newInputStream(Path.of(name));
        try (Reader reader = new InputStreamReader(bytes, StandardCharsets.UTF_8)) {
            return Counts.of(reader);
        }
    }

    /** The version that the build wrote into the jar. */
    private static String version() {
        String version = {= entry =}.class.getPackage().getImplementationVersion();
        return version == null ? "from its sources" : version;
    }
}
// {= end =}
