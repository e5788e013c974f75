package org.custodia.practice.place;

import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import org.custodia.core.access.Pin;
import org.custodia.practice.place.Look.Dress;
import org.custodia.practice.place.PracticePerson.Badge;
import org.custodia.practice.place.PracticePerson.Role;

/** Everybody at Sternwick, made from a seed. */
public final class People {
    private static final String[] FIRST = {
        "Asta",
        "Piers",
        "Juniper",
        "Odo",
        "Tove",
        "Sunniva",
        "Nedko",
        "Maren",
        "Halden",
        "Brisa",
        "Corin",
        "Davina",
        "Edda",
        "Fenn",
        "Gisla",
        "Hollis",
        "Ilka",
        "Jorun",
        "Kester",
        "Linnet",
        "Milo",
        "Nerys",
        "Orrin",
        "Petra",
        "Quill",
        "Runa",
        "Soren",
        "Tamsin",
        "Ulla",
        "Vidar",
        "Wenna",
        "Xanthe",
        "Yorick",
        "Zelda",
        "Anselm",
        "Beatrix",
        "Caspar",
        "Delphine",
        "Emrys",
        "Flora",
        "Gideon",
        "Hester",
        "Ivo",
        "Josephine",
        "Kerensa",
        "Leopold",
        "Morwenna",
        "Nils",
        "Oona",
        "Percival"
    };
    private static final String[] LAST = {
        "Brandvold", "Wrenfield", "Thistlewood", "Ingleholm", "Calloway", "Oyelaran", "Quillfeather", "Abara",
                "Solheim",
        "Ferreyra", "Maddern", "Pellworm", "Achterberg", "Birkeland", "Coppinger", "Dunmore", "Eskdale", "Fairweather",
        "Garrow", "Haldane", "Isbister", "Jessop", "Kirkbride", "Lindqvist", "Mossgrave", "Nakamori", "Osterhaus",
        "Penhallow", "Quenby", "Rosedale", "Silverdale", "Tregarth", "Underhill", "Varley", "Westerholm", "Yarrow",
        "Zeller", "Ashgrove", "Blackwater", "Okonjo", "Dlamini", "Rahimi", "Santerre", "Takeda", "Venkatesh",
        "Aldercott", "Bexholm", "Carrowmere", "Dunnavay", "Ellingford", "Fenwright", "Gosforth", "Hallibrand",
                "Ingersley",
        "Jarnvik", "Kelderby", "Lorrimore", "Marchbank", "Nethercott", "Ormsgill", "Pettifer", "Rathlin", "Skerritt",
        "Thornquist", "Ullathorne", "Vantreight", "Wyvern", "Abernant", "Bellweather", "Corrigal", "Delacourt",
                "Eidsvold",
        "Farrowby", "Greenhalgh", "Hartigan", "Iversen", "Juniper", "Kilbrannan", "Lindisfarne", "Montrose",
                "Norrington",
        "Olufemi", "Pemberley", "Ravensworth", "Stellanova", "Tremayne"
    };

    private final Map<String, PracticePerson> people = new LinkedHashMap<>();
    private final Map<String, PracticePerson> byBadge = new HashMap<>();
    private final Set<String> names = new HashSet<>();
    private final Random random;
    private final Instant today;
    private int number = 20100;

