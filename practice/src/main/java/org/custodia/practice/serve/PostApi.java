package org.custodia.practice.serve;

import io.javalin.Javalin;
import io.javalin.http.Context;
import java.io.IOException;
import java.io.InputStream;
import java.util.Map;
import org.custodia.practice.post.PostOffice;
import org.custodia.wire.MessageForm;

/** Takes messages at an address of the web, and shows all that came, by mail too, on a page. */
final class PostApi {
    /** Where messages are posted. */
    static final String IN = "/post/in";

    private final PostOffice post;

    PostApi(PostOffice post) {
        this.post = post;
    }

    void register(Javalin app) {
        app.post(IN, this::take);
        app.get("/post", this::page);
        app.get(
                "/post/caught",
                ctx -> Answers.json(
                        ctx,
                        Map.of("caught", post.caught(), "mailPort", post.mailPort(), "path", IN, "key", post.key())));
    }

    private void take(Context ctx) {
        if (post.webDown()) {
            ctx.status(503);
            return;
        }
        boolean good = post.take(ctx.header(MessageForm.TIME), ctx.header(MessageForm.SIGNATURE), ctx.bodyAsBytes());
        ctx.status(good ? 204 : 401);
    }

    private void page(Context ctx) throws IOException {
        try (InputStream in = PostApi.class.getResourceAsStream("post.html")) {
            ctx.contentType("text/html; charset=utf-8").result(in.readAllBytes());
        }
    }
}
