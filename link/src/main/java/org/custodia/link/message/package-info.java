/** How messages about alarms go out: by mail, and to addresses of the web. */
package org.custodia.link.message;
