/** Who may do what, and what they did. */
package org.custodia.core.operator;