    /**
     * @param today around when badges end and are suspended
     */
    public People(long seed, Instant today) {
        this.random = new Random(seed);
        this.today = today;
        named();
        many(
                18,
                Role.CURATOR,
                "Sternwick Museum",
                "staff",
                Building.HARBOUR,
                "Offices",
                Dress.JUMPER,
                null,
                List.of(
                        "Print room",
                        "Reading room",
                        "Map store",
                        "Gallery north",
                        "Map gallery",
                        "Paper studio",
                        "Café kitchen",
                        "Vault ante-room"),
                "hh-staff",
                "hh-collections",
                "hh-vault");
        many(
                14,
                Role.CONSERVATOR,
                "Sternwick Museum",
                "staff",
                Building.HARBOUR,
                "Paper studio",
                Dress.APRON,
                0xe8e4da,
                List.of(
                        "Print room",
                        "Map store",
                        "Vault ante-room",
                        "Gallery south",
                        "Café kitchen",
                        "Offices",
                        "Vault"),
                "hh-staff",
                "hh-collections",
                "hh-vault");
        many(
                44,
                Role.ATTENDANT,
                "Sternwick Museum",
                "staff",
                Building.HARBOUR,
                "Gallery north",
                Dress.BLAZER,
                0x6d2436,
                List.of(
                        "Gallery south",
                        "Map gallery",
                        "Foyer",
                        "Guard room",
                        "Café kitchen",
                        "Staff corridor",
                        "Reading room"),
                "hh-staff",
                "hh-galleries");
        many(
                12,
                Role.GUARD,
                "Sternwick Museum",
                "staff",
                Building.HARBOUR,
                "Guard room",
                Dress.BLAZER,
                0x1f2c46,
                List.of(
                        "Gallery north",
                        "Gallery south",
                        "Map gallery",
                        "Loading bay",
                        "Roof store",
                        "Strongroom corridor",
                        "Print room",
                        "Reading room",
                        "Offices"),
                "hh-staff",
                "hh-guards");
        many(
                4,
                Role.GUARD,
                "Sternwick Museum",
                "staff",
                Building.NORTHGATE,
                "Store lobby",
                Dress.BLAZER,
                0x1f2c46,
                List.of("Dry hall 1", "Dry hall 2", "Dry hall 3", "Dock", "Picture racks A", "Plant room"),
                "ng-staff",
                "ng-all");
        many(
                10,
                Role.SHOP,
                "Sternwick Museum",
                "staff",
                Building.HARBOUR,
                "Shop",
                Dress.JUMPER,
                0x2f6f6a,
                List.of("Shop store", "Café kitchen", "Staff corridor", "Loading bay"),
                "hh-staff",
                "hh-shop");
        many(
                14,
                Role.CAFE,
                "Harbour Café",
                "contractor",
                Building.HARBOUR,
                "Café kitchen",
                Dress.APRON,
                0x3d3d3d,
                List.of("Loading bay", "Foyer", "Staff corridor"),
                "hh-staff",
                "hh-shop");
        many(
                12,
                Role.TECHNICIAN,
                "Sternwick Museum",
                "staff",
                Building.HARBOUR,
                "Loading bay",
                Dress.VEST,
                0xb5762a,
                List.of(
                        "Gallery north",
                        "Gallery south",
                        "Map gallery",
                        "Print room",
                        "Roof store",
                        "Map store",
                        "Paper studio"),
                "hh-staff",
                "hh-galleries",
                "hh-collections",
                "hh-loading");
        many(
                12,
                Role.TECHNICIAN,
                "Sternwick Museum",
                "staff",
                Building.NORTHGATE,
                "Store lobby",
                Dress.VEST,
                0xb5762a,
                List.of(
                        "Dry hall 1",
                        "Dry hall 2",
                        "Dry hall 3",
                        "Picture racks A",
                        "Picture racks B",
                        "Frame workshop",
                        "Dock",
                        "Plant room"),
                "ng-staff",
                "ng-all");
        many(
                12,
                Role.TECHNICIAN,
                "Sternwick Museum",
                "staff",
                Building.YARD,
                "Joiners' workshop",
                Dress.VEST,
                0x9a5a24,
                List.of("Paint shop", "Tool store", "Yard offices", "Yard", "Kiln room"),
                "cy-staff",
                "cy-workshops");
        many(
                12,
                Role.VOLUNTEER,
                "Friends of Sternwick",
                "volunteer",
                Building.HARBOUR,
                "Foyer",
                Dress.COAT,
                null,
                List.of("Reading room", "Gallery south", "Gallery north", "Café kitchen"),
                "hh-volunteers");
        many(
                8,
                Role.VOLUNTEER,
                "Friends of Sternwick",
                "volunteer",
                Building.YARD,
                "Garden",
                Dress.COAT,
                null,
                List.of("Yard offices"),
                "cy-staff");
        many(
                12,
                Role.EDUCATOR,
                "Sternwick Museum",
                "staff",
                Building.YARD,
                "Education room 1",
                Dress.JUMPER,
                null,
                List.of("Education room 2", "Yard offices", "Kiln room", "Yard"),
                "cy-staff");
        many(
                10,
                Role.CLEANER,
                "Ostler Cleaning",
                "contractor",
                Building.HARBOUR,
                "Staff corridor",
                Dress.VEST,
                0x2f7d80,
                List.of(
                        "Gallery north",
                        "Gallery south",
                        "Map gallery",
                        "Foyer",
                        "Reading room",
                        "Offices",
                        "Café kitchen",
                        "Print room",
                        "Paper studio"),
                "hh-cleaning");
        many(
                4,
                Role.CLEANER,
                "Ostler Cleaning",
                "contractor",
                Building.YARD,
                "Yard offices",
                Dress.VEST,
                0x2f7d80,
                List.of("Education room 2", "Yard", "Kiln room"),
                "cy-cleaning");
        many(
                7,
                Role.CARRIER,
                "Castellane Transport",
                "contractor",
                Building.HARBOUR,
                "Loading bay",
                Dress.VEST,
                0xc4b13a,
                List.of("Loading bay"),
                "hh-deliveries");
        many(
                4,
                Role.LIFT_ENGINEER,
                "Brightwater Lifts",
                "contractor",
                Building.NORTHGATE,
                "Upper landing",
                Dress.VEST,
                0x35518a,
                List.of("Plant room", "Store lobby"),
                "ng-staff",
                "ng-all");
        many(
                20,
                Role.OFFICE,
                "Sternwick Museum",
                "staff",
                Building.HARBOUR,
                "Offices",
                Dress.COAT,
                null,
                List.of("Café kitchen", "Reading room", "Foyer", "Staff corridor"),
                "hh-staff",
                "hh-offices");
        many(
                6,
                Role.OFFICE,
                "Sternwick Museum",
                "staff",
                Building.YARD,
                "Yard offices",
                Dress.COAT,
                null,
                List.of("Education room 2", "Yard", "Garden"),
                "cy-staff");
        many(
                22,
                Role.READER,
                "Reading room",
                "visitor",
                Building.HARBOUR,
                "Reading room",
                Dress.COAT,
                null,
                List.of("Foyer"),
                "hh-readers");
    }

