/** What the console remembers from one start to the next. */
package org.custodia.desktop.settings;
