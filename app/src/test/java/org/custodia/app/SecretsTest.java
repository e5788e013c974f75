package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import ch.qos.logback.classic.Level;
import ch.qos.logback.classic.Logger;
import ch.qos.logback.classic.spi.ILoggingEvent;
import ch.qos.logback.core.AppenderBase;
import com.tngtech.archunit.core.domain.JavaClass;
import com.tngtech.archunit.core.domain.JavaField;
import com.tngtech.archunit.core.importer.ClassFileImporter;
import com.tngtech.archunit.core.importer.ImportOption.DoNotIncludeTests;
import java.io.PrintWriter;
import java.io.StringWriter;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentLinkedQueue;
import org.custodia.core.link.LinkStatus;
import org.custodia.wire.LinksFileForm;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.slf4j.LoggerFactory;

/** What nobody may read is not written anywhere. */
class SecretsTest {
    private static final Set<String> SECRET = Set.of("token", "password", "pin", "secret", "digits");

    @TempDir
    Path directory;

    /** A record prints all that it holds, unless it says otherwise. */
    @Test
    void nothing_that_holds_a_secret_prints_it() {
        List<String> found = new ArrayList<>();
        for (JavaClass type : new ClassFileImporter()
                .withImportOption(new DoNotIncludeTests())
                .importPackages("org.custodia")) {
            boolean prints = type.isRecord() && type.tryGetMethod("toString").isPresent();
            for (JavaField field : type.getFields()) {
                boolean secret = SECRET.contains(field.getName().toLowerCase(Locale.ROOT))
                        && field.getRawType().isAssignableTo(CharSequence.class);
                if (secret && prints && printsItsFields(type)) {
                    found.add(field.getFullName());
                }
            }
        }
        assertThat(found).isEmpty();
    }

    /** A record's own toString is made at run time from all its components; one that is written is not. */
    private static boolean printsItsFields(JavaClass type) {
        return type.getMethod("toString").getMethodCallsFromSelf().isEmpty()
                && type.getMethod("toString").getFieldAccesses().isEmpty();
    }

    private static final class Everything extends AppenderBase<ILoggingEvent> {
        private final ConcurrentLinkedQueue<String> lines = new ConcurrentLinkedQueue<>();

        @Override
        protected void append(ILoggingEvent event) {
            lines.add(event.getFormattedMessage());
            for (var cause = event.getThrowableProxy(); cause != null; cause = cause.getCause()) {
                lines.add(String.valueOf(cause.getMessage()));
            }
        }
    }

    @Test
    void no_token_is_logged_or_shown_however_much_we_log_and_whatever_goes_wrong() throws Exception {
        Logger root = (Logger) LoggerFactory.getLogger(org.slf4j.Logger.ROOT_LOGGER_NAME);
        Logger ours = (Logger) LoggerFactory.getLogger("org.custodia");
        Level before = ours.getLevel();
        Everything said = new Everything();
        said.start();
        List<String> shown = new ArrayList<>();
        root.addAppender(said);
        ours.setLevel(Level.TRACE);
        try (Rig rig = new Rig(directory).withHub().connected()) {
            rig.happen("{'act':'present','door':'vault-ante','badge':'20388','pin':'48151623'}");
            rig.happen("{'act':'message','target':'tidewater','message':'<nonsense>'}");
            Rig.await().until(() -> rig.hub.log().unreadCount() > 0);
            shown.add(rig.hub.links().toString());
            StringWriter checked = new StringWriter();
            LinksFileForm.Content links = LinksFiles.read(rig.site.linksFile());
            new ChecksLinks(new PrintWriter(checked)).check(links, Optional.empty());
            shown.add(checked.toString());
            shown.add(links.toString());
            rig.hub.close();
            Path wrong = directory.resolve("wrong.json");
            Files.writeString(wrong, Files.readString(rig.site.linksFile()).replace("rig-token", "another-token"));
            rig.hub = new Hub(directory.resolve("other"), LinksFiles.read(wrong), rig.clock, Rig.OPERATOR);
            Rig.await().until(() -> rig.hub.links().stream().allMatch(s -> s.state() == LinkStatus.State.DOWN));
            shown.add(rig.hub.links().toString());
            shown.add(rig.hub.mishaps().toString());
        } finally {
            root.detachAppender(said);
            ours.setLevel(before);
        }
        assertThat(said.lines).anyMatch(l -> l.contains("link.unread"));
        shown.addAll(said.lines);
        assertThat(shown)
                .noneMatch(s -> s.contains("rig-token") || s.contains("another-token") || s.contains("48151623"));
    }
}
