/**
 * What one operator works with. {@link org.custodia.core.workplace.Workplace} is the way in: places, the log, doors, people
 * and verdicts, each as far as its operator may see it and no further. What decides is {@link
 * org.custodia.core.workplace.Permit}; which permissions open what stands in {@link org.custodia.core.workplace.Sight}.
 * Views get a workplace and never what lies behind it. One is made when somebody signs in; everything in it can be used from
 * any thread, and holds nothing that would have to be closed but the subscriptions that it hands out.
 */
package org.custodia.core.workplace;
