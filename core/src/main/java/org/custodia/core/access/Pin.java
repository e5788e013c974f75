package org.custodia.core.access;

/** What somebody types beside a badge. It is never printed. */
public final class Pin {
    private final String digits;

    private Pin(String digits) {
        this.digits = digits;
    }

    public static Pin of(String digits) {
        return new Pin(digits);
    }

    @Override
    public boolean equals(Object other) {
        return other instanceof Pin pin && pin.digits.equals(digits);
    }

    @Override
    public int hashCode() {
        return digits.hashCode();
    }

    @Override
    public String toString() {
        return "a PIN";
    }
}
