/** Colours, fonts and signs, all from one set of tokens. */
package org.custodia.desktop.theme;
