package org.custodia.desktop.desk;

import org.custodia.desktop.panel.Panels;
import org.custodia.desktop.theme.Theme;

/**
 * What a view stands in.
 *
 * @param panels where a view opens a panel over everything
 */
public record ViewContext(Desk desk, Theme theme, Panels panels) {}
