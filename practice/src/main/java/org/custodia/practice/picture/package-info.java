/**
 * What cameras see: rooms, doors and people drawn from the timeline, each picture a pure function of camera and time. Begin
 * with {@link org.custodia.practice.picture.CameraPictures}; used from any thread.
 */
package org.custodia.practice.picture;
