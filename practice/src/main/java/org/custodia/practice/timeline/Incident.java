package org.custodia.practice.timeline;

import java.util.List;

/**
 * Something that goes wrong now and then, as the incident file describes it.
 *
 * @param does how it unfolds; see {@link Plots}
 * @param weekday how often it begins on a day from Monday to Friday, and
 * @param weekend on a Saturday or Sunday, on the average
 * @param dayOfMonth on which day of each month it happens instead
 * @param hours at which hours of the day, by the name that the file gives them
 * @param doors where; anywhere if there are none
 * @param sites at which sites; at all if there are none
 * @param roles to whom; to anybody if there are none
 * @param units which controllers or cameras; any if there are none
 * @param status of the badge it is about
 * @param lasts how long
 * @param again how likely somebody tries once more after a refusal
 * @param fetches how likely somebody fetches help then
 * @param harm whether somebody means harm
 * @param story what it is, in words
 */
public record Incident(
        String id,
        String does,
        Double weekday,
        Double weekend,
        Integer dayOfMonth,
        String hours,
        List<String> doors,
        List<String> sites,
        List<String> roles,
        List<String> units,
        String status,
        Lasts lasts,
        Double again,
        Double fetches,
        Boolean harm,
        String story) {

    /**
     * How long something lasts: distributed so that its logarithm is normal, which is how long most things take.
     *
     * @param medianSeconds half of them take longer
     * @param spread standard deviation of the natural logarithm
     */
    public record Lasts(double medianSeconds, double spread, double leastSeconds, double mostSeconds) {}
}
