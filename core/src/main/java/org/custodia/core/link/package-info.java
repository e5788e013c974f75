/** What the rest of Custodia sees of a connection to an access system or a recorder, whatever its make. */
package org.custodia.core.link;
