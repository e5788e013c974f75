package org.custodia.bench;

import java.nio.file.Path;
import java.util.Arrays;
import java.util.List;

/** Runs one measurement, or all of them. */
public final class Bench {
    private static final List<String> ALL = List.of(
            "intake",
            "start",
            "latency",
            "drag",
            "panes",
            "backlog",
            "evidence",
            "clocks",
            "pairs",
            "alarms",
            "called",
            "return",
            "size",
            "walk");

    private Bench() {}

    /** First argument: which measurement; further ones go to it. */
    public static void main(String[] args) {
        try {
            run(args);
            System.exit(0);
        } catch (Throwable e) {
            e.printStackTrace();
            // Without an exit the JavaFX thread would keep the process running.
            System.exit(1);
        }
    }

    private static void run(String[] args) throws Exception {
        String which = args.length == 0 ? "all" : args[0];
        String[] rest = args.length == 0 ? args : Arrays.copyOfRange(args, 1, args.length);
        List<String> wanted = which.equals("all") ? ALL : List.of(which);
        for (String one : wanted) {
            switch (one) {
                case "intake" -> IntakeBench.run();
                case "start" -> StartBench.run();
                case "start-once" -> StartBench.once(rest);
                case "latency" -> LatencyBench.run();
                case "drag" -> DragBench.run();
                case "pairs" -> PairsBench.run();
                case "alarms" -> AlarmBench.run();
                case "called" -> CalledBench.run();
                case "clocks" -> ClockBench.run();
                case "evidence" -> EvidenceBench.run();
                case "backlog" -> BacklogBench.run(rest.length > 0 ? Long.parseLong(rest[0]) : 2_000_000);
                case "size" ->
                    SizeBench.run(
                            rest.length > 0 ? Long.parseLong(rest[0]) : 10_000_000,
                            rest.length > 1 ? Path.of(rest[1]) : null,
                            Arrays.stream(rest).skip(2).findFirst());
                case "return" -> ReturnBench.run();
                case "walk" -> WalkBench.run(rest.length > 0 ? Integer.parseInt(rest[0]) : 60);
                case "panes" -> PanesBench.run(rest.length > 0 ? Integer.parseInt(rest[0]) : 600);
                default -> {
                    System.err.println("There is no measurement \"" + one + "\"; there are " + ALL + ".");
                    System.exit(2);
                }
            }
        }
    }
}
