package org.custodia.app;

import java.io.IOException;
import java.io.PrintWriter;
import java.nio.file.Path;
import java.time.Clock;
import java.util.Optional;
import java.util.concurrent.Callable;
import java.util.concurrent.CountDownLatch;
import java.util.function.Consumer;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.operator.Actor;
import org.custodia.core.saying.Saying;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.practice.PracticeClock;
import org.custodia.practice.PracticeSite;
import org.custodia.store.DataDirectoryException;
import org.custodia.store.ServerAddress;
import org.custodia.wire.LinksFileForm;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;

/** The command line. */
@Command(
        name = "custodia",
        description = "Watches doors, and shows who came through them.",
        mixinStandardHelpOptions = true,
        version = "Custodia 0.1.0",
        subcommands = {
            Main.Demo.class,
            Main.Run.class,
            Main.Check.class,
            Main.Diagnose.class,
            Main.Practice.class,
            Main.Shots.class,
            Main.Rehearse.class
        })
public final class Main implements Runnable {
    private static final String PASSPHRASE = "CUSTODIA_PASSPHRASE";
    private static Ending ending;

    @CommandLine.Spec
    private CommandLine.Model.CommandSpec spec;

    @Override
    public void run() {
        spec.commandLine().usage(System.out);
    }

    /** Runs and ends the process with 0 for well, 1 for a failure, 2 for a command that cannot be understood. */
    public static void main(String[] args) {
        ending = Ending.watching();
        Ending.mishaps();
        int code = execute(args);
        Console.prepared();
        // Not exit when the process is being stopped already: that would wait for itself.
        if (!ending.asked()) {
            System.exit(code);
        }
    }

    /** Runs a command and returns its exit code. */
    static int execute(String... args) {
        CommandLine line = new CommandLine(new Main());
        line.setExecutionExceptionHandler((e, l, r) -> {
            PrintWriter err = l.getErr();
            if (e instanceof DataDirectoryException || e instanceof CannotStartException) {
                String why = SayingWords.of(e, Saying.of("start.problem", String.valueOf(e.getMessage())));
                err.println(why);
                Console.tell(why);
            } else {
                err.println("Custodia stopped because of an error of its own." + Ending.noted(e)
                        + " Start it again; if it stops again, tell whoever looks after it.");
            }
            return 1;
        });
        return line.execute(args);
    }

    /** Something outside keeps the program from starting; the message says what. */
    static final class CannotStartException extends RuntimeException {
        private static final long serialVersionUID = 1L;

        CannotStartException(String message) {
            super(message);
        }
    }

    /** Who sits at the desk of a demo. */
    public static Actor demoOperator() {
        return Actor.withAll("ivantongeren", "I. Vantongeren", "Guard room desk");
    }

    static Path home() {
        String data = System.getenv("XDG_DATA_HOME");
        Path base = data != null && !data.isBlank()
                ? Path.of(data)
                : Path.of(System.getProperty("user.home"), ".local", "share");
        return base.resolve("custodia");
    }

    /** What the commands that open a window have in common. */
    abstract static class WithWindow {
        @Option(names = "--offscreen", description = "Draw without a display; needs no X.")
        boolean offscreen;

        @Option(
                names = "--picture",
                paramLabel = "FILE",
                description = "Write a PNG of the window there once its first pictures are in.")
        Path picture;

        void showUntilClosed(Hub hub, String site, boolean practiceTime, Actor actor) throws InterruptedException {
            try (Console console = new Console(hub, site, practiceTime, actor)) {
                // Being told to stop ends things as closing the window does.
                if (ending != null) {
                    ending.onAsked(console::stop);
                }
                if (picture != null) {
                    console.pictureWhenReady(picture);
                    System.out.println("A picture of the window is in " + picture.toAbsolutePath());
                }
                console.awaitClosed();
            }
        }
    }

    /** The practice site and a console on it. */
    @Command(
            name = "demo",
            mixinStandardHelpOptions = true,
            description = "Opens the console on the practice site, which is made with its history if it is not there.")
    static final class Demo extends WithWindow implements Callable<Integer> {
        @Option(names = "--data", paramLabel = "DIR", description = "Where the demo keeps what it needs.")
        Path data = home().resolve("demo");

