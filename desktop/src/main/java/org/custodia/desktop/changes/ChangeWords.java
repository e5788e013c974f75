package org.custodia.desktop.changes;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.custodia.core.alarm.Procedure;
import org.custodia.core.alarm.Rule;
import org.custodia.core.message.MailServer;
import org.custodia.core.message.Receiver;
import org.custodia.core.setup.ChangeBook.Change;
import org.custodia.core.setup.ChangeBook.Part;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Placing;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Thing;
import org.custodia.core.site.Walk;
import org.custodia.desktop.rule.RuleWords;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.Names;

/** Says what a change was: what it is about, and what of it is different. */
public final class ChangeWords {
    private static final Texts TEXTS = Texts.of(ChangeWords.class);
    /** More are not read by anybody. */
    private static final int LISTED = 3;

    private final SiteModel sites;
    private final Map<Thing, String> names;

    /**
     * @param sites gives the names of what is there
     * @param names of what systems have, also where it was left out
     */
    public ChangeWords(SiteModel sites, Map<Thing, String> names) {
        this.sites = sites;
        this.names = names;
    }

    /** In a line, what was done to what. */
    public String head(Change change) {
        String about = change.about().name().toLowerCase(Locale.ROOT);
        if (change.parts().size() > 1) {
            return TEXTS.say("many." + about, change.parts().size());
        }
        Part part = change.parts().get(0);
        return TEXTS.say("one." + about + "." + done(part), subject(part));
    }

    private static String done(Part part) {
        return part.after().isEmpty() ? "ended" : part.before().isEmpty() ? "made" : "changed";
    }

    /** What is different, or which ones, where there are several. */
    public String detail(Change change) {
        if (change.parts().size() > 1) {
            String some =
                    change.parts().stream().limit(LISTED).map(this::subject).collect(Collectors.joining(", "));
            return change.parts().size() > LISTED ? TEXTS.say("and-more", some) : some;
        }
        Part part = change.parts().get(0);
        return String.join(" · ", differences(part));
    }

    private String subject(Part part) {
        Object one = part.after().or(part::before).orElse(null);
        if (one instanceof LinkSetup link) {
            return link.name();
        } else if (one instanceof Pairing pair) {
            return TEXTS.say("pair", door(pair.door()), camera(pair.camera()));
        } else if (one instanceof Placing placing) {
            return thing(placing.thing());
        } else if (one instanceof Walk walk) {
            return TEXTS.say("walk", door(walk.first()), door(walk.second()));
        } else if (one instanceof Lookout lookout) {
            return TEXTS.say("pair", lookoutOf(lookout.of()), camera(lookout.camera()));
        } else if (one instanceof Site site) {
            return site.name();
        } else if (one instanceof Rule rule) {
            return RuleWords.name(rule.id(), rule.name());
        } else if (one instanceof Procedure procedure) {
            return procedure.name();
        } else if (one instanceof Receiver receiver) {
            return receiver.name();
        } else if (one instanceof MailServer server) {
            return server.host();
        }
        return part.id();
    }

    private List<String> differences(Part part) {
        List<String> all = new ArrayList<>();
        Object after = part.after().orElse(null);
        Object before = part.before().orElse(null);
        if (after instanceof LinkSetup || before instanceof LinkSetup) {
            LinkSetup was = (LinkSetup) before;
            LinkSetup is = (LinkSetup) after;
            if (was != null && is != null) {
                differs(all, "name", was.name(), is.name());
                differs(all, "address", was.address().toString(), is.address().toString());
                differs(all, "paused", yes(was.paused()), yes(is.paused()));
                differs(all, "open", yes(was.openAllowed()), yes(is.openAllowed()));
                differs(
                        all,
                        "clock-limit",
                        seconds(was.clockLimit().toMillis()),
                        seconds(is.clockLimit().toMillis()));
                differs(
                        all,
                        "certificate",
                        was.certificate().map(c -> c.substring(0, 16)).orElse(""),
                        is.certificate().map(c -> c.substring(0, 16)).orElse(""));
            }
        } else if (after instanceof Pairing is && before instanceof Pairing was) {
            differs(all, "view", Names.view(was.view()), Names.view(is.view()));
            differs(all, "side", side(was), side(is));
            differs(
                    all,
                    "lead-in",
                    seconds(was.leadIn().toMillis()),
                    seconds(is.leadIn().toMillis()));
            if (!was.face().equals(is.face()) || !was.faceAfter().equals(is.faceAfter())) {
                all.add(TEXTS.say("face"));
            }
        } else if (after instanceof Placing || before instanceof Placing) {
            Placing some = (Placing) (after != null ? after : before);
            Placing none = Placing.none(some.thing());
            placing(all, before == null ? none : (Placing) before, after == null ? none : (Placing) after);
        } else if (after instanceof Walk || before instanceof Walk) {
            differs(
                    all,
                    "takes",
                    before == null ? "" : seconds(((Walk) before).takes().toMillis()),
                    after == null ? "" : seconds(((Walk) after).takes().toMillis()));
        } else if (after instanceof Lookout is && before instanceof Lookout was) {
            differs(
                    all,
                    "lead-in",
                    seconds(was.leadIn().toMillis()),
                    seconds(is.leadIn().toMillis()));
        } else if (after instanceof Site is && before instanceof Site was) {
            differs(all, "name", was.name(), is.name());
            differs(all, "zone", was.timeZone().getId(), is.timeZone().getId());
        }
        return all;
    }

    private void placing(List<String> all, Placing was, Placing is) {
        if (was.leftOut() != is.leftOut()) {
            all.add(TEXTS.say(is.leftOut() ? "left-out" : "taken-in"));
        }
        differs(all, "name", said(was.name()), said(is.name()));
        differs(all, "site", said(was.site().map(this::site)), said(is.site().map(this::site)));
        differs(all, "level", said(was.level()), said(is.level()));
        differs(all, "outside", said(was.outside()), said(is.outside()));
        differs(all, "inside", said(was.inside()), said(is.inside()));
    }

    private static String said(Optional<String> words) {
        return words.orElse(TEXTS.say("as-system"));
    }

    private static void differs(List<String> all, String what, String before, String after) {
        if (!before.equals(after)) {
            all.add(TEXTS.say(
                    "difference",
                    TEXTS.say("part." + what),
                    before.isEmpty() ? TEXTS.say("none") : before,
                    after.isEmpty() ? TEXTS.say("none") : after));
        }
    }

    private static String yes(boolean so) {
        return TEXTS.say(so ? "yes" : "no");
    }

    private static String seconds(long millis) {
        return TEXTS.say("seconds", millis / 1_000.0);
    }

    private static String side(Pairing pairing) {
        return TEXTS.say("side." + pairing.side().name().toLowerCase(Locale.ROOT));
    }

    private String door(DoorId door) {
        return sites.door(door).map(Door::name).orElseGet(() -> thing(Thing.of(door)));
    }

    private String camera(CameraId camera) {
        return sites.camera(camera).map(Camera::name).orElseGet(() -> thing(Thing.of(camera)));
    }

    private String lookoutOf(Lookout.Subject of) {
        return of instanceof Lookout.OfDevice device
                ? thing(Thing.of(device.device()))
                : TEXTS.say("zone-of", ((Lookout.OfZone) of).zone(), site(((Lookout.OfZone) of).site()));
    }

    private String site(SiteId site) {
        return sites.sites().stream()
                .filter(s -> s.id().equals(site))
                .findFirst()
                .map(Site::name)
                .orElse(site.value());
    }

    private String thing(Thing thing) {
        return names.getOrDefault(thing, thing.id());
    }
}
