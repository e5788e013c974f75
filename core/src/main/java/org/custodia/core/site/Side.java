package org.custodia.core.site;

/** A side of a door: where somebody stands who comes in, or who goes out. */
public enum Side {
    ENTRY,
    EXIT
}
