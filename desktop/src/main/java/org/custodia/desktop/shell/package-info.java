/** What is around the views: the spine, the top bar, finding, the sheet of shortcuts, the window. */
package org.custodia.desktop.shell;
