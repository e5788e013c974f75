/** Rules of alarms: each a sentence, edited in place, and tried on what is past before it is watched. */
package org.custodia.desktop.rule;
