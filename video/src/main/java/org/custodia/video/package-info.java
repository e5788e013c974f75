/**
 * Pictures from recorders: live, played back and still, decoded away from the interface's thread. Begin with {@link
 * org.custodia.video.VideoDesk}, which the hub opens and closes and which shares one decoder a camera, and {@link
 * org.custodia.video.Pictures}, which is what one operator may see of it. Frames are handed out on decoding threads. No
 * widgets here.
 */
package org.custodia.video;
