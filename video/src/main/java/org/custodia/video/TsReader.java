package org.custodia.video;

import static org.bytedeco.ffmpeg.avformat.AVFormatContext.AVFMT_FLAG_CUSTOM_IO;
import static org.bytedeco.ffmpeg.avformat.AVFormatContext.AVFMT_FLAG_NOBUFFER;
import static org.bytedeco.ffmpeg.avformat.AVFormatContext.AVFMT_FLAG_NOPARSE;
import static org.bytedeco.ffmpeg.global.avcodec.AV_CODEC_ID_H264;
import static org.bytedeco.ffmpeg.global.avcodec.AV_PKT_FLAG_KEY;
import static org.bytedeco.ffmpeg.global.avcodec.av_packet_alloc;
import static org.bytedeco.ffmpeg.global.avcodec.av_packet_free;
import static org.bytedeco.ffmpeg.global.avcodec.av_packet_unref;
import static org.bytedeco.ffmpeg.global.avformat.av_find_input_format;
import static org.bytedeco.ffmpeg.global.avformat.av_read_frame;
import static org.bytedeco.ffmpeg.global.avformat.avformat_alloc_context;
import static org.bytedeco.ffmpeg.global.avformat.avformat_close_input;
import static org.bytedeco.ffmpeg.global.avformat.avformat_open_input;
import static org.bytedeco.ffmpeg.global.avformat.avio_alloc_context;
import static org.bytedeco.ffmpeg.global.avformat.avio_context_free;
import static org.bytedeco.ffmpeg.global.avutil.AVERROR_EOF;
import static org.bytedeco.ffmpeg.global.avutil.AV_LOG_FATAL;
import static org.bytedeco.ffmpeg.global.avutil.AV_NOPTS_VALUE;
import static org.bytedeco.ffmpeg.global.avutil.av_free;
import static org.bytedeco.ffmpeg.global.avutil.av_log_set_level;
import static org.bytedeco.ffmpeg.global.avutil.av_malloc;

import java.io.IOException;
import java.io.InputStream;
import java.time.Instant;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import org.bytedeco.ffmpeg.avcodec.AVPacket;
import org.bytedeco.ffmpeg.avformat.AVFormatContext;
import org.bytedeco.ffmpeg.avformat.AVIOContext;
import org.bytedeco.ffmpeg.avformat.AVStream;
import org.bytedeco.ffmpeg.avformat.Read_packet_Pointer_BytePointer_int;
import org.bytedeco.ffmpeg.avutil.AVDictionary;
import org.bytedeco.javacpp.BytePointer;
import org.bytedeco.javacpp.Pointer;
import org.custodia.core.saying.Saying;

/**
 * Takes the frames out of an MPEG transport stream that carries H.264, one PES packet a frame. Used by one thread, which
 * closes it; closing the input from elsewhere ends it.
 */
final class TsReader implements AutoCloseable {
    private static final int BUFFER = 8 * 1024;
    private static final int LARGEST_FRAME = 8 * 1024 * 1024;

    /** The readers by the address of their key. */
    private static final Map<Long, TsReader> READERS = new ConcurrentHashMap<>();
    /**
     * One for all readers. There can be only ten such callbacks at a time, and an eleventh would, without a word, read the
     * stream of the first: the picture of another camera.
     */
    private static final Read_packet_Pointer_BytePointer_int RECEIVE = new Read_packet_Pointer_BytePointer_int() {
        @Override
        public int call(Pointer key, BytePointer target, int size) {
            TsReader reader = READERS.get(key.address());
            return reader == null ? AVERROR_EOF : reader.receive(target, size);
        }
    };

    static {
        av_log_set_level(AV_LOG_FATAL);
    }

    private final InputStream in;
    private final Instant first;
    private final AVFormatContext format;
    private final AVIOContext io;
    private final AVPacket packet = av_packet_alloc();
    /** What the native side names this reader by: an address that nothing else has meanwhile. */
    private final Pointer key = av_malloc(1);

    private long firstPts = AV_NOPTS_VALUE;
    private boolean opened;
    private boolean closed;

    /**
     * @param first the instant of the first frame
     * @throws IOException if this is no such stream
     */
    TsReader(InputStream in, Instant first) throws IOException {
        this.in = in;
        this.first = first;
        READERS.put(key.address(), this);
        io = avio_alloc_context(
                new BytePointer(av_malloc(BUFFER)).capacity(BUFFER), BUFFER, 0, key, RECEIVE, null, null);
        format = avformat_alloc_context();
        format.pb(io);
        format.flags(format.flags() | AVFMT_FLAG_CUSTOM_IO | AVFMT_FLAG_NOBUFFER | AVFMT_FLAG_NOPARSE);
        if (avformat_open_input(format, (String) null, av_find_input_format("mpegts"), (AVDictionary) null) < 0) {
            // FFmpeg has freed the context itself.
            opened = false;
            close();
            throw new NoPictureException(Saying.of("picture.stream-unreadable"));
        }
        opened = true;
    }

    private int receive(BytePointer target, int size) {
        try {
            byte[] bytes = new byte[size];
            int n = in.read(bytes, 0, size);
            if (n <= 0) {
                return AVERROR_EOF;
            }
            target.put(bytes, 0, n);
            return n;
        } catch (IOException | RuntimeException | Error e) {
            // Nothing may be thrown out of a native call: it would end the process.
            return AVERROR_EOF;
        }
    }

    /** Waits for the next frame; null at the end of the stream. */
    EncodedFrame next() {
        while (av_read_frame(format, packet) >= 0) {
            AVStream stream = format.streams(packet.stream_index());
            boolean fits = packet.size() > 0 && packet.size() < LARGEST_FRAME;
            if (stream.codecpar().codec_id() == AV_CODEC_ID_H264 && packet.pts() != AV_NOPTS_VALUE && fits) {
                byte[] data = new byte[packet.size()];
                packet.data().get(data);
                if (firstPts == AV_NOPTS_VALUE) {
                    firstPts = packet.pts();
                }
                long micros = (packet.pts() - firstPts)
                        * 1_000_000L
                        * stream.time_base().num()
                        / stream.time_base().den();
                boolean key = (packet.flags() & AV_PKT_FLAG_KEY) != 0 || hasKeyUnit(data);
                av_packet_unref(packet);
                return new EncodedFrame(data, key, first.plusNanos(micros * 1000));
            }
            av_packet_unref(packet);
        }
        return null;
    }

    /** Whether there is an IDR picture in it: NAL unit type 5 (ITU-T H.264, table 7-1). */
    private static boolean hasKeyUnit(byte[] data) {
        for (int i = 0; i + 3 < data.length; i++) {
            if (data[i] == 0 && data[i + 1] == 0 && data[i + 2] == 1) {
                int type = data[i + 3] & 31;
                if (type == 5) {
                    return true;
                }
                if (type == 1) {
                    return false;
                }
            }
        }
        return false;
    }

    @Override
    public void close() {
        if (closed) {
            return;
        }
        closed = true;
        av_packet_free(packet);
        if (opened) {
            avformat_close_input(format);
        }
        av_free(io.buffer());
        avio_context_free(io);
        READERS.remove(key.address());
        av_free(key);
        try {
            in.close();
        } catch (IOException e) {
            // The other end is gone already.
        }
    }
}
