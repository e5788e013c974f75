/**
 * Words for {@link org.custodia.core.saying.Saying}s, in the language that was chosen. Begin with {@link
 * org.custodia.desktop.saying.SayingWords}; used by any thread, and by the terminal as well.
 */
package org.custodia.desktop.saying;
