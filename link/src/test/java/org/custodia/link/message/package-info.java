/** Messages sent to servers that behave, and to servers that do not. */
package org.custodia.link.message;
