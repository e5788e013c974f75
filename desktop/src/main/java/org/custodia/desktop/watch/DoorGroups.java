package org.custodia.desktop.watch;

import java.text.Collator;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import java.util.function.Predicate;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.custodia.core.site.Door;
import org.custodia.core.site.SiteModel;
import org.custodia.desktop.text.Texts;

/** Doors by site and level, in the order in which somebody would look for them. */
final class DoorGroups {
    private static final Texts TEXTS = Texts.of(DoorGroups.class);

    private static final Pattern NUMBER = Pattern.compile("-?\\d{1,9}");
    private static final Pattern PARTS = Pattern.compile("\\d{1,18}|\\D+");

    private DoorGroups() {}

    /** A site with its levels. */
    record OfSite(String name, List<OfLevel> levels) {
        List<Door> doors() {
            return levels.stream().flatMap(l -> l.doors().stream()).toList();
        }
    }

    /** A level with its doors. */
    record OfLevel(String name, List<Door> doors) {}

    /** The doors that are wanted; sites and levels without one are left out. */
    static List<OfSite> of(SiteModel sites, Predicate<Door> wanted) {
        Map<String, Map<String, List<Door>>> all = new TreeMap<>(NATURAL);
        for (Door door : sites.doors()) {
            if (wanted.test(door)) {
                String site = sites.siteOf(door.id()).map(s -> s.name()).orElse(TEXTS.say("no-site"));
                all.computeIfAbsent(site, s -> new TreeMap<>(BY_LEVEL))
                        .computeIfAbsent(door.level(), l -> new ArrayList<>())
                        .add(door);
            }
        }
        List<OfSite> result = new ArrayList<>();
        all.forEach((site, levels) -> {
            List<OfLevel> itsLevels = new ArrayList<>();
            levels.forEach((level, doors) -> {
                doors.sort(Comparator.comparing(Door::name, NATURAL).thenComparing(d -> d.id().value()));
                itsLevels.add(new OfLevel(
                        level.isBlank() ? TEXTS.say("level-not-named") : TEXTS.say("level", level),
                        List.copyOf(doors)));
            });
            result.add(new OfSite(site, itsLevels));
        });
        return result;
    }

    /** By the alphabet, with numbers by what they count: "Store 2" before "Store 10". */
    static final Comparator<String> NATURAL = (a, b) -> {
        List<String> one = parts(a);
        List<String> other = parts(b);
        Collator letters = Collator.getInstance(Locale.ENGLISH);
        for (int i = 0; i < Math.min(one.size(), other.size()); i++) {
            boolean numbers = isNumber(one.get(i)) && isNumber(other.get(i));
            int c = numbers
                    ? Long.compare(Long.parseLong(one.get(i)), Long.parseLong(other.get(i)))
                    : letters.compare(one.get(i), other.get(i));
            if (c != 0) {
                return c;
            }
        }
        int byLength = Integer.compare(one.size(), other.size());
        return byLength != 0 ? byLength : a.compareTo(b);
    };

    /** Levels from the lowest to the highest; those that have no number come last, by name. */
    static final Comparator<String> BY_LEVEL = (a, b) -> {
        boolean first = NUMBER.matcher(a).matches();
        boolean second = NUMBER.matcher(b).matches();
        if (first && second) {
            int byNumber = Integer.compare(Integer.parseInt(a), Integer.parseInt(b));
            return byNumber != 0 ? byNumber : a.compareTo(b);
        }
        return first != second ? Boolean.compare(second, first) : NATURAL.compare(a, b);
    };

    private static boolean isNumber(String part) {
        return part.charAt(0) >= '0' && part.charAt(0) <= '9';
    }

    private static List<String> parts(String text) {
        List<String> all = new ArrayList<>();
        Matcher m = PARTS.matcher(text);
        while (m.find()) {
            all.add(m.group());
        }
        return all;
    }
}