    /** People whom incidents and tests know by name. */
    private void named() {
        add(
                "Asta Brandvold",
                Role.ATTENDANT,
                "Sternwick Museum",
                "staff",
                Building.HARBOUR,
                "Gallery south",
                Dress.BLAZER,
                0x6d2436,
                List.of("Foyer", "Guard room"),
                List.of("hh-staff", "hh-galleries"),
                "20153",
                "active",
                null,
                false);
        add(
                "Piers Wrenfield",
                Role.CARRIER,
                "Castellane Transport",
                "contractor",
                Building.HARBOUR,
                "Loading bay",
                Dress.VEST,
                0x4e6b4b,
                List.of("Loading bay"),
                List.of("hh-deliveries"),
                "20388",
                "active",
                null,
                false);
        add(
                "Juniper Thistlewood",
                Role.CONSERVATOR,
                "Sternwick Museum",
                "staff",
                Building.HARBOUR,
                "Paper studio",
                Dress.APRON,
                0xe8e4da,
                List.of("Vault ante-room", "Print room"),
                List.of("hh-staff", "hh-collections", "hh-vault", "hh-strongroom"),
                "20417",
                "active",
                null,
                false);
        add(
                "Odo Castellane",
                Role.CARRIER,
                "Castellane Transport",
                "contractor",
                Building.HARBOUR,
                "Loading bay",
                Dress.VEST,
                0xc4b13a,
                List.of("Loading bay"),
                List.of("hh-deliveries"),
                "31907",
                "active",
                today.minus(22, ChronoUnit.DAYS),
                false);
        add(
                "Tove Ingleholm",
                Role.CURATOR,
                "Sternwick Museum",
                "staff",
                Building.HARBOUR,
                "Offices",
                Dress.JUMPER,
                0x6f5b8c,
                List.of("Vault ante-room", "Map store"),
                List.of("hh-staff", "hh-collections", "hh-vault", "hh-strongroom"),
                "20266",
                "active",
                null,
                false);
        add(
                "Sunniva Calloway",
                Role.CONSERVATOR,
                "Sternwick Museum",
                "staff",
                Building.HARBOUR,
                "Paper studio",
                Dress.APRON,
                0xe8e4da,
                List.of("Print room", "Map store"),
                List.of("hh-staff", "hh-collections", "hh-vault"),
                "20199",
                "active",
                null,
                false);
        add(
                "Nedko Dragan",
                Role.TECHNICIAN,
                "Sternwick Museum",
                "staff",
                Building.HARBOUR,
                "Loading bay",
                Dress.VEST,
                0xb5762a,
                List.of("Gallery north"),
                List.of("hh-staff", "hh-loading"),
                "20310",
                "suspended",
                null,
                false);
        add(
                "Maren Solheim",
                Role.CURATOR,
                "Sternwick Museum",
                "staff",
                Building.HARBOUR,
                "Print room",
                Dress.JUMPER,
                0x3b6d70,
                List.of("Map store", "Reading room", "Paper studio"),
                List.of("hh-staff", "hh-collections", "hh-vault", "hh-strongroom"),
                "20171",
                "active",
                null,
                false);
        add(
                "Halden Oyelaran",
                Role.GUARD,
                "Sternwick Museum",
                "staff",
                Building.HARBOUR,
                "Guard room",
                Dress.BLAZER,
                0x1f2c46,
                List.of("Strongroom corridor", "Roof store", "Gallery north"),
                List.of("hh-staff", "hh-guards"),
                "20144",
                "active",
                null,
                false);
        add(
                "Brisa Ferreyra",
                Role.READER,
                "Reading room",
                "visitor",
                Building.HARBOUR,
                "Reading room",
                Dress.COAT,
                null,
                List.of("Foyer"),
                List.of("hh-readers"),
                "20405",
                "lost",
                null,
                false);
    }

