package org.custodia.desktop.rule;

/** The parts of a rule's sentence, each edited where it stands. */
enum Clause {
    WHAT,
    WHERE,
    WHO,
    DURING,
    HOLDING,
    OVER,
    THEN
}
