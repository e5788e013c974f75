/**
 * What systems have, put in its place: a page of Setup. Enter by {@link org.custodia.desktop.inventory.InventoryPage}. {@code
 * InventoryModel} has what was found, as far as it fits what is looked for, and says where things are; {@code PlacingPart}
 * changes what is chosen, {@code NeighboursPart} the neighbours of one door, {@code ProposedNeighbours} shows which doors
 * history tells to be neighbours. Lives as long as the window; used on the JavaFX thread.
 */
package org.custodia.desktop.inventory;
