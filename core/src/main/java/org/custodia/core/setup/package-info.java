/**
 * Setting Custodia up: which systems it is connected to. Enter by {@link org.custodia.core.setup.SetupDesk}, which asks for
 * permission, keeps what is set up in a {@link org.custodia.core.setup.LinkBook} and its secrets apart in {@link
 * org.custodia.core.setup.Secrets}, and has {@link org.custodia.core.setup.Connections} opened and closed by that. One desk
 * lives as long as the hub; used from any thread, but not from one that must not wait.
 */
package org.custodia.core.setup;
