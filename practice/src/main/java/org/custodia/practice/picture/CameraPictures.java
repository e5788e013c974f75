package org.custodia.practice.picture;

import java.awt.BasicStroke;
import java.awt.Color;
import java.awt.Graphics2D;
import java.awt.RenderingHints;
import java.awt.geom.Ellipse2D;
import java.awt.geom.Path2D;
import java.awt.geom.Rectangle2D;
import java.awt.geom.RoundRectangle2D;
import java.awt.image.BufferedImage;
import java.awt.image.DataBufferInt;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.time.format.DateTimeFormatter;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.custodia.core.site.Crop;
import org.custodia.practice.place.Look;
import org.custodia.practice.place.PracticeCamera;
import org.custodia.practice.timeline.Scenes;
import org.custodia.practice.timeline.Scenes.Visit;

/** Draws what a camera sees at an instant. Safe for several threads. */
public final class CameraPictures {
    /** Where the head of somebody who came out is seen from outside, that long after their badge. */
    public static final Crop COMING_OUT = new Crop(0.152, 0.1, 0.2625, 0.54);

    public static final Duration COMING_OUT_AFTER = Duration.ofMillis(2_900);

    private static final Crop FACE = new Crop(0.585, 0.135, 0.2, 0.41);

    private static final int W = PracticeCamera.WIDTH;
    private static final int H = PracticeCamera.HEIGHT;
    private static final int KEPT = 24;
    private static final DateTimeFormatter STAMP =
            DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm:ss", Locale.ROOT).withZone(ZoneOffset.UTC);
    private static final double NEAR_X = 438;
    private static final double NEAR_Y = 352;
    private static final double FAR_X = 314;
    private static final double FAR_Y = 240;
    private static final double FAR_SCALE = 0.5;

    private final Scenes scenes;
    private final Map<String, int[]> backgrounds = new LinkedHashMap<>(16, 0.75f, true);

    public CameraPictures(Scenes scenes) {
        this.scenes = scenes;
    }

    /** Where a head is when a badge is presented; cameras inside see it the other way round. */
    public static Crop face(boolean inside) {
        return inside ? new Crop(1 - FACE.x() - FACE.width(), FACE.y(), FACE.width(), FACE.height()) : FACE;
    }

    /** Something to draw on, 640 by 360 pixels of RGB; it can be drawn on again and again. */
    public static BufferedImage canvas() {
        return new BufferedImage(W, H, BufferedImage.TYPE_INT_RGB);
    }

    /**
     * Draws the picture at a true time.
     *
     * @param shown what the recorder's clock shows then, in milliseconds since 1970
     * @param image one that {@link #canvas} gave; all of it is drawn anew
     */
    public void draw(PracticeCamera mounted, long millis, long shown, BufferedImage image) {
        PracticeCamera camera = scenes.asTurned(mounted, millis);
        int[] rgb = ((DataBufferInt) image.getRaster().getDataBuffer()).getData();
        List<Visit> visits = scenes.visits(camera.door().id(), millis);
        int light = light(camera, millis, !visits.isEmpty());
        System.arraycopy(background(camera, light), 0, rgb, 0, rgb.length);
        Graphics2D g = image.createGraphics();
        g.setRenderingHint(RenderingHints.KEY_ANTIALIASING, RenderingHints.VALUE_ANTIALIAS_ON);
        g.setRenderingHint(RenderingHints.KEY_STROKE_CONTROL, RenderingHints.VALUE_STROKE_PURE);
        if (camera.view() == 'i') {
            g.translate(W, 0);
            g.scale(-1, 1);
        }
        double dark = light / 8.0;
        double open = scenes.leaf(camera.door().id(), millis);
        boolean wide = camera.view() == 'v';
        door(g, camera, open, dark);
        visits.stream()
                .sorted(java.util.Comparator.comparingDouble(
                        v -> place(v, camera, millis).scale()))
                .forEach(v -> person(g, v, camera, millis));
        reader(g, lamp(visits, millis), wide);
        g.dispose();
        Digits.draw(rgb, W, 8, 6, STAMP.format(Instant.ofEpochMilli(shown)) + "." + shown % 1000 / 100);
        TimeStrip.write(rgb, W, H, shown);
    }

