package org.custodia.link;

import java.io.IOException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.function.Consumer;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.link.Finding;
import org.custodia.core.link.Finding.Step;
import org.custodia.core.link.Finding.Verdict;
import org.custodia.core.mishap.Threads;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;
import org.custodia.wire.Fields;
import org.custodia.wire.Wire;

/** Walks through a system from outside, one requirement after the other, as whoever made it would want; what all have in common. */
public abstract class SystemWalk implements AutoCloseable {
    private static final Duration CLOCK_WORTH_KNOWING = Duration.ofSeconds(2);

    /** What systems are delivered with, or what is typed in a hurry. */
    private static final Set<String> FACTORY_SET = Set.of(
            "admin",
            "administrator",
            "root",
            "user",
            "guest",
            "default",
            "password",
            "passwort",
            "secret",
            "token",
            "test",
            "changeme",
            "letmein",
            "1234",
            "12345",
            "123456",
            "12345678",
            "111111",
            "0000",
            "000000");

    final SystemId system;
    final Requests requests;
    final Clock clock;
    final ClockBook clocks = new ClockBook();
    private final LinkFactory.Destination to;
    private final Consumer<Finding> told;
    private final ExecutorService executor;
    private Step step = Step.REACHABLE;

    SystemWalk(LinkFactory.Destination to, Clock clock, Consumer<Finding> told) {
        this.system = to.system();
        this.to = to;
        this.clock = clock;
        this.told = told;
        this.executor = Executors.newCachedThreadPool(Threads.factory("check " + system));
        this.requests = new Requests(to, executor);
    }

    /**
     * Walks through it once.
     *
     * @throws InterruptedException if whoever walks is interrupted
     */
    public abstract void walk() throws InterruptedException;

    /** What follows belongs to that part of the walk. */
    void step(Step next) {
        step = next;
    }

    void tell(String requirement, Verdict verdict, Saying seen) {
        told.accept(new Finding(step, requirement, verdict, seen));
    }

    /** What was seen, in the words of the protocol. */
    static Saying seen(String words) {
        return Saying.of("check.seen", words);
    }

    void met(String requirement, String seen) {
        tell(requirement, Verdict.MET, seen(seen));
    }

    void notMet(String requirement, String seen) {
        tell(requirement, Verdict.NOT_MET, seen(seen));
    }

    void advice(String requirement, String seen) {
        tell(requirement, Verdict.ADVICE, seen(seen));
    }

    void notTried(String requirement, String seen) {
        tell(requirement, Verdict.NOT_TRIED, seen(seen));
    }

    void either(boolean met, String requirement, String seen, String otherwise) {
        if (met) {
            met(requirement, seen);
        } else {
            notMet(requirement, otherwise);
        }
    }

    void either(boolean met, String requirement, Saying seen, Saying otherwise) {
        tell(requirement, met ? Verdict.MET : Verdict.NOT_MET, met ? seen : otherwise);
    }

    /** A part of the walk; what fails in it is a finding. */
    interface Part {
        void walk() throws IOException, InterruptedException;
    }

    void part(Step of, String requirement, Part part) throws InterruptedException {
        step(of);
        try {
            part.walk();
        } catch (IOException e) {
            tell(requirement, Verdict.NOT_MET, LinkException.saying(e));
        }
    }

