/** What is to be done about alarms, step by step: shown with an alarm, and edited. */
package org.custodia.desktop.procedure;
