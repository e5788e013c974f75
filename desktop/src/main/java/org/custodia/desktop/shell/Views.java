package org.custodia.desktop.shell;

import java.util.List;
import org.custodia.desktop.alarm.AlarmsView;
import org.custodia.desktop.desk.MainView;
import org.custodia.desktop.setup.SetupView;
import org.custodia.desktop.watch.WatchView;

/** All views, in the order in which the spine shows them. */
final class Views {
    static final List<MainView.Plug> ALL = List.of(WatchView.PLUG, AlarmsView.PLUG, SetupView.PLUG);

    private Views() {}
}
