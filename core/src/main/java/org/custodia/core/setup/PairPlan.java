package org.custodia.core.setup;

import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.saying.Saying;
import org.custodia.core.setup.PairSheets.Row;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PairId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.custodia.core.site.SiteModel;

/**
 * What a sheet of pairs would change, before it does.
 *
 * @param added pairs that are not there
 * @param changed pairs that are there otherwise, as they would be
 * @param same how many are there just so
 * @param absent pairs that are there and not on the sheet
 * @param problems rows that cannot be taken, and why
 * @param versions what the plan was made from, pair by pair
 */
public record PairPlan(
        List<Pairing> added,
        List<Pairing> changed,
        int same,
        List<Pairing> absent,
        List<Problem> problems,
        Map<PairId, Long> versions) {
    /** Nobody waits longer for what is played to begin. */
    private static final double MOST_SECONDS = 120;

    public PairPlan {
        added = List.copyOf(added);
        changed = List.copyOf(changed);
        absent = List.copyOf(absent);
        problems = List.copyOf(problems);
        versions = Map.copyOf(versions);
    }

    /** Why a row cannot be taken. */
    public record Problem(int line, Saying saying) {}

    /** A row cannot be taken. */
    private static final class Odd extends Exception {
        private static final long serialVersionUID = 1L;
        private final transient Saying saying;

        Odd(String code, Object... of) {
            super(code);
            this.saying = Saying.of(code, of);
        }
    }

    /** What is the same whatever else of a pair is changed. */
    private record Same(DoorId door, CameraId camera, Side side, Pairing.View view) {
        static Same of(Pairing p) {
            return new Same(p.door(), p.camera(), p.side(), p.view());
        }
    }

    /**
     * Makes a plan.
     *
     * @param there all pairs that there are
     */
    static PairPlan of(List<Row> rows, List<PairBook.Kept> there, SiteModel sites) {
        List<Pairing> wanted = new ArrayList<>();
        List<Problem> problems = new ArrayList<>();
        Set<Same> named = new HashSet<>();
        for (Row row : rows) {
            try {
                Pairing pairing = pairing(row, sites);
                if (!named.add(Same.of(pairing))) {
                    throw new Odd("sheet.twice");
                }
                wanted.add(pairing);
            } catch (Odd e) {
                problems.add(new Problem(row.line(), e.saying));
            }
        }
        PairPlan plan = of(wanted, there);
        return new PairPlan(plan.added(), plan.changed(), plan.same(), plan.absent(), problems, plan.versions());
    }

    /**
     * Makes a plan of pairs whose doors and cameras need not be known. Of one that is wanted twice the first counts.
     *
     * @param there all pairs that there are
     */
    static PairPlan of(List<Pairing> all, List<PairBook.Kept> there) {
        Map<Same, PairBook.Kept> known = new HashMap<>();
        Map<PairId, Long> versions = new HashMap<>();
        there.forEach(k -> {
            known.putIfAbsent(Same.of(k.pairing()), k);
            versions.put(k.pairing().id(), k.version());
        });
        List<Pairing> added = new ArrayList<>();
        List<Pairing> changed = new ArrayList<>();
        Set<Same> named = new HashSet<>();
        int same = 0;
        for (Pairing wanted : all) {
            if (!named.add(Same.of(wanted))) {
                continue;
            }
            PairBook.Kept before = known.get(Same.of(wanted));
            if (before == null) {
                added.add(wanted);
            } else if (withId(wanted, before.pairing().id()).equals(before.pairing())) {
                same++;
            } else {
                changed.add(withId(wanted, before.pairing().id()));
            }
        }
        List<Pairing> absent = there.stream()
                .map(PairBook.Kept::pairing)
                .filter(p -> !named.contains(Same.of(p)))
                .toList();
        return new PairPlan(added, changed, same, absent, List.of(), versions);
    }

    private static Pairing withId(Pairing p, PairId id) {
        return new Pairing(id, p.door(), p.camera(), p.side(), p.view(), p.leadIn(), p.face(), p.faceAfter());
    }

    private static Pairing pairing(Row row, SiteModel sites) throws Odd {
        DoorId door = sites.doors().isEmpty() || row.door().isBlank()
                ? null
                : Optional.of(row.door().strip())
                        .flatMap(d -> door(d, sites))
                        .map(Door::id)
                        .orElse(null);
        if (door == null) {
            throw new Odd("sheet.no-door", row.door());
        }
        CameraId camera = row.camera().isBlank()
                ? null
                : camera(row.camera().strip(), sites).map(Camera::id).orElse(null);
        if (camera == null) {
            throw new Odd("sheet.no-camera", row.camera());
        }
        Side side = word(Side.values(), row.side(), "sheet.side-odd");
        Pairing.View view = word(Pairing.View.values(), row.view(), "sheet.view-odd");
        Duration leadIn = seconds(row.leadInSeconds(), Pairing.DEFAULT_LEAD_IN);
        Duration after = seconds(row.faceAfterSeconds(), Duration.ZERO);
        return new Pairing(door, camera, side, view, leadIn, face(row), after);
    }

    private static Optional<Door> door(String id, SiteModel sites) {
        return id.length() > 260 ? Optional.empty() : safely(() -> sites.door(new DoorId(id)));
    }

    private static Optional<Camera> camera(String id, SiteModel sites) {
        return id.length() > 260 ? Optional.empty() : safely(() -> sites.camera(new CameraId(id)));
    }

    /** What is no id is the id of nothing. */
    private static <T> Optional<T> safely(java.util.function.Supplier<Optional<T>> look) {
        try {
            return look.get();
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }

    private static <E extends Enum<E>> E word(E[] all, String text, String code) throws Odd {
        for (E each : all) {
            if (each.name().equals(text.strip().toUpperCase(Locale.ROOT))) {
                return each;
            }
        }
        throw new Odd(code, text);
    }

    private static Duration seconds(String text, Duration otherwise) throws Odd {
        if (text.isBlank()) {
            return otherwise;
        }
        double seconds = number(text);
        if (seconds < 0 || seconds > MOST_SECONDS) {
            throw new Odd("sheet.seconds-odd", text);
        }
        return Duration.ofMillis(Math.round(seconds * 1_000));
    }

    private static double number(String text) throws Odd {
        try {
            double value = Double.parseDouble(text.strip().replace(',', '.'));
            if (Double.isFinite(value)) {
                return value;
            }
        } catch (NumberFormatException e) {
            // Said below.
        }
        throw new Odd("sheet.number-odd", text);
    }

    private static Crop face(Row row) throws Odd {
        List<String> all = List.of(row.faceX(), row.faceY(), row.faceWidth(), row.faceHeight());
        if (all.stream().allMatch(String::isBlank)) {
            return Crop.WHOLE;
        }
        try {
            return new Crop(
                    number(row.faceX()), number(row.faceY()), number(row.faceWidth()), number(row.faceHeight()));
        } catch (IllegalArgumentException e) {
            throw new Odd("sheet.face-odd");
        }
    }

    /** A pair as a row. */
    static Row row(int line, Pairing p, SiteModel sites) {
        boolean whole = p.face().equals(Crop.WHOLE);
        return new Row(
                line,
                p.door().value(),
                sites.door(p.door()).map(Door::name).orElse(""),
                p.camera().value(),
                sites.camera(p.camera()).map(Camera::name).orElse(""),
                p.side().name().toLowerCase(Locale.ROOT),
                p.view().name().toLowerCase(Locale.ROOT),
                number(p.leadIn()),
                whole ? "" : Double.toString(p.face().x()),
                whole ? "" : Double.toString(p.face().y()),
                whole ? "" : Double.toString(p.face().width()),
                whole ? "" : Double.toString(p.face().height()),
                number(p.faceAfter()));
    }

    private static String number(Duration d) {
        return Double.toString(d.toMillis() / 1_000.0).replaceAll("\\.0$", "");
    }
}
