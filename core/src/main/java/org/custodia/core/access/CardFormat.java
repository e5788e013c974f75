package org.custodia.core.access;

/**
 * What numbers the readers of a system are set up for.
 *
 * @param digits how many digits such a number has
 */
public record CardFormat(String id, String name, int digits) {
    /**
     * @throws IllegalArgumentException if numbers could have no digits
     */
    public CardFormat {
        if (digits < 1) {
            throw new IllegalArgumentException("a number has at least one digit, not " + digits);
        }
    }

    /** Whether a number is one of this format. */
    public boolean fits(String number) {
        return number.length() == digits && number.chars().allMatch(c -> c >= '0' && c <= '9');
    }
}
