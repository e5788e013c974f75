package org.custodia.store;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.concurrent.CopyOnWriteArrayList;

/** Stands between a program and its server, and cuts the connection where a test wants it cut. */
final class CutProxy implements AutoCloseable {
    private final ServerSocket door;
    private final int server;
    private final List<Socket> open = new CopyOnWriteArrayList<>();
    private volatile Cut cut = Cut.NOT;
    private volatile boolean refusing;

    /** Where the next connection is cut that comes to it. */
    enum Cut {
        NOT,
        /** The server is told to commit, and its answer is lost. */
        ANSWER_TO_COMMIT,
        /** The program loses its side; the server does not notice and keeps its own. */
        PROGRAM_ONLY
    }

    CutProxy(int server) throws IOException {
        this.server = server;
        this.door = new ServerSocket(0, 50, InetAddress.getLoopbackAddress());
        daemon(this::let);
    }

    int port() {
        return door.getLocalPort();
    }

    void cut(Cut where) {
        cut = where;
    }

    /** Ends all connections and lets nobody in. */
    void goAway() {
        refusing = true;
        open.forEach(CutProxy::quietly);
        open.clear();
    }

    void comeBack() {
        refusing = false;
    }

    private static void daemon(Runnable work) {
        Thread thread = new Thread(work, "cut proxy");
        thread.setDaemon(true);
        thread.start();
    }

    private void let() {
        try {
            while (true) {
                Socket program = door.accept();
                if (refusing) {
                    quietly(program);
                    continue;
                }
                Socket back = new Socket(InetAddress.getLoopbackAddress(), server);
                open.add(program);
                open.add(back);
                boolean[] swallow = {false};
                daemon(() -> pass(program, back, swallow, true));
                daemon(() -> pass(back, program, swallow, false));
            }
        } catch (IOException e) {
            // The test is over.
        }
    }

    private void pass(Socket from, Socket to, boolean[] swallow, boolean asks) {
        byte[] buffer = new byte[8_192];
        ByteArrayOutputStream seen = new ByteArrayOutputStream();
        try {
            InputStream in = from.getInputStream();
            OutputStream out = to.getOutputStream();
            int n;
            while ((n = in.read(buffer)) > 0) {
                if (asks && cut != Cut.NOT) {
                    seen.write(buffer, 0, n);
                    boolean commits = seen.toString(StandardCharsets.ISO_8859_1).contains("COMMIT");
                    if (commits && cut == Cut.ANSWER_TO_COMMIT) {
                        cut = Cut.NOT;
                        swallow[0] = true;
                    } else if (commits && cut == Cut.PROGRAM_ONLY) {
                        cut = Cut.NOT;
                        quietly(from);
                        return;
                    }
                }
                if (!asks && swallow[0]) {
                    // The server has done it; nobody hears of that.
                    quietly(from);
                    quietly(to);
                    return;
                }
                out.write(buffer, 0, n);
                out.flush();
            }
        } catch (IOException e) {
            // One side has ended.
        }
        quietly(to);
    }

    private static void quietly(Socket socket) {
        try {
            socket.close();
        } catch (IOException e) {
            // It is closed.
        }
    }

    @Override
    public void close() throws IOException {
        door.close();
        open.forEach(CutProxy::quietly);
    }
}
