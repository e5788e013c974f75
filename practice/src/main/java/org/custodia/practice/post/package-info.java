/** Takes the messages that a console sends: a mail server and an address of the web, which keep what came to be looked at. */
package org.custodia.practice.post;
