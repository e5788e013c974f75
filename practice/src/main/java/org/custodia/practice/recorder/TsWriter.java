package org.custodia.practice.recorder;

import static org.bytedeco.ffmpeg.global.avcodec.AV_CODEC_ID_H264;
import static org.bytedeco.ffmpeg.global.avcodec.AV_PKT_FLAG_KEY;
import static org.bytedeco.ffmpeg.global.avcodec.av_new_packet;
import static org.bytedeco.ffmpeg.global.avcodec.av_packet_alloc;
import static org.bytedeco.ffmpeg.global.avcodec.av_packet_free;
import static org.bytedeco.ffmpeg.global.avcodec.av_packet_unref;
import static org.bytedeco.ffmpeg.global.avformat.av_write_frame;
import static org.bytedeco.ffmpeg.global.avformat.avformat_alloc_output_context2;
import static org.bytedeco.ffmpeg.global.avformat.avformat_free_context;
import static org.bytedeco.ffmpeg.global.avformat.avformat_new_stream;
import static org.bytedeco.ffmpeg.global.avformat.avformat_write_header;
import static org.bytedeco.ffmpeg.global.avformat.avio_alloc_context;
import static org.bytedeco.ffmpeg.global.avformat.avio_context_free;
import static org.bytedeco.ffmpeg.global.avformat.avio_flush;
import static org.bytedeco.ffmpeg.global.avutil.AVERROR_EOF;
import static org.bytedeco.ffmpeg.global.avutil.AVMEDIA_TYPE_VIDEO;
import static org.bytedeco.ffmpeg.global.avutil.av_free;
import static org.bytedeco.ffmpeg.global.avutil.av_malloc;
import static org.bytedeco.ffmpeg.global.avutil.av_opt_set;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.OutputStream;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import org.bytedeco.ffmpeg.avcodec.AVPacket;
import org.bytedeco.ffmpeg.avformat.AVFormatContext;
import org.bytedeco.ffmpeg.avformat.AVIOContext;
import org.bytedeco.ffmpeg.avformat.AVStream;
import org.bytedeco.ffmpeg.avformat.Write_packet_Pointer_BytePointer_int;
import org.bytedeco.ffmpeg.avutil.AVDictionary;
import org.bytedeco.javacpp.BytePointer;
import org.bytedeco.javacpp.Pointer;

/** Wraps encoded pictures in an MPEG transport stream. Used by one thread; close it. */
final class TsWriter implements AutoCloseable {
    private static final int BUFFER = 32 * 1024;
    private static final int CLOCK = 90_000;

    /** The writers by the address of their key. */
    private static final Map<Long, TsWriter> WRITERS = new ConcurrentHashMap<>();
    /**
     * One for all writers. There can be only ten such callbacks at a time, and an eleventh would, without a word, write into
     * the stream of the first.
     */
    private static final Write_packet_Pointer_BytePointer_int KEEP = new Write_packet_Pointer_BytePointer_int() {
        @Override
        public int call(Pointer key, BytePointer data, int size) {
            TsWriter writer = WRITERS.get(key.address());
            return writer == null ? AVERROR_EOF : writer.keep(data, size);
        }
    };

    private final OutputStream out;
    private final AVFormatContext format;
    private final AVIOContext io;
    private final AVPacket packet = av_packet_alloc();
    /** What the native side names this writer by: an address that nothing else has meanwhile. */
    private final Pointer key = av_malloc(1);

    private final ByteArrayOutputStream made = new ByteArrayOutputStream(BUFFER);

    TsWriter(OutputStream out, int width, int height) throws IOException {
        this.out = out;
        WRITERS.put(key.address(), this);
        format = new AVFormatContext(null);
        avformat_alloc_output_context2(format, null, "mpegts", null);
        io = avio_alloc_context(new BytePointer(av_malloc(BUFFER)).capacity(BUFFER), BUFFER, 1, key, null, KEEP, null);
        format.pb(io);
        AVStream stream = avformat_new_stream(format, null);
        stream.codecpar().codec_type(AVMEDIA_TYPE_VIDEO);
        stream.codecpar().codec_id(AV_CODEC_ID_H264);
        stream.codecpar().width(width);
        stream.codecpar().height(height);
        stream.time_base().num(1).den(CLOCK);
        format.max_delay(0);
        // With lengths written, a reader has a picture as soon as its last byte is there.
        av_opt_set(format.priv_data(), "omit_video_pes_length", "0", 0);
        if (avformat_write_header(format, (AVDictionary) null) < 0) {
            throw new IOException("the stream could not be begun");
        }
    }

    /** Only keeps what the muxer made: an exception that left a native call would end the whole process. */
    private int keep(BytePointer data, int size) {
        byte[] bytes = new byte[size];
        data.get(bytes);
        made.writeBytes(bytes);
        return size;
    }

    /**
     * Sends one picture at once.
     *
     * @param millis since the first picture
     * @throws IOException if the other end is gone
     */
    void write(H264Encoder.Encoded encoded, long millis) throws IOException {
        av_new_packet(packet, encoded.data().length);
        packet.data().put(encoded.data());
        long time = millis * CLOCK / 1000;
        packet.pts(time);
        packet.dts(time);
        packet.stream_index(0);
        packet.flags(encoded.key() ? AV_PKT_FLAG_KEY : 0);
        int result = av_write_frame(format, packet);
        av_packet_unref(packet);
        // A second call without a packet makes the muxer let go of what it holds back.
        av_write_frame(format, (AVPacket) null);
        avio_flush(io);
        if (result < 0) {
            throw new IOException("a picture could not be wrapped");
        }
        made.writeTo(out);
        made.reset();
        out.flush();
    }

    @Override
    public void close() {
        av_packet_free(packet);
        format.pb(null);
        avformat_free_context(format);
        av_free(io.buffer());
        avio_context_free(io);
        WRITERS.remove(key.address());
        av_free(key);
    }
}
