/**
 * The places: sites, doors, readers, cameras, and which camera looks at which side of which door. Begin with {@link
 * org.custodia.core.site.SiteModel}, which holds all of it as of one instant and never changes; {@link
 * org.custodia.core.site.Sites} gives the model of now and of any past instant, to any thread.
 */
package org.custodia.core.site;
