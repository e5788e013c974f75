package org.custodia.wire;

import com.fasterxml.jackson.databind.node.ObjectNode;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.time.Instant;
import java.util.HexFormat;
import java.util.Locale;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.message.Message;

/** A message as it goes to an address of the web: JSON, signed so that nobody else can send one, nor the same again later. */
public final class MessageForm {
    /** The header with when this attempt was made, as seconds since 1970. */
    public static final String TIME = "Custodia-Time";

    /** The header with the signature, in hexadecimal digits. */
    public static final String SIGNATURE = "Custodia-Signature";

    /** The header with the message's id. */
    public static final String ID = "Custodia-Message";

    private static final String HASH = "HmacSHA256";

    private MessageForm() {}

    /** The body. */
    public static byte[] write(Message message, Message.Words words) {
        ObjectNode o = Wire.mapper().createObjectNode();
        o.put("form", "custodia-message")
                .put("version", 1)
                .put("id", message.id())
                .put("attempt", message.attempt())
                .put("maybeBefore", message.maybeBefore())
                .put("sent", message.sent().toString())
                .put("occasion", message.occasion().word())
                .put("subject", words.subject())
                .put("text", words.text());
        message.alarm().ifPresent(a -> alarm(o.putObject("alarm"), a, message.sent(), words));
        message.door().ifPresent(d -> o.putObject("door")
                .put("id", d.id().value())
                .put("name", d.name())
                .put("level", d.level())
                .put("outside", d.outside())
                .put("inside", d.inside()));
        message.site().ifPresent(s -> o.putObject("site")
                .put("id", s.id().value())
                .put("name", s.name())
                .put("timeZone", s.timeZone().getId()));
        message.person().ifPresent(p -> o.putObject("person")
                .put("id", p.id().value())
                .put("name", p.name())
                .put("company", p.company())
                .put("kind", p.kind()));
        return o.toString().getBytes(StandardCharsets.UTF_8);
    }

    private static void alarm(ObjectNode o, Alarm a, Instant now, Message.Words words) {
        o.put("id", a.id().text())
                .put("rule", a.origin().rule())
                .put("name", words.what())
                .put("where", words.where())
                .put("about", a.origin().subject().toString())
                .put("priority", a.origin().priority().name().toLowerCase(Locale.ROOT))
                .put("since", a.origin().since().toString())
                .put("raised", a.origin().raised().toString())
                .put("condition", a.condition().name().toLowerCase(Locale.ROOT))
                .put("state", a.state(now).name().toLowerCase(Locale.ROOT).replace('_', '-'))
                .put("times", a.times());
        a.owner().ifPresent(w -> o.put("inHandOf", w.name()));
        a.finished().ifPresent(f -> o.put("outcome", f.outcome().word()));
    }

    /**
     * Signs a body: HMAC with SHA-256 (RFC 2104) over the time, a line feed and the body.
     *
     * @param time as it stands in {@link #TIME}
     */
    public static String signature(String key, String time, byte[] body) {
        try {
            Mac mac = Mac.getInstance(HASH);
            mac.init(new SecretKeySpec(key.getBytes(StandardCharsets.UTF_8), HASH));
            mac.update(time.getBytes(StandardCharsets.US_ASCII));
            mac.update((byte) '\n');
            return HexFormat.of().formatHex(mac.doFinal(body));
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("every Java has " + HASH, e);
        }
    }
}
