/** What cameras see: rooms, doors and people drawn from the timeline, each picture a pure function of camera and time. */
package org.custodia.practice.picture;