    private void many(
            int count,
            Role role,
            String company,
            String kind,
            Building home,
            String base,
            Dress dress,
            Integer coat,
            List<String> haunts,
            String... levels) {
        for (int i = 0; i < count; i++) {
            String name;
            do {
                name = FIRST[random.nextInt(FIRST.length)] + " " + LAST[random.nextInt(LAST.length)];
            } while (names.contains(name));
            Instant until = kind.equals("staff") ? null : today.plus(10 + random.nextInt(300), ChronoUnit.DAYS);
            String badge;
            do {
                badge = Integer.toString(number++);
            } while (byBadge.containsKey(badge));
            add(
                    name,
                    role,
                    company,
                    kind,
                    home,
                    base,
                    dress,
                    coat,
                    haunts,
                    List.of(levels),
                    badge,
                    "active",
                    until,
                    false);
        }
    }

    private void add(
            String name,
            Role role,
            String company,
            String kind,
            Building home,
            String base,
            Dress dress,
            Integer coat,
            List<String> haunts,
            List<String> levels,
            String badge,
            String status,
            Instant until,
            boolean stopped) {
        names.add(name);
        String id = String.format("p%03d", people.size() + 1);
        List<Badge> badges = new ArrayList<>();
        badges.add(new Badge(badge, "card", status, Optional.ofNullable(until)));
        PracticePerson person = new PracticePerson(
                id,
                name,
                company,
                kind,
                role,
                home,
                base,
                haunts,
                levels,
                badges,
                Pin.of(String.format("%04d", 1000 + random.nextInt(9000))),
                Optional.ofNullable(until),
                stopped,
                Look.random(random, dress, coat));
        people.put(id, person);
        byBadge.put(badge, person);
    }

    public List<PracticePerson> all() {
        return List.copyOf(people.values());
    }

    public Optional<PracticePerson> byId(String id) {
        return Optional.ofNullable(people.get(id));
    }

    public Optional<PracticePerson> byBadge(String badge) {
        return Optional.ofNullable(byBadge.get(badge));
    }

    /** The first with that name. */
    public PracticePerson named(String name) {
        return people.values().stream()
                .filter(p -> p.name().equals(name))
                .findFirst()
                .orElseThrow();
    }
}
