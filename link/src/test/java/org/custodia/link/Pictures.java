package org.custodia.link;

import com.sun.net.httpserver.HttpExchange;
import java.io.IOException;

/** The beginnings of pictures. */
final class Pictures {
    private Pictures() {}

    /** A JPEG that says how large it is, and has nothing else. */
    static byte[] jpegHeader(int width, int height) {
        return new byte[] {
            (byte) 0xff,
            (byte) 0xd8,
            (byte) 0xff,
            (byte) 0xe0,
            0,
            4,
            0,
            0,
            (byte) 0xff,
            (byte) 0xc0,
            0,
            11,
            8,
            (byte) (height >> 8),
            (byte) height,
            (byte) (width >> 8),
            (byte) width,
            1,
            1,
            17,
            0
        };
    }

    static void send(HttpExchange exchange, byte[] bytes) throws IOException {
        exchange.sendResponseHeaders(200, bytes.length);
        exchange.getResponseBody().write(bytes);
        exchange.close();
    }
}
