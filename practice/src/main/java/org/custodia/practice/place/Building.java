package org.custodia.practice.place;

import java.time.ZoneId;

/**
 * One of the sites.
 *
 * @param accessSystem the access system that drives its doors
 * @param recorder the recorder that keeps its pictures
 * @param outdoors the zone from which people come
 */
public record Building(
        String id,
        String title,
        ZoneId zone,
        String accessSystem,
        String recorder,
        String outdoors,
        boolean saysSide) {}
