package org.custodia.app;

import java.io.PrintStream;
import java.util.Locale;
import org.custodia.store.Database;

/** Says on the terminal how far a log is that must be brought into a new form before Custodia can start. */
final class NewForm implements Database.Progress {
    private static final int STEP = 10;

    private final PrintStream out;
    private int said = -STEP;

    NewForm(PrintStream out) {
        this.out = out;
    }

    @Override
    public void at(long done, long of) {
        int percent = of == 0 ? 100 : (int) (100 * done / of);
        if (percent >= said + STEP) {
            said = percent - percent % STEP;
            out.println(String.format(
                    Locale.ROOT, "The log is brought into a new form: %d %% of %,d events are done.", percent, of));
        }
    }
}