        @Option(names = "--wall-clock", description = "Use the real time instead of practice time.")
        boolean wallClock;

        @Override
        public Integer call() throws Exception {
            if (offscreen) {
                Console.offscreen();
            }
            Console.prepare();
            try (DemoSite demo = new DemoSite(data, wallClock, said(offscreen))) {
                if (stopping()) {
                    return 0;
                }
                System.out.println("The practice site can be told what to do at "
                        + demo.site().address() + "/control; messages that are sent can be read at "
                        + demo.site().address() + "/post");
                showUntilClosed(demo.hub(), demo.siteName(), !wallClock, demoOperator());
            }
            return 0;
        }
    }

    /** A console on whatever the links file names. */
    @Command(
            name = "run",
            mixinStandardHelpOptions = true,
            description = {
                "Opens the console. What it is connected to is set up there, under Setup.",
                "A links file is taken over at the start, in place of what was taken from one before."
            })
    static final class Run extends WithWindow implements Callable<Integer> {
        @Option(names = "--links", paramLabel = "FILE", description = "A setup to take over: addresses and tokens.")
        Path links;

        @Option(
                names = "--passphrase",
                interactive = true,
                arity = "0..1",
                description = {
                    "Ask for the passphrase that opens what Custodia signs in with; otherwise a key file opens it.",
                    "It may also stand in the environment variable " + PASSPHRASE + "."
                })
        char[] passphrase;

        @Option(names = "--data", paramLabel = "DIR", description = "Where the log and all else is kept.")
        Path data = home().resolve("data");

        @Option(
                names = "--database",
                paramLabel = "ADDRESS",
                description = {
                    "Keep the log on a PostgreSQL server instead of in a file: jdbc:postgresql://host:5432/custodia?user=custodia",
                    "The password comes from the environment variable " + ServerAddress.PASSWORD
                            + " or from a password file."
                })
        String database;

        @Option(
                names = "--operator",
                paramLabel = "NAME",
                description = "Who sits at the desk, for the log; otherwise whoever is signed in on this computer.")
        String operator = System.getProperty("user.name", "operator");

        @Override
        public Integer call() throws Exception {
            if (offscreen) {
                Console.offscreen();
            }
            Optional<ServerAddress> server = server();
            Optional<LinksFileForm.Content> file = Optional.ofNullable(links).map(LinksFiles::read);
            Actor actor = Actor.withAll(operator, operator, "This desk");
            Console.prepare();
            try (Hub hub = new Hub(data, server, passphrase(), Clock.systemUTC(), actor)) {
                hub.connect(file, said(offscreen));
                if (offscreen) {
                    System.out.println("Custodia runs without a window; what happens is kept in "
                            + server.map(ServerAddress::toString)
                                    .orElse(data.toAbsolutePath().toString())
                            + ". Ctrl+C ends it.");
                }
                if (stopping()) {
                    return 0;
                }
                showUntilClosed(hub, file.map(f -> f.setup().name()).orElse("Custodia"), false, actor);
            }
            return 0;
        }

        private Optional<char[]> passphrase() {
            return Optional.ofNullable(passphrase)
                    .or(() -> Optional.ofNullable(System.getenv(PASSPHRASE)).map(String::toCharArray));
        }

        private Optional<ServerAddress> server() {
            try {
                return Optional.ofNullable(database)
                        .map(url -> ServerAddress.of(url, Optional.ofNullable(System.getenv(ServerAddress.PASSWORD))));
            } catch (IllegalArgumentException e) {
                throw new CannotStartException(e.getMessage());
            }
        }
    }

    /** A walk through the systems that a links file names. */
    @Command(
            name = "check",
            mixinStandardHelpOptions = true,
            description = {
                "Walks through the systems that a links file names, as whoever made them would want: each requirement"
                        + " of the link protocol with what was seen.",
                "Ends with 0 if all are met, with 1 if some are not."
            })
    static final class Check implements Callable<Integer> {
        @CommandLine.Spec
        private CommandLine.Model.CommandSpec spec;

        @Option(names = "--links", paramLabel = "FILE", required = true, description = "Addresses and tokens.")
        Path links;

