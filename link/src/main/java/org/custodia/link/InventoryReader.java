package org.custodia.link;

import java.io.IOException;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.access.Credential;
import org.custodia.core.access.Person;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.custodia.wire.AccessMessages.People;
import org.custodia.wire.AccessMessages.Places;
import org.custodia.wire.AccessMessages.WireCredential;
import org.custodia.wire.AccessMessages.WireDoor;
import org.custodia.wire.AccessMessages.WirePerson;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Reads an access system's inventory: places first, then people page by page; photos, which nobody waits for, in the background. */
final class InventoryReader {
    private static final Logger LOG = LoggerFactory.getLogger(InventoryReader.class);
    private static final int PAGE = 500;
    private static final int MOST_PEOPLE = 500_000;
    private static final int LARGEST_PHOTO = 2 * 1024 * 1024;

    private final SystemId system;
    private final Requests requests;
    private final Inventory target;
    private String version = "";
    private List<WirePerson> photosOf = List.of();
    private volatile Thread photos;

    InventoryReader(SystemId system, Requests requests, Inventory target) {
        this.system = system;
        this.requests = requests;
        this.target = target;
    }

    /** Reads everything if the version is not the one read last. */
    void read(String newVersion) throws IOException {
        if (version.equals(newVersion)) {
            return;
        }
        places(requests.get("inventory/places", Places.class));
        photosOf = people();
        version = String.valueOf(newVersion);
    }

    /** Begins to fetch the photos of those read last; does nothing if that was begun. */
    void fetchPhotos() {
        List<WirePerson> people = photosOf;
        photosOf = List.of();
        if (people.isEmpty()) {
            return;
        }
        close();
        photos = HttpAccessLink.daemon(() -> photos(people), "link " + system + " photos");
        photos.start();
    }

    /** Ends what goes on in the background. */
    void close() {
        Thread running = photos;
        if (running != null) {
            running.interrupt();
            try {
                running.join(3_000);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        }
    }

    private void places(Places places) throws LinkException {
        try {
            List<Site> sites = places.sites().stream()
                    .map(s -> new Site(new SiteId(s.id()), s.name(), ZoneId.of(s.timeZone())))
                    .toList();
            target.places(system, sites, places.doors().stream().map(this::door).toList());
        } catch (DateTimeException | IllegalArgumentException | NullPointerException e) {
            throw new LinkException(0, "the system's list of doors cannot be understood: " + e.getMessage());
        }
    }

    private Door door(WireDoor d) {
        Set<DoorCapability> capabilities = EnumSet.noneOf(DoorCapability.class);
        for (String word : d.capabilities()) {
            try {
                capabilities.add(
                        DoorCapability.valueOf(word.toUpperCase(Locale.ROOT).replace('-', '_')));
            } catch (IllegalArgumentException e) {
                LOG.info("{} can do something that is not known here: {}", d.name(), word);
            }
        }
        return new Door(
                new DoorId(system.value() + "/" + d.id()),
                system,
                new ControllerId(system.value() + "/" + d.controller()),
                d.name(),
                new SiteId(d.site()),
                Optional.ofNullable(d.level()).orElse(""),
                Optional.ofNullable(d.outside()).orElse(""),
                Optional.ofNullable(d.inside()).orElse(""),
                Duration.ofSeconds(Math.max(1, d.heldLimitSeconds())),
                capabilities);
    }

    private List<WirePerson> people() throws IOException {
        List<WirePerson> all = new ArrayList<>();
        String after = "";
        People page;
        do {
            page = requests.get(
                    "inventory/people?limit=" + PAGE + "&after=" + URLEncoder.encode(after, StandardCharsets.UTF_8),
                    People.class);
            all.addAll(page.people());
            if (page.people().isEmpty() || all.size() > MOST_PEOPLE) {
                break;
            }
            after = page.people().get(page.people().size() - 1).id();
        } while (page.more());
        try {
            List<Person> people = all.stream().map(this::person).toList();
            List<Credential> credentials = all.stream()
                    .flatMap(p -> Optional.ofNullable(p.credentials()).orElse(List.of()).stream()
                            .map(c -> credential(p, c)))
                    .toList();
            target.people(system, people, credentials);
        } catch (IllegalArgumentException | NullPointerException e) {
            throw new LinkException(0, "the system's list of people cannot be understood: " + e.getMessage());
        }
        return all;
    }

    private PersonId id(WirePerson p) {
        return new PersonId(system.value() + "/" + p.id());
    }

    private Person person(WirePerson p) {
        return new Person(
                id(p),
                p.name(),
                Optional.ofNullable(p.company()).orElse(""),
                Optional.ofNullable(p.kind()).orElse(""),
                Optional.ofNullable(p.until()),
                p.stopped(),
                Optional.ofNullable(p.photo()));
    }

    private Credential credential(WirePerson p, WireCredential c) {
        return new Credential(
                c.number(),
                Credential.Kind.valueOf(c.kind().toUpperCase(Locale.ROOT)),
                id(p),
                Credential.Status.valueOf(c.status().toUpperCase(Locale.ROOT)),
                Optional.ofNullable(c.from()),
                Optional.ofNullable(c.until()),
                Optional.empty());
    }

    private void photos(List<WirePerson> people) {
        for (WirePerson p : people) {
            if (Thread.currentThread().isInterrupted()) {
                return;
            }
            try {
                if (p.photo() != null && target.wantsPhoto(id(p), p.photo())) {
                    photo(p);
                }
            } catch (IOException | RuntimeException e) {
                if (!Thread.currentThread().isInterrupted()) {
                    LOG.warn("The photo of {} could not be fetched: {}", p.id(), e.getMessage());
                }
            }
        }
    }

    private void photo(WirePerson p) throws IOException {
        String path = "people/" + URLEncoder.encode(p.id(), StandardCharsets.UTF_8) + "/photo";
        target.photo(id(p), p.photo(), requests.whole(requests.open(path, null, null), LARGEST_PHOTO));
    }
}
