/** The messages that cross a link, as records, and their JSON form. docs/link-protocol.md describes them. */
package org.custodia.wire;