    /** The enrolled photo of somebody. */
    static BufferedImage portrait(Look look) {
        BufferedImage image = new BufferedImage(240, 288, BufferedImage.TYPE_INT_RGB);
        Graphics2D g = image.createGraphics();
        g.setRenderingHint(RenderingHints.KEY_ANTIALIASING, RenderingHints.VALUE_ANTIALIAS_ON);
        g.setColor(new Color(0x55626e));
        g.fillRect(0, 0, 240, 288);
        double scale = 2.45;
        double headY = 128;
        double y = headY + PersonPainter.HEIGHT * scale * look.height() * 0.9;
        PersonPainter.figure(g, look, 120, y, scale, true, Double.NaN, 0);
        g.dispose();
        return image;
    }

    private static int light(PracticeCamera camera, long millis, boolean somebody) {
        ZonedDateTime local =
                Instant.ofEpochMilli(millis).atZone(camera.building().zone());
        double hour = local.getHour() + local.getMinute() / 60.0;
        boolean outdoors = new RoomPainter(camera.door().room(), 0).outdoors() && camera.view() != 'i';
        if (outdoors) {
            double day = Math.min((hour - 6.8) / 1.6, (17.2 - hour) / 1.6);
            return (int) Math.round(8 * Math.max(0.34, Math.min(1, day)));
        }
        boolean open = hour > 6.5 && hour < 19.5;
        return open ? 8 : somebody ? 7 : 4;
    }

    private int[] background(PracticeCamera camera, int light) {
        String key = camera.id() + " " + camera.door().id() + " " + light;
        synchronized (backgrounds) {
            int[] known = backgrounds.get(key);
            if (known != null) {
                return known;
            }
        }
        BufferedImage image = canvas();
        Graphics2D g = image.createGraphics();
        g.setRenderingHint(RenderingHints.KEY_ANTIALIASING, RenderingHints.VALUE_ANTIALIAS_ON);
        boolean inside = camera.view() == 'i';
        if (inside) {
            g.translate(W, 0);
            g.scale(-1, 1);
        }
        String room = inside && new RoomPainter(camera.door().room(), 0).outdoors()
                ? "lobby"
                : camera.door().room();
        new RoomPainter(room, camera.id().hashCode()).paint(g, inside);
        g.dispose();
        int[] rgb = ((DataBufferInt) image.getRaster().getDataBuffer()).getData();
        for (int i = 0; i < rgb.length; i++) {
            rgb[i] = dim(rgb[i], light);
        }
        synchronized (backgrounds) {
            backgrounds.put(key, rgb);
            if (backgrounds.size() > KEPT) {
                backgrounds.remove(backgrounds.keySet().iterator().next());
            }
        }
        return rgb;
    }

    private static int dim(int rgb, int light) {
        if (light >= 8) {
            return rgb;
        }
        int r = (rgb >> 16 & 255) * light / 9;
        int g = (rgb >> 8 & 255) * light / 9;
        int b = Math.min(255, (rgb & 255) * light / 8 + (8 - light));
        return r << 16 | g << 8 | b;
    }

    private static void door(Graphics2D g, PracticeCamera camera, double open, double light) {
        Rectangle2D d = RoomPainter.DOOR;
        String room = camera.door().room();
        boolean steel = room.equals("vault") || room.equals("strong") || room.equals("bay") || room.equals("plant");
        Color leaf = new Color(steel ? 0x7d858c : camera.id().hashCode() % 2 == 0 ? 0x7a5a36 : 0x5f6a58);
        g.setColor(PersonPainter.darker(new Color(steel ? 0x3b4046 : 0x46382a), light));
        g.fill(new Rectangle2D.Double(d.getX() - 7, d.getY() - 7, d.getWidth() + 14, d.getHeight() + 7));
        g.setColor(new Color(0x14161a));
        g.fill(d);
        g.setColor(PersonPainter.darker(new Color(0x3c4146), light));
        g.fill(new Rectangle2D.Double(d.getX() + 14, d.getMaxY() - 22, d.getWidth() - 28, 22));
        double edge = d.getWidth() * (1 - open * 0.8);
        double drop = open * 26;
        Path2D p = new Path2D.Double();
        p.moveTo(d.getX(), d.getY());
        p.lineTo(d.getX() + edge, d.getY() + drop * 0.4 - open * 6);
        p.lineTo(d.getX() + edge, d.getMaxY() + drop);
        p.lineTo(d.getX(), d.getMaxY());
        p.closePath();
        g.setColor(PersonPainter.darker(leaf, light * (1 - open * 0.25)));
        g.fill(p);
        g.setColor(PersonPainter.darker(leaf, light * 0.7));
        g.setStroke(new BasicStroke(1.5f));
        g.draw(p);
        double knob = d.getX() + edge * 0.86;
        g.setColor(new Color(0xcabf9a));
        g.fill(new Ellipse2D.Double(knob - 3, d.getMaxY() - 74 + drop * 0.6, 7, 7));
        if (open < 0.3) {
            g.setColor(PersonPainter.darker(leaf, light * 0.82));
            g.draw(new Rectangle2D.Double(d.getX() + 14, d.getY() + 18, edge - 30, 44));
            g.draw(new Rectangle2D.Double(d.getX() + 14, d.getY() + 78, edge - 30, 50));
        }
    }

