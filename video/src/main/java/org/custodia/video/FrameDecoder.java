package org.custodia.video;

import static org.bytedeco.ffmpeg.global.avcodec.AV_CODEC_FLAG_LOW_DELAY;
import static org.bytedeco.ffmpeg.global.avcodec.AV_CODEC_ID_H264;
import static org.bytedeco.ffmpeg.global.avcodec.av_new_packet;
import static org.bytedeco.ffmpeg.global.avcodec.av_packet_alloc;
import static org.bytedeco.ffmpeg.global.avcodec.av_packet_free;
import static org.bytedeco.ffmpeg.global.avcodec.av_packet_unref;
import static org.bytedeco.ffmpeg.global.avcodec.avcodec_alloc_context3;
import static org.bytedeco.ffmpeg.global.avcodec.avcodec_find_decoder;
import static org.bytedeco.ffmpeg.global.avcodec.avcodec_flush_buffers;
import static org.bytedeco.ffmpeg.global.avcodec.avcodec_free_context;
import static org.bytedeco.ffmpeg.global.avcodec.avcodec_open2;
import static org.bytedeco.ffmpeg.global.avcodec.avcodec_receive_frame;
import static org.bytedeco.ffmpeg.global.avcodec.avcodec_send_packet;
import static org.bytedeco.ffmpeg.global.avutil.AV_PIX_FMT_BGRA;
import static org.bytedeco.ffmpeg.global.avutil.av_frame_alloc;
import static org.bytedeco.ffmpeg.global.avutil.av_frame_free;
import static org.bytedeco.ffmpeg.global.avutil.av_frame_get_buffer;
import static org.bytedeco.ffmpeg.global.avutil.av_frame_unref;
import static org.bytedeco.ffmpeg.global.swscale.SWS_FAST_BILINEAR;
import static org.bytedeco.ffmpeg.global.swscale.sws_freeContext;
import static org.bytedeco.ffmpeg.global.swscale.sws_getContext;
import static org.bytedeco.ffmpeg.global.swscale.sws_scale;

import java.util.Optional;
import org.bytedeco.ffmpeg.avcodec.AVCodec;
import org.bytedeco.ffmpeg.avcodec.AVCodecContext;
import org.bytedeco.ffmpeg.avcodec.AVPacket;
import org.bytedeco.ffmpeg.avutil.AVDictionary;
import org.bytedeco.ffmpeg.avutil.AVFrame;
import org.bytedeco.ffmpeg.swscale.SwsContext;
import org.bytedeco.javacpp.DoublePointer;
import org.bytedeco.javacpp.IntPointer;
import org.bytedeco.javacpp.PointerPointer;

/** Decodes H.264 frames to pixels of a wanted width. Used by one thread at a time; close it. */
final class FrameDecoder implements AutoCloseable {
    private static final int LARGEST_SIDE = 8_192;

    private static final long MOST_PIXELS = 16_000_000;

    private final AVCodecContext context;
    private final AVPacket packet = av_packet_alloc();
    private final AVFrame decoded = av_frame_alloc();
    private AVFrame scaled;
    private SwsContext scaler;
    private int sourceWidth;
    private int sourceHeight;
    private int sourceFormat;
    private int[] pixels = {};

    FrameDecoder() {
        AVCodec codec = avcodec_find_decoder(AV_CODEC_ID_H264);
        context = avcodec_alloc_context3(codec);
        context.thread_count(1);
        // What is larger is not even begun: it would fill the memory before anybody could look at its size.
        context.max_pixels(MOST_PIXELS);
        context.flags(context.flags() | AV_CODEC_FLAG_LOW_DELAY);
        if (avcodec_open2(context, codec, (AVDictionary) null) < 0) {
            avcodec_free_context(context);
            throw new IllegalStateException("the H.264 decoder could not be opened");
        }
    }

    /** Forgets what came before; the next frame must stand alone. */
    void reset() {
        avcodec_flush_buffers(context);
    }

    /**
     * Decodes the next frame in order.
     *
     * @param width wanted width in pixels, or 0 to decode without making a picture
     * @return a picture whose pixels are good until the next one is decoded; nothing if the frame is damaged or no picture was wanted
     */
    Optional<Picture> decode(EncodedFrame frame, int width) {
        av_new_packet(packet, frame.data().length);
        packet.data().put(frame.data());
        int sent = avcodec_send_packet(context, packet);
        av_packet_unref(packet);
        if (sent < 0 || avcodec_receive_frame(context, decoded) < 0) {
            return Optional.empty();
        }
        try {
            boolean sane = decoded.width() > 0
                    && decoded.height() > 0
                    && decoded.width() <= LARGEST_SIDE
                    && decoded.height() <= LARGEST_SIDE;
            return width > 0 && sane ? Optional.of(pixels(frame, width)) : Optional.empty();
        } finally {
            av_frame_unref(decoded);
        }
    }

    private Picture pixels(EncodedFrame frame, int width) {
        int w = Math.max(16, Math.min(width, decoded.width()));
        int h = Math.max(9, Math.round((float) w * decoded.height() / decoded.width()));
        prepare(w, h);
        sws_scale(
                scaler,
                new PointerPointer<>(decoded),
                decoded.linesize(),
                0,
                decoded.height(),
                new PointerPointer<>(scaled),
                scaled.linesize());
        if (pixels.length != w * h) {
            pixels = new int[w * h];
        }
        int stride = scaled.linesize(0) / 4;
        IntPointer source = new IntPointer(scaled.data(0));
        for (int y = 0; y < h; y++) {
            source.position((long) y * stride).get(pixels, y * w, w);
        }
        return new Picture(w, h, pixels, frame.at());
    }

    private void prepare(int w, int h) {
        boolean same = scaled != null
                && scaled.width() == w
                && scaled.height() == h
                && sourceWidth == decoded.width()
                && sourceHeight == decoded.height()
                && sourceFormat == decoded.format();
        if (same) {
            return;
        }
        release();
        sourceWidth = decoded.width();
        sourceHeight = decoded.height();
        sourceFormat = decoded.format();
        scaled = av_frame_alloc();
        scaled.format(AV_PIX_FMT_BGRA);
        scaled.width(w);
        scaled.height(h);
        av_frame_get_buffer(scaled, 32);
        scaler = sws_getContext(
                sourceWidth,
                sourceHeight,
                sourceFormat,
                w,
                h,
                AV_PIX_FMT_BGRA,
                SWS_FAST_BILINEAR,
                null,
                null,
                (DoublePointer) null);
    }

    private void release() {
        if (scaled != null) {
            sws_freeContext(scaler);
            av_frame_free(scaled);
            scaled = null;
        }
    }

    @Override
    public void close() {
        release();
        av_frame_free(decoded);
        av_packet_free(packet);
        avcodec_free_context(context);
    }
}
