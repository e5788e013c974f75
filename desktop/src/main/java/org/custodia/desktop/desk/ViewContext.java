package org.custodia.desktop.desk;

import java.util.function.BooleanSupplier;
import org.custodia.desktop.panel.Panels;
import org.custodia.desktop.theme.Theme;

/**
 * What a view stands in.
 *
 * @param panels where a view opens a panel over everything
 * @param nobodyPoints whether things may change their places: the pointer rests and nothing is open
 */
public record ViewContext(Desk desk, Theme theme, Panels panels, BooleanSupplier nobodyPoints) {}
