package org.custodia.practice.post;

import static org.assertj.core.api.Assertions.assertThat;

import com.icegreen.greenmail.util.GreenMailUtil;
import com.icegreen.greenmail.util.ServerSetup;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import org.custodia.practice.SteppedClock;
import org.custodia.wire.MessageForm;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** What came is kept to be looked at, and what is not what it says is told apart. */
class PostOfficeTest {
    private final SteppedClock clock = new SteppedClock(Instant.parse("2026-11-24T14:20:00Z"));
    private final PostOffice post = new PostOffice(clock, "token");

    @AfterEach
    void close() {
        post.close();
    }

    private static byte[] body(String id) {
        return ("{\"id\": \"" + id + "\", \"subject\": \"Forced open\", \"attempt\": 1}")
                .getBytes(StandardCharsets.UTF_8);
    }

    private boolean take(String id, Instant signed, String key) {
        String time = String.valueOf(signed.getEpochSecond());
        return post.take(time, MessageForm.signature(key, time, body(id)), body(id));
    }

    private String remark() {
        return post.caught().get(0).remark();
    }

    @Test
    void a_web_message_is_believed_by_its_signature_and_its_time() {
        Instant now = clock.instant();
        assertThat(take("a", now, post.key())).isTrue();
        assertThat(remark()).startsWith("signature holds");
        assertThat(take("a", now, post.key())).isTrue();
        assertThat(remark()).endsWith("came before");
        assertThat(take("b", now, "another key")).isFalse();
        assertThat(take("c", now.minus(Duration.ofHours(1)), post.key())).isFalse();
        assertThat(remark()).startsWith("signed at another time");
        assertThat(post.take(null, null, body("d"))).isFalse();
        assertThat(post.take("x", "y", "no JSON".getBytes(StandardCharsets.UTF_8)))
                .isFalse();
        assertThat(post.caught()).hasSize(5);
        try (PostOffice other = new PostOffice(clock, "other")) {
            assertThat(other.key()).isNotEqualTo(post.key());
        }
    }

    @Test
    void the_mail_server_goes_and_comes_back_at_the_same_port() throws IOException {
        ServerSetup setup = new ServerSetup(post.mailPort(), "127.0.0.1", ServerSetup.PROTOCOL_SMTP);
        GreenMailUtil.sendTextEmail("duty@sternwick.example", "us@sternwick.example", "First", "text", setup);
        assertThat(post.caught()).extracting(Caught::subject).containsExactly("First");
        post.down(false, clock.instant().plusSeconds(60));
        assertThat(answers()).isFalse();
        clock.advance(Duration.ofSeconds(61));
        post.tick();
        assertThat(answers()).isTrue();
        GreenMailUtil.sendTextEmail("duty@sternwick.example", "us@sternwick.example", "Second", "text", setup);
        assertThat(post.caught()).extracting(Caught::subject).containsExactly("Second", "First");
        post.down(true, clock.instant().plusSeconds(60));
        assertThat(post.webDown()).isTrue();
        clock.advance(Duration.ofSeconds(61));
        assertThat(post.webDown()).isFalse();
    }

    private boolean answers() {
        try (Socket socket = new Socket()) {
            socket.connect(new InetSocketAddress("127.0.0.1", post.mailPort()), 2_000);
            return true;
        } catch (IOException e) {
            return false;
        }
    }
}
