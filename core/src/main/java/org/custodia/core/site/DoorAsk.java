package org.custodia.core.site;

/** What a door asks for on the way in beyond a badge whose level opens it. */
public enum DoorAsk {
    /** A PIN. */
    PIN,
    /** A second person with a badge. */
    TWO_PERSONS,
    /** That whoever has gone in has come out before going in again. */
    ONCE_INSIDE
}
