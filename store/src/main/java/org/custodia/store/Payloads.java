package org.custodia.store;

import com.github.luben.zstd.Zstd;
import com.github.luben.zstd.ZstdDictCompress;
import com.github.luben.zstd.ZstdDictDecompress;
import com.github.luben.zstd.ZstdException;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;

/**
 * Compresses what is kept apart from the rows. Short texts become shorter with a dictionary of what such texts are like; it
 * is kept with the data, and each text says which one it needs. Safe for use by several threads.
 */
final class Payloads implements AutoCloseable {
    private static final int LEVEL = 6;
    private static final int REMEMBERED = 2_000;
    /** Bytes, compressed; what is longer is shared by few. */
    private static final int LONGEST_REMEMBERED = 500;
    /** No text of ours is longer than this, in bytes: a message is bounded, and its details are made of it. */
    private static final long LONGEST = 16L * 1024 * 1024;

    private final Map<Long, byte[]> dictionaries;
    private final Map<Long, ZstdDictDecompress> readers = new ConcurrentHashMap<>();
    private final Map<Long, ZstdDictCompress> writers = new ConcurrentHashMap<>();
    /** What was asked for last: most events share few texts. */
    private final Map<Packed, String> remembered = new LinkedHashMap<>(16, 0.75f, true) {
        private static final long serialVersionUID = 1L;

        @Override
        protected boolean removeEldestEntry(Map.Entry<Packed, String> eldest) {
            return size() > REMEMBERED;
        }
    };

    private record Packed(ByteBuffer content, long dictionary) {}

    /**
     * @param dictionaries those that are kept, by their number
     */
    Payloads(Map<Long, byte[]> dictionaries) {
        this.dictionaries = Map.copyOf(dictionaries);
    }

    /** The dictionaries that are kept. */
    static Map<Long, byte[]> dictionaries(Connection connection) throws SQLException {
        Map<Long, byte[]> all = new HashMap<>();
        try (Statement s = connection.createStatement();
                ResultSet rows = s.executeQuery("SELECT id, content FROM payload_dictionary")) {
            while (rows.next()) {
                all.put(rows.getLong(1), rows.getBytes(2));
            }
        }
        return all;
    }

    /** Keeps a dictionary where there is none yet. */
    static void addCommonDictionary(Connection connection) throws SQLException {
        if (dictionaries(connection).isEmpty()) {
            try (PreparedStatement s =
                    connection.prepareStatement("INSERT INTO payload_dictionary (id, content) VALUES (1, ?)")) {
                s.setBytes(1, commonDictionary());
                s.executeUpdate();
            }
        }
    }

    /** What a dictionary is made of before there is anything to learn from: how messages about doors commonly look. */
    private static byte[] commonDictionary() {
        return ("{\"by\":\"timetable\",\"mode\":\"unlocked\",\"next-at\":\"2026-11-24T18:00:00Z\",\"next-mode\":\"locked\","
                        + "\"until\":\"\",\"position\":\"closed\",\"position-since\":\"2026-11-24T08:00:00Z\",\"held\":\"false\","
                        + "\"forced\":\"false\",\"reader\":\"on\",\"reach\":\"lost\",\"reach-since\":\"\",\"system\":\"\","
                        + "\"operator-name\":\"\",\"about\":\"\",\"verdict\":\"same\",\"command\":\"let-through\","
                        + "\"credential-kind\":\"card\"}\u001e"
                        + "{\"type\":\"event\",\"epoch\":1,\"seq\":\u0001,\"time\":\"\u0002\",\"kind\":\"door.mode\",\"code\":\"\","
                        + "\"reason\":\"\",\"side\":\"entry\",\"credentialKind\":\"card\",\"door\":\"\u0003\","
                        + "\"controller\":\"\u0004\",\"reader\":\"\u0005\",\"person\":\"\u0006\",\"credential\":\"\u0007\","
                        + "\"cause\":\"\u0008\",\"details\":{\"mode\":\"locked\",\"by\":\"\"}}")
                .getBytes(StandardCharsets.UTF_8);
    }

    byte[] compress(String text, long dictionary) {
        ZstdDictCompress writer =
                writers.computeIfAbsent(dictionary, d -> new ZstdDictCompress(dictionaries.get(d), LEVEL));
        return Zstd.compress(text.getBytes(StandardCharsets.UTF_8), writer);
    }

    /** The text; nothing where it is damaged. */
    Optional<String> expand(byte[] content, long dictionary) {
        if (content.length > LONGEST_REMEMBERED) {
            return expanded(content, dictionary);
        }
        Packed packed = new Packed(ByteBuffer.wrap(content), dictionary);
        synchronized (remembered) {
            String known = remembered.get(packed);
            if (known != null) {
                return Optional.of(known);
            }
        }
        Optional<String> text = expanded(content, dictionary);
        text.ifPresent(t -> {
            synchronized (remembered) {
                remembered.put(packed, t);
            }
        });
        return text;
    }

    private Optional<String> expanded(byte[] content, long dictionary) {
        if (content.length == 0 || !dictionaries.containsKey(dictionary)) {
            return Optional.empty();
        }
        try {
            long size = Zstd.getFrameContentSize(content);
            if (size < 0 || size > LONGEST) {
                return Optional.empty();
            }
            ZstdDictDecompress reader =
                    readers.computeIfAbsent(dictionary, d -> new ZstdDictDecompress(dictionaries.get(d)));
            return Optional.of(new String(Zstd.decompress(content, reader, (int) size), StandardCharsets.UTF_8));
        } catch (ZstdException e) {
            return Optional.empty();
        }
    }

    @Override
    public void close() {
        readers.values().forEach(ZstdDictDecompress::close);
        writers.values().forEach(ZstdDictCompress::close);
        readers.clear();
        writers.clear();
    }
}