    private static char lamp(List<Visit> visits, long millis) {
        for (Visit v : visits) {
            if (v.lamp() != '-' && millis >= v.arrive() && millis < v.arrive() + 2_500) {
                return v.lamp();
            }
        }
        return '-';
    }

    private static void reader(Graphics2D g, char lamp, boolean wide) {
        double x = wide ? 540 : 552;
        g.setColor(new Color(0x2a2e33));
        g.fill(new RoundRectangle2D.Double(x, 168, 22, 44, 6, 6));
        g.setColor(new Color(lamp == 'g' ? 0x66d18f : lamp == 'r' ? 0xee6a50 : 0x6b7480));
        g.fill(new Ellipse2D.Double(x + 6, 174, 10, 10));
        if (lamp != '-') {
            g.setColor(new Color(lamp == 'g' ? 0x5066d18f : 0x50ee6a50, true));
            g.fill(new Ellipse2D.Double(x - 6, 162, 34, 34));
        }
    }

    private record Spot(double x, double y, double scale, boolean front, double stride, int reach) {}

    private static void person(Graphics2D g, Visit v, PracticeCamera camera, long millis) {
        Spot s = place(v, camera, millis);
        if (s.scale() > 0) {
            if (s.scale() < FAR_SCALE + 0.03 && v.through()) {
                g.setComposite(java.awt.AlphaComposite.getInstance(java.awt.AlphaComposite.SRC_OVER, 0.85f));
            }
            PersonPainter.figure(g, v.look(), s.x(), s.y(), s.scale(), s.front(), s.stride(), s.reach());
            g.setComposite(java.awt.AlphaComposite.SrcOver);
        }
    }

    /** Where somebody is in the picture of a camera; scale 0 when not to be seen by it. */
    private static Spot place(Visit v, PracticeCamera camera, long millis) {
        boolean near = (camera.view() == 'i') != v.inwards();
        double spread = (v.look().hashCode() & 15) - 8.0;
        double stride = millis / 150.0;
        if (near) {
            if (millis < v.arrive()) {
                double t = ease((millis - v.first()) / (double) Visit.APPROACH);
                return new Spot(lerp(760, NEAR_X, t), lerp(392, NEAR_Y, t), lerp(1.16, 1, t), true, stride, 0);
            }
            if (millis <= v.go()) {
                int reach = millis < v.arrive() + 1_100 && v.lamp() != '-' ? 1 : 0;
                return new Spot(NEAR_X, NEAR_Y, 1, true, Double.NaN, reach);
            }
            double t = ease((millis - v.go()) / (double) Visit.LEAVE);
            if (v.through()) {
                if (t > 0.86) {
                    return new Spot(0, 0, 0, false, 0, 0);
                }
                double u = t / 0.86;
                return new Spot(
                        lerp(NEAR_X, FAR_X, u), lerp(NEAR_Y, FAR_Y, u), lerp(1, FAR_SCALE, u), false, stride, 0);
            }
            return new Spot(lerp(NEAR_X, 780, t), lerp(NEAR_Y, 390, t), lerp(1, 1.15, t), true, stride, 0);
        }
        if (!v.through() || millis < v.go()) {
            return new Spot(0, 0, 0, true, 0, 0);
        }
        double t = (millis - v.go()) / (double) Visit.LEAVE;
        return new Spot(lerp(FAR_X, 90 + spread, t), lerp(FAR_Y, 400, t), lerp(FAR_SCALE, 1.2, t), true, stride, 0);
    }

    private static double lerp(double a, double b, double t) {
        return a + (b - a) * t;
    }

    private static double ease(double t) {
        double c = Math.max(0, Math.min(1, t));
        return c * c * (3 - 2 * c);
    }
}
