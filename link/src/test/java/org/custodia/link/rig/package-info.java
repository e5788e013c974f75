/** Systems that are played by a script: they send any line, cut anywhere, lie, hang, and come back with other numbers. */
package org.custodia.link.rig;
