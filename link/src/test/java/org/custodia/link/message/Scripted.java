package org.custodia.link.message;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.io.OutputStream;
import java.io.UncheckedIOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;

/** A server on loopback that does with each connection what a test says. */
final class Scripted implements AutoCloseable {
    /** What it does with one. */
    interface Act {
        void with(BufferedReader in, OutputStream out) throws IOException;
    }

    private final ServerSocket server;
    private final Set<Socket> open = ConcurrentHashMap.newKeySet();

    Scripted(Act act) {
        try {
            server = new ServerSocket(0, 50, InetAddress.getLoopbackAddress());
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        thread(() -> {
            while (true) {
                Socket socket = server.accept();
                open.add(socket);
                thread(() -> {
                    try (socket;
                            BufferedReader in = new BufferedReader(
                                    new InputStreamReader(socket.getInputStream(), StandardCharsets.UTF_8))) {
                        act.with(in, socket.getOutputStream());
                    }
                });
            }
        });
    }

    private interface Work {
        void run() throws IOException;
    }

    private static void thread(Work work) {
        Thread thread = new Thread(
                () -> {
                    try {
                        work.run();
                    } catch (IOException e) {
                        // The test is over, or the other side has gone.
                    }
                },
                "scripted");
        thread.setDaemon(true);
        thread.start();
    }

    int port() {
        return server.getLocalPort();
    }

    static void say(OutputStream out, String line) throws IOException {
        out.write((line + "\r\n").getBytes(StandardCharsets.UTF_8));
        out.flush();
    }

    /** Never says anything, and waits until the other side has gone. */
    static void nothing(BufferedReader in) throws IOException {
        while (in.read() >= 0) {
            // It goes on listening.
        }
    }

    /**
     * Answers as a mail server does.
     *
     * @param rcpt what it answers to a recipient
     * @param data what it answers to the end of the mail; null to say nothing
     */
    static Act mail(String greeting, String rcpt, String data) {
        return (in, out) -> {
            say(out, greeting);
            String line;
            while ((line = in.readLine()) != null) {
                String word = line.length() < 4 ? line : line.substring(0, 4).toUpperCase(java.util.Locale.ROOT);
                switch (word) {
                    case "RCPT" -> say(out, rcpt);
                    case "DATA" -> {
                        say(out, "354 go on");
                        while (!".".equals(line)) {
                            line = in.readLine();
                        }
                        if (data == null) {
                            nothing(in);
                            return;
                        }
                        say(out, data);
                    }
                    case "QUIT" -> say(out, "221 bye");
                    default -> say(out, "250 fine");
                }
            }
        };
    }

    @Override
    public void close() throws IOException {
        server.close();
        for (Socket socket : open) {
            socket.close();
        }
    }
}
