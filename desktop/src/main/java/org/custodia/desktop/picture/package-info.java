/** Panes that show a camera: live, recorded, or the reason why there is nothing. */
package org.custodia.desktop.picture;
