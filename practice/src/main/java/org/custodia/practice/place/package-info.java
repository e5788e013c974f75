/** What stands at Sternwick: buildings, doors, cameras, people with their look, badges, levels and timetables. */
package org.custodia.practice.place;
