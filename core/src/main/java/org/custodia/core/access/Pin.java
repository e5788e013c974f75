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

    /**
     * What its owner types instead when somebody forces them to: the last digit one higher, nine becoming nought. It opens the
     * door as the right one does, and says so to whoever can help.
     */
    public Pin underDuress() {
        if (digits.isEmpty() || !Character.isDigit(digits.charAt(digits.length() - 1))) {
            return this;
        }
        int last = (Character.digit(digits.charAt(digits.length() - 1), 10) + 1) % 10;
        return new Pin(digits.substring(0, digits.length() - 1) + last);
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
