/**
 * What operators are called for, and what they do about it. Enter by {@link org.custodia.desktop.alarm.AlarmsView}, which holds
 * the queue and, beside it, {@code AlarmPart} with the one that is chosen; {@link org.custodia.desktop.alarm.AlarmLine} says the
 * worst that nobody has seen in every view. What stands now is {@link org.custodia.desktop.desk.LiveAlarms}' to know. On the
 * JavaFX thread.
 */
package org.custodia.desktop.alarm;
