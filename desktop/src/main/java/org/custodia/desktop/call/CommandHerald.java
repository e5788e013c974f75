package org.custodia.desktop.call;

import java.io.File;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;

/** By the freedesktop notification command, where the desktop has one. */
public final class CommandHerald implements Herald {
    private static final String COMMAND = "notify-send";

    private final Optional<Path> command;
    /** Not more than one at a time: a desktop that hangs gets no more. */
    private Process running;

    public CommandHerald() {
        this(System.getenv());
    }

    CommandHerald(Map<String, String> environment) {
        boolean desktop = environment.containsKey("DBUS_SESSION_BUS_ADDRESS")
                || environment.containsKey("DISPLAY")
                || environment.containsKey("WAYLAND_DISPLAY");
        boolean linux =
                System.getProperty("os.name", "").toLowerCase(Locale.ROOT).contains("linux");
        this.command = linux && desktop
                ? Stream.of(environment.getOrDefault("PATH", "").split(File.pathSeparator))
                        .filter(p -> !p.isBlank())
                        .map(p -> Path.of(p, COMMAND))
                        .filter(Files::isExecutable)
                        .findFirst()
                : Optional.empty();
    }

    @Override
    public synchronized void tell(String title, String words) {
        if (command.isEmpty() || running != null && running.isAlive()) {
            return;
        }
        try {
            // Given as arguments, never through a shell; what begins with a dash is no option after --.
            running = new ProcessBuilder(
                            command.get().toString(), "--app-name=Custodia", "--urgency=critical", "--", title, words)
                    .redirectErrorStream(true)
                    .redirectOutput(ProcessBuilder.Redirect.DISCARD)
                    .start();
            running.onExit().orTimeout(10, TimeUnit.SECONDS).whenComplete((p, late) -> {
                if (late != null) {
                    destroy();
                }
            });
        } catch (IOException e) {
            // It is seen in the window and heard all the same.
            running = null;
        }
    }

    private synchronized void destroy() {
        if (running != null) {
            running.destroyForcibly();
        }
    }
}