    /** Whether it is there, lets us in and is who it should be; nothing else makes sense otherwise. */
    Optional<Fields> greeting() {
        String requirement = "GET hello answers within 10 s";
        Fields hello;
        try {
            hello = requests.fields("hello");
        } catch (IOException e) {
            if (e instanceof LinkException link && (link.status() == 401 || link.status() == 403)) {
                met(requirement, "it did");
                step(Step.SIGNED_IN);
                tell("the token is taken", Verdict.NOT_MET, toDo(e));
            } else {
                tell(requirement, Verdict.NOT_MET, toDo(e));
            }
            return Optional.empty();
        }
        met(requirement, "it did");
        step(Step.SIGNED_IN);
        if (FACTORY_SET.contains(to.token().toLowerCase(Locale.ROOT))) {
            advice("the token is taken", "it is, but everybody tries this one first; set another at the system");
        } else {
            met("the token is taken", "it is");
        }
        step(Step.WHO);
        either(
                hello.number("protocol").equals(Optional.of((long) Wire.VERSION)),
                "hello says protocol " + Wire.VERSION,
                "it does",
                "it says " + hello.text("protocol").orElse("nothing") + "; a console refuses any other version");
        either(
                hello.text("system").equals(Optional.of(system.value())),
                "hello says system \"" + system + "\", as the links file has it",
                "it does",
                "it says \"" + hello.text("system").orElse("") + "\"; change the id in the links file, or the system");
        return Optional.of(hello);
    }

    /** What went wrong, and what to look at. */
    private static Saying toDo(IOException e) {
        Saying what = LinkException.saying(e);
        if (e instanceof LinkException link && link.status() == 401) {
            return what;
        }
        boolean answered = e instanceof LinkException link && link.status() >= 400;
        return Saying.of(answered ? "check.is-the-path-right" : "check.is-it-running", what);
    }

    void wrongToken() throws InterruptedException {
        step(Step.SIGNED_IN);
        String requirement = "a wrong token is refused with status 401";
        try (Requests stranger = new Requests(
                new LinkFactory.Destination(system, to.name(), to.address(), "not-the-token", to.certificate()),
                executor)) {
            stranger.fields("hello");
            notMet(requirement, "hello was answered all the same: whoever reaches the address can read everything");
        } catch (LinkException e) {
            either(e.status() == 401, requirement, "it was", "it answered with status " + e.status());
        } catch (IOException e) {
            tell(requirement, Verdict.NOT_MET, LinkException.saying(e));
        }
    }

    void unknownPath() {
        step(Step.WHO);
        String requirement =
                "what is not there is answered with a status of 400 or more and {\"problem\": \"a sentence\"}";
        try {
            requests.fields("no-such-path");
            notMet(requirement, "a path that does not exist was answered with success");
        } catch (LinkException e) {
            boolean sentence = e.saying().quotation().isPresent();
            either(
                    e.status() >= 400 && sentence,
                    requirement,
                    Saying.of("check.it-says", e.saying()),
                    e.status() >= 400
                            ? seen("status " + e.status()
                                    + " came without a sentence; operators are shown that sentence")
                            : e.saying());
        } catch (IOException e) {
            tell(requirement, Verdict.NOT_MET, LinkException.saying(e));
        }
    }

    void clock() throws IOException {
        Duration ahead = Duration.ZERO;
        Duration best = Duration.ofDays(1);
        for (int i = 0; i < 3; i++) {
            Instant asked = clock.instant();
            Optional<Instant> time = requests.fields("time").instant("time");
            Instant returned = clock.instant();
            if (time.isEmpty()) {
                notMet("GET time tells the system's time", "its field \"time\" is missing or is no ISO-8601 instant");
                return;
            }
            clocks.add(ClockBook.measure(system, asked, time.get(), returned));
            Duration trip = Duration.between(asked, returned);
            if (trip.compareTo(best) < 0) {
                best = trip;
                ahead = Duration.between(asked.plus(trip.dividedBy(2)), time.get());
            }
        }
        String seen = "its clock is " + ahead.abs().toMillis() + " ms " + (ahead.isNegative() ? "behind" : "ahead")
                + ", ± " + (best.toMillis() / 2 + 1) + " ms; that is corrected";
        if (ahead.abs().compareTo(CLOCK_WORTH_KNOWING) > 0) {
            advice("GET time tells the system's time", seen + ", but set it all the same");
        } else {
            met("GET time tells the system's time", seen);
        }
    }

    @Override
    public void close() {
        requests.close();
        executor.shutdownNow();
    }
}
