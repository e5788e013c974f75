/** How somebody is reached who looks elsewhere: sound, and the desktop's own notifications. */
package org.custodia.desktop.call;
