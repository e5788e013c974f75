/**
 * The texts that people read, apart from the code: one bundle a package, {@code texts.properties} in English and {@code
 * texts_de.properties} in German, as patterns of ICU, which know plurals. Begin with {@link org.custodia.desktop.text.Texts}.
 * The language is chosen once, before a window opens. For any thread.
 */
package org.custodia.desktop.text;
