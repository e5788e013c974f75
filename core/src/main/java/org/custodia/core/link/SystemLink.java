package org.custodia.core.link;

import org.custodia.core.site.SystemId;

/** A connection to a system of any kind, from its making to its closing. */
public sealed interface SystemLink extends AutoCloseable permits AccessLink, RecorderLink {
    SystemId system();

    LinkStatus status();

    @Override
    void close();
}
