package org.custodia.practice.place;

import java.time.ZoneId;

/** The three buildings. Northgate stands on an island whose clocks are an hour behind. */
public enum Building {
    HARBOUR("harbour", "Harbour House", "Europe/London", "tidewater", "quayside"),
    NORTHGATE("northgate", "Northgate Store", "Atlantic/Azores", "larkspur", "ferry"),
    YARD("yard", "Cooper's Yard", "Europe/London", "tidewater", "ferry");

    private final String id;
    private final String title;
    private final ZoneId zone;
    private final String accessSystem;
    private final String recorder;

    Building(String id, String title, String zone, String accessSystem, String recorder) {
        this.id = id;
        this.title = title;
        this.zone = ZoneId.of(zone);
        this.accessSystem = accessSystem;
        this.recorder = recorder;
    }

    public String id() {
        return id;
    }

    public String title() {
        return title;
    }

    public ZoneId zone() {
        return zone;
    }

    /** The access system that drives its doors. */
    public String accessSystem() {
        return accessSystem;
    }

    /** The recorder that keeps its pictures. */
    public String recorder() {
        return recorder;
    }

    static Building of(String id) {
        for (Building b : values()) {
            if (b.id.equals(id)) {
                return b;
            }
        }
        throw new IllegalArgumentException("no such building: " + id);
    }
}
