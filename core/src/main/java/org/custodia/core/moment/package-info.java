/** The one instant that the whole console shows. */
package org.custodia.core.moment;
