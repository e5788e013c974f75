/** The places: sites, doors, cameras, and which camera looks at which side of which door. */
package org.custodia.core.site;
