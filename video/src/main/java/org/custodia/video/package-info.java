/** Pictures from recorders: live, played back and still, decoded off the interface's thread. No widgets here. */
package org.custodia.video;
