package org.custodia.core.link;

/**
 * Where a system's clock takes the time from.
 *
 * @param words as the system says it; at most {@value #LONGEST} characters
 * @param canSync whether it sets its clock by that when it is asked to
 */
public record ClockSource(String words, boolean canSync) {
    /** Characters. */
    public static final int LONGEST = 200;

    public ClockSource {
        words = words.length() > LONGEST ? words.substring(0, LONGEST) : words;
    }
}
