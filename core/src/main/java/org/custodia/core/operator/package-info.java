/**
 * Who may do what, and at which sites. Begin with {@link org.custodia.core.operator.Actor}: a value that is made when
 * somebody signs in and goes along with everything that is asked or done in their name. What each {@link
 * org.custodia.core.operator.Permission} opens stands in {@code core.workplace}.
 */
package org.custodia.core.operator;
