package org.custodia.practice.recorder;

import static org.bytedeco.ffmpeg.global.avcodec.AV_PKT_FLAG_KEY;
import static org.bytedeco.ffmpeg.global.avcodec.av_packet_alloc;
import static org.bytedeco.ffmpeg.global.avcodec.av_packet_free;
import static org.bytedeco.ffmpeg.global.avcodec.av_packet_unref;
import static org.bytedeco.ffmpeg.global.avcodec.avcodec_alloc_context3;
import static org.bytedeco.ffmpeg.global.avcodec.avcodec_find_encoder_by_name;
import static org.bytedeco.ffmpeg.global.avcodec.avcodec_free_context;
import static org.bytedeco.ffmpeg.global.avcodec.avcodec_open2;
import static org.bytedeco.ffmpeg.global.avcodec.avcodec_receive_packet;
import static org.bytedeco.ffmpeg.global.avcodec.avcodec_send_frame;
import static org.bytedeco.ffmpeg.global.avutil.AV_LOG_ERROR;
import static org.bytedeco.ffmpeg.global.avutil.AV_PICTURE_TYPE_I;
import static org.bytedeco.ffmpeg.global.avutil.AV_PICTURE_TYPE_NONE;
import static org.bytedeco.ffmpeg.global.avutil.AV_PIX_FMT_BGRA;
import static org.bytedeco.ffmpeg.global.avutil.AV_PIX_FMT_YUV420P;
import static org.bytedeco.ffmpeg.global.avutil.av_frame_alloc;
import static org.bytedeco.ffmpeg.global.avutil.av_frame_free;
import static org.bytedeco.ffmpeg.global.avutil.av_frame_get_buffer;
import static org.bytedeco.ffmpeg.global.avutil.av_frame_make_writable;
import static org.bytedeco.ffmpeg.global.avutil.av_log_set_level;
import static org.bytedeco.ffmpeg.global.avutil.av_opt_set;
import static org.bytedeco.ffmpeg.global.swscale.SWS_POINT;
import static org.bytedeco.ffmpeg.global.swscale.sws_freeContext;
import static org.bytedeco.ffmpeg.global.swscale.sws_getContext;
import static org.bytedeco.ffmpeg.global.swscale.sws_scale;

import org.bytedeco.ffmpeg.avcodec.AVCodec;
import org.bytedeco.ffmpeg.avcodec.AVCodecContext;
import org.bytedeco.ffmpeg.avcodec.AVPacket;
import org.bytedeco.ffmpeg.avutil.AVDictionary;
import org.bytedeco.ffmpeg.avutil.AVFrame;
import org.bytedeco.ffmpeg.swscale.SwsContext;
import org.bytedeco.javacpp.DoublePointer;
import org.bytedeco.javacpp.IntPointer;
import org.bytedeco.javacpp.PointerPointer;

/** Encodes pictures as H.264, one packet a picture without delay. Used by one thread at a time; close it. */
final class H264Encoder implements AutoCloseable {
    static {
        av_log_set_level(AV_LOG_ERROR);
    }

    private final int width;
    private final int height;
    private final int keyEvery;
    private final AVCodecContext context;
    private final AVFrame frame;
    private final AVFrame source;
    private final AVPacket packet;
    private final SwsContext toYuv;
    private final IntPointer pixels;
    private int count;

    /** One encoded picture. */
    record Encoded(byte[] data, boolean key) {}

    /**
     * @param keyEvery how many pictures from one that stands alone to the next
     */
    H264Encoder(int width, int height, int fps, int keyEvery) {
        this.width = width;
        this.height = height;
        this.keyEvery = keyEvery;
        AVCodec codec = avcodec_find_encoder_by_name("libopenh264");
        if (codec == null) {
            throw new IllegalStateException("this FFmpeg has no H.264 encoder (libopenh264)");
        }
        context = avcodec_alloc_context3(codec);
        context.width(width);
        context.height(height);
        context.pix_fmt(AV_PIX_FMT_YUV420P);
        context.time_base().num(1).den(fps);
        context.framerate().num(fps).den(1);
        context.gop_size(keyEvery);
        context.bit_rate(900_000);
        context.thread_count(1);
        av_opt_set(context.priv_data(), "allow_skip_frames", "0", 0);
        av_opt_set(context.priv_data(), "rc_mode", "quality", 0);
        if (avcodec_open2(context, codec, (AVDictionary) null) < 0) {
            avcodec_free_context(context);
            throw new IllegalStateException("the H.264 encoder could not be opened");
        }
        frame = picture(AV_PIX_FMT_YUV420P);
        source = picture(AV_PIX_FMT_BGRA);
        pixels = new IntPointer(source.data(0));
        pixels.capacity((long) source.linesize(0) / 4 * height);
        packet = av_packet_alloc();
        toYuv = sws_getContext(
                width,
                height,
                AV_PIX_FMT_BGRA,
                width,
                height,
                AV_PIX_FMT_YUV420P,
                SWS_POINT,
                null,
                null,
                (DoublePointer) null);
    }

    private AVFrame picture(int format) {
        AVFrame f = av_frame_alloc();
        f.format(format);
        f.width(width);
        f.height(height);
        if (av_frame_get_buffer(f, 32) < 0) {
            throw new IllegalStateException("no memory for a picture");
        }
        return f;
    }

    /** Encodes one picture of RGB pixels. */
    Encoded encode(int[] rgb) {
        av_frame_make_writable(frame);
        int stride = source.linesize(0) / 4;
        for (int y = 0; y < height; y++) {
            pixels.position((long) y * stride).put(rgb, y * width, width);
        }
        sws_scale(
                toYuv,
                new PointerPointer<>(source),
                source.linesize(),
                0,
                height,
                new PointerPointer<>(frame),
                frame.linesize());
        boolean key = count % keyEvery == 0;
        frame.pts(count++);
        frame.pict_type(key ? AV_PICTURE_TYPE_I : AV_PICTURE_TYPE_NONE);
        if (avcodec_send_frame(context, frame) < 0 || avcodec_receive_packet(context, packet) < 0) {
            throw new IllegalStateException("a picture could not be encoded");
        }
        byte[] data = new byte[packet.size()];
        packet.data().get(data);
        boolean isKey = (packet.flags() & AV_PKT_FLAG_KEY) != 0;
        av_packet_unref(packet);
        return new Encoded(data, isKey);
    }

    @Override
    public void close() {
        pixels.position(0);
        sws_freeContext(toYuv);
        av_packet_free(packet);
        av_frame_free(source);
        av_frame_free(frame);
        avcodec_free_context(context);
    }
}
