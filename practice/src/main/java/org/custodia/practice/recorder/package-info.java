/** The recorders of the practice site: live pictures, footage and stills, encoded on demand. */
package org.custodia.practice.recorder;
