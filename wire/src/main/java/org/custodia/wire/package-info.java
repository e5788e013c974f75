/**
 * The messages that cross a link, as records, and their JSON form; docs/link-protocol.md describes them. Begin with {@link
 * org.custodia.wire.Wire}, which writes and reads them, and {@link org.custodia.wire.Fields}, which reads a message field
 * by field so that one odd thing costs itself alone. Values; used from any thread.
 */
package org.custodia.wire;
