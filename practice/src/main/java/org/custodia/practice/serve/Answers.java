package org.custodia.practice.serve;

import io.javalin.http.Context;
import org.custodia.wire.AccessMessages.Problem;
import org.custodia.wire.Wire;
import org.custodia.wire.WireException;

/** How requests are answered, well or badly. */
final class Answers {
    private static final int LONGEST_BODY = 64 * 1024;

    private Answers() {}

    /** The request is not what it should be. */
    static final class BadRequest extends RuntimeException {
        private static final long serialVersionUID = 1L;

        BadRequest(String message) {
            super(message);
        }
    }

    /** What was asked for is not there. */
    static final class NotFound extends RuntimeException {
        private static final long serialVersionUID = 1L;

        NotFound(String message) {
            super(message);
        }
    }

    static void json(Context ctx, Object value) {
        ctx.contentType("application/json; charset=utf-8").result(Wire.write(value));
    }

    static void problem(Context ctx, int status, String words) {
        ctx.status(status).contentType("application/json; charset=utf-8").result(Wire.write(new Problem(words)));
    }

    static <T> T body(Context ctx, Class<T> type) {
        if (ctx.contentLength() > LONGEST_BODY) {
            throw new BadRequest("longer than " + LONGEST_BODY + " bytes");
        }
        try {
            return Wire.read(ctx.body(), type);
        } catch (WireException e) {
            throw new BadRequest(e.getMessage());
        }
    }
}