        @Option(
                names = "--act-on",
                paramLabel = "SYSTEM/DOOR",
                description =
                        "A door that may be opened once, to see that commands work; otherwise nothing is changed.")
        String actOn;

        @Override
        public Integer call() throws Exception {
            return new ChecksLinks(spec.commandLine().getOut())
                    .check(LinksFiles.readWithTokens(links), Optional.ofNullable(actOn));
        }
    }

    /** One file for whoever looks for a fault. */
    @Command(
            name = "diagnose",
            mixinStandardHelpOptions = true,
            description = {
                "Writes one file for whoever looks for a fault: what Custodia noted of itself, and what this computer is.",
                "No events, names, photos, addresses or tokens are in it. A running Custodia says more under its links, at the top."
            })
    static final class Diagnose implements Callable<Integer> {
        @CommandLine.Spec
        private CommandLine.Model.CommandSpec spec;

        @Option(names = "--data", paramLabel = "DIR", description = "The data directory that it is about.")
        Path data = home().resolve("data");

        @Option(names = "--to", paramLabel = "FILE", description = "Where the file goes.")
        Path to = Path.of("custodia-diagnostics.zip");

        @Override
        public Integer call() {
            try {
                Diagnostics.write(data, Optional.empty(), to);
            } catch (IOException e) {
                throw new CannotStartException("The diagnostics could not be written as " + to.toAbsolutePath()
                        + ". Choose another place with --to.");
            }
            spec.commandLine().getOut().println("The diagnostics are in " + to.toAbsolutePath() + ".");
            return 0;
        }
    }

    /** The practice site alone. */
    @Command(
            name = "practice",
            mixinStandardHelpOptions = true,
            description = "Serves the practice site alone, until stopped.")
    static final class Practice implements Callable<Integer> {
        @Option(names = "--data", paramLabel = "DIR", description = "Where the practice site keeps what it needs.")
        Path data = home().resolve("practice");

        @Option(names = "--port", description = "Port on loopback; 0 for any that is free.")
        int port;

        @Option(
                names = "--https",
                description = "Answers by https as well, with a certificate that nobody vouches for.")
        boolean secure;

        @Override
        public Integer call() throws Exception {
            System.setProperty("java.awt.headless", "true");
            try (PracticeSite site = new PracticeSite(data, Clock.systemUTC(), port, secure)) {
                System.out.println("The practice site answers at " + site.address() + ", its control page is at "
                        + site.address() + "/control, its links file is " + site.linksFile()
                        + ".\nTo connect a console by hand, the control page tells addresses and token.");
                site.secureAddress().ifPresent(a -> System.out.println("By https the same paths are at " + a + "."));
                CountDownLatch stopped = new CountDownLatch(1);
                if (ending != null) {
                    ending.onAsked(stopped::countDown);
                }
                stopped.await();
            }
            return 0;
        }
    }

    /** Pictures of each main view. */
    @Command(
            name = "shots",
            mixinStandardHelpOptions = true,
            description = "Drives the demo and writes a picture of each main view.")
    static final class Shots implements Callable<Integer> {
        @Option(names = "--to", paramLabel = "DIR", description = "Where the pictures go.")
        Path to = Path.of("docs", "screenshots");

        @Override
        public Integer call() throws Exception {
            Console.offscreen();
            ScreenShots.take(to);
            return 0;
        }
    }

    /** For the build only. */
    @Command(name = "rehearse", hidden = true, description = "Goes once through a start, for the build.")
    static final class Rehearse implements Callable<Integer> {
        @Override
        public Integer call() throws Exception {
            Console.offscreen();
            Rehearsal.run();
            return 0;
        }
    }

    private static boolean stopping() {
        return ending != null && ending.asked();
    }

    /** Where there is no window the terminal says what the links do. */
    private static Consumer<LinkStatus> said(boolean offscreen) {
        return offscreen ? new LinksOnTerminal(System.out) : status -> {};
    }

    /** The clock of a demo. */
    public static Clock demoClock(Path practice, boolean wallClock) {
        return wallClock
                ? Clock.systemUTC()
                : PracticeClock.starting(Clock.systemUTC(), PracticeSite.lastSeen(practice));
    }
}
