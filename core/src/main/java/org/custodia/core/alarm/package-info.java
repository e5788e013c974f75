/**
 * What operators are called for, and what was done about it. Enter by {@link org.custodia.core.alarm.AlarmDesk}.
 *
 * <p>A {@link org.custodia.core.alarm.Rule} says when; {@link org.custodia.core.alarm.Detector} goes through events by rules and
 * finds what they are about; the desk raises an alarm by a fact in the log, once, and everything that happens to it afterwards
 * is a fact as well. {@link org.custodia.core.alarm.AlarmBook} folds those facts by their position in the log: what a rule says
 * later changes nothing of what was raised, and a replay raises nothing again. The states are those of ISA-18.2 and
 * IEC 62682; whether the condition lasts is told apart from whether it was dealt with.
 *
 * <p>The desk lives as long as the log is open and has a thread of its own; rules, detector and book know no threads.
 */
package org.custodia.core.alarm;
