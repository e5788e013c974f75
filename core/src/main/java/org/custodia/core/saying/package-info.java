/**
 * What is to be said to people, as codes with parameters: the log, links and computations hold {@link
 * org.custodia.core.saying.Saying}s, and words are made of them in the reader's language where they are read. Immutable.
 */
package org.custodia.core.saying;
