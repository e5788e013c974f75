/**
 * What the rest of Custodia sees of a connection to an access system or a recorder, whatever its make: {@link
 * org.custodia.core.link.AccessLink} and {@link org.custodia.core.link.RecorderLink}, and how it is doing, {@link
 * org.custodia.core.link.LinkStatus}. Links are made and closed by the hub and can be used from any thread.
 */
package org.custodia.core.link;
