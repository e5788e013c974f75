/**
 * What stands at Sternwick: buildings, doors, cameras, people with their look, badges, levels and timetables. Begin with
 * {@link org.custodia.practice.place.Sternwick}; nothing here ever changes.
 */
package org.custodia.practice.place;
