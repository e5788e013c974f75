package org.custodia.practice.picture;

import java.awt.BasicStroke;
import java.awt.Color;
import java.awt.Graphics2D;
import java.awt.geom.Ellipse2D;
import java.awt.geom.Path2D;
import java.awt.geom.Rectangle2D;
import java.util.Random;

/** Draws what does not move: the room or the open air around a door, different from door to door. */
final class RoomPainter {
    /** Left, top, right, bottom of the back wall. */
    static final int LEFT = 150;

    static final int TOP = 52;
    static final int RIGHT = 470;
    static final int FLOOR = 232;
    /** The door's opening in the back wall. */
    static final Rectangle2D DOOR = new Rectangle2D.Double(268, 84, 92, FLOOR - 84);

    private static final int W = 640;
    private static final int H = 360;

    private final String room;
    private final Random random;

    RoomPainter(String room, long seed) {
        this.room = room;
        this.random = new Random(seed);
    }

    boolean outdoors() {
        return switch (room) {
            case "quay", "gate", "yard", "garden" -> true;
            default -> false;
        };
    }

    void paint(Graphics2D g, boolean inside) {
        float tint = random.nextFloat() * 0.06f - 0.03f;
        switch (room) {
            case "quay" -> quay(g);
            case "gate" -> openAir(g, 0x8b9aa6, 0x6c6a63, 0x77736a, true);
            case "yard" -> openAir(g, 0x8796a3, 0x6f6a62, 0x8a5b46, false);
            case "garden" -> garden(g);
            default -> {
                int[] c = colours(room);
                box(g, shift(c[0], tint), shift(c[1], tint), c[2], floor(room));
                props(g);
            }
        }
        if (inside && !outdoors()) {
            g.setColor(new Color(0xd9d2bf));
            g.fillRect(402, 92, 34, 22);
            g.setColor(new Color(0x4c7a52));
            g.fillRect(405, 95, 28, 16);
        }
    }

    private static int[] colours(String room) {
        return switch (room) {
            case "lobby" -> new int[] {0xb9b4a6, 0x8d8a82, 0xcfcabc};
            case "bay" -> new int[] {0x8f928f, 0x5f605c, 0x7b7e7d};
            case "corridor" -> new int[] {0xa7a89d, 0x6d6e68, 0xb9b9b0};
            case "gallery" -> new int[] {0x7c3f3a, 0x6f4e34, 0xc9c3b4};
            case "shop" -> new int[] {0xb7a988, 0x7d6a4e, 0xcfc7b3};
            case "store" -> new int[] {0x8c9099, 0x64676b, 0x9da1a6};
            case "kitchen" -> new int[] {0xc5cac7, 0x7b807f, 0xd2d6d4};
            case "reading" -> new int[] {0x5f6e54, 0x5c4630, 0xb6ad98};
            case "office" -> new int[] {0xa9b0b3, 0x6f7a80, 0xc2c7c9};
            case "archive" -> new int[] {0x7d8a80, 0x666a5f, 0xa5aca4};
            case "studio" -> new int[] {0xc9c1ae, 0x8a7d69, 0xd8d3c6};
            case "stair" -> new int[] {0x94a0a8, 0x6b7073, 0xa9b2b8};
            case "attic" -> new int[] {0x8f7656, 0x5f4b35, 0x6f5a41};
            case "vault" -> new int[] {0x6f757c, 0x50545a, 0x7c828a};
            case "strong" -> new int[] {0x5d656f, 0x474b52, 0x666d77};
            case "hall" -> new int[] {0x9aa3a6, 0x757a78, 0x828a8e};
            case "workshop" -> new int[] {0xb09a73, 0x80694a, 0x9f9584};
            case "plant" -> new int[] {0x72807c, 0x585e5c, 0x5f6c69};
            case "classroom" -> new int[] {0xd0bf8e, 0x7f8a6e, 0xd9d3c0};
            default -> new int[] {0x9a9a94, 0x6a6a66, 0xaaaaa4};
        };
    }

    private static char floor(String room) {
        return switch (room) {
            case "lobby", "kitchen", "vault", "strong", "corridor" -> 't';
            case "gallery", "reading", "studio", "attic", "workshop", "classroom", "shop" -> 'p';
            default -> '-';
        };
    }

    private static Color shift(int rgb, float by) {
        Color c = new Color(rgb);
        return new Color(
                clamp(c.getRed() + (int) (by * 255)),
                clamp(c.getGreen() + (int) (by * 200)),
                clamp(c.getBlue() + (int) (by * 160)));
    }

    private static int clamp(int v) {
        return Math.max(0, Math.min(255, v));
    }

    private static Path2D quad(double... xy) {
        Path2D p = new Path2D.Double();
        p.moveTo(xy[0], xy[1]);
        for (int i = 2; i < xy.length; i += 2) {
            p.lineTo(xy[i], xy[i + 1]);
        }
        p.closePath();
        return p;
    }

    private void box(Graphics2D g, Color wall, Color floor, int ceiling, char pattern) {
        g.setColor(new Color(ceiling));
        g.fill(quad(0, 0, W, 0, RIGHT, TOP, LEFT, TOP));
        g.setColor(new Color(0xf1efe2));
        g.fill(quad(250, 20, 390, 20, 360, 38, 280, 38));
        g.setColor(PersonPainter.darker(wall, 0.82));
        g.fill(quad(0, 0, LEFT, TOP, LEFT, FLOOR, 0, H));
        g.setColor(PersonPainter.darker(wall, 0.9));
        g.fill(quad(W, 0, RIGHT, TOP, RIGHT, FLOOR, W, H));
        g.setColor(wall);
        g.fill(new Rectangle2D.Double(LEFT, TOP, RIGHT - LEFT, FLOOR - TOP));
        g.setColor(floor);
        g.fill(quad(LEFT, FLOOR, RIGHT, FLOOR, W, H, 0, H));
        g.setColor(PersonPainter.darker(floor, 0.86));
        g.setStroke(new BasicStroke(1.4f));
        if (pattern != '-') {
            for (int i = -12; i <= 24; i++) {
                double top = LEFT + (RIGHT - LEFT) * i / 12.0;
                double bottom = W * i / 12.0;
                g.draw(new java.awt.geom.Line2D.Double(top, FLOOR, bottom + (bottom - 320) * 0.2, H));
            }
        }
        if (pattern == 't') {
            for (int i = 1; i < 7; i++) {
                double y = FLOOR + (H - FLOOR) * Math.pow(i / 6.0, 1.6);
                g.draw(new java.awt.geom.Line2D.Double(0, y, W, y));
            }
        }
        g.setColor(PersonPainter.darker(wall, 0.6));
        g.setStroke(new BasicStroke(4f));
        g.draw(new java.awt.geom.Line2D.Double(LEFT, FLOOR, RIGHT, FLOOR));
        g.draw(new java.awt.geom.Line2D.Double(0, H, LEFT, FLOOR));
        g.draw(new java.awt.geom.Line2D.Double(W, H, RIGHT, FLOOR));
    }

    private void props(Graphics2D g) {
        switch (room) {
            case "gallery" -> {
                frame(g, 172, 92, 70, 74);
                frame(g, 388, 86, 62, 84);
                leftPicture(g);
            }
            case "reading" -> {
                shelves(g, 160, 70, 92, 156, true);
                shelves(g, 376, 70, 84, 156, true);
            }
            case "archive", "store" -> {
                shelves(g, 158, 76, 92, 152, false);
                chest(g, 392, 168, 70, 62);
            }
            case "hall" -> {
                shelves(g, 154, 56, 100, 174, false);
                shelves(g, 374, 56, 92, 174, false);
            }
            case "bay" -> {
                g.setColor(new Color(0x6b7072));
                for (int y = 62; y < FLOOR; y += 9) {
                    g.fillRect(156, y, 98, 6);
                }
                stripes(g, 372, FLOOR - 16, 92);
                crate(g, 396, 178, 62, 52);
                crate(g, 60, 250, 92, 78);
            }
            case "shop" -> {
                shelves(g, 160, 84, 88, 140, true);
                g.setColor(new Color(0x7a5c3c));
                g.fill(quad(376, 186, 462, 186, 470, FLOOR, 370, FLOOR));
            }
            case "kitchen" -> {
                g.setColor(new Color(0xaab1b2));
                g.fillRect(376, 168, 88, 64);
                g.setColor(new Color(0x6f7677));
                g.fillRect(376, 164, 88, 7);
                g.fillRect(168, 92, 74, 40);
            }
            case "office" -> {
                board(g, 168, 88, 76, 54, 0xb98f58);
                plant(g, 420, 232);
            }
            case "studio" -> {
                easel(g, 204, 226);
                lamp(g, 420, 92);
            }
            case "stair" -> {
                for (int i = 0; i < 6; i++) {
                    g.setColor(new Color(0x5b6163 + i * 0x060606));
                    g.fill(quad(
                            0, 330 - i * 26, 120 - i * 6, 290 - i * 22, 120 - i * 6, 302 - i * 22, 0, 346 - i * 26));
                }
                g.setColor(new Color(0x3a4043));
                g.setStroke(new BasicStroke(5f));
                g.drawLine(128, 250, 20, 130);
            }
            case "attic" -> {
                g.setColor(new Color(0x4d3a26));
                g.setStroke(new BasicStroke(12f));
                g.drawLine(150, 200, 320, 30);
                g.drawLine(470, 200, 320, 30);
                crate(g, 176, 184, 56, 46);
            }
            case "vault", "strong" -> {
                g.setColor(new Color(0x42474e));
                for (int y = 66; y < FLOOR; y += 34) {
                    for (int x = 162; x < 462; x += 44) {
                        if (x < 250 || x > 372) {
                            g.fill(new Ellipse2D.Double(x, y, 6, 6));
                        }
                    }
                }
                g.setColor(new Color(0x8a8f56));
                g.fillRect(LEFT, 148, 110, 6);
                g.fillRect(368, 148, 102, 6);
            }
            case "workshop" -> {
                board(g, 164, 84, 84, 70, 0x6d5a3c);
                g.setColor(new Color(0xd0c8b4));
                for (int i = 0; i < 6; i++) {
                    g.fillRect(172 + i * 12, 94, 5, 26 + i % 3 * 10);
                }
                g.setColor(new Color(0x6a4d2d));
                g.fillRect(378, 182, 84, 10);
                g.fillRect(384, 192, 8, 40);
                g.fillRect(448, 192, 8, 40);
            }
            case "plant" -> {
                g.setStroke(new BasicStroke(11f, BasicStroke.CAP_ROUND, BasicStroke.JOIN_ROUND));
                g.setColor(new Color(0x9c5a45));
                g.drawLine(160, 80, 250, 80);
                g.setColor(new Color(0x4f7386));
                g.drawLine(160, 100, 250, 100);
                g.drawLine(420, 60, 420, FLOOR);
                g.setColor(new Color(0x48514f));
                g.fillRect(174, 150, 66, 82);
            }
            case "classroom" -> {
                board(g, 164, 80, 84, 60, 0x3f5a48);
                int[] paper = {0xc96b4b, 0x4f7fa0, 0xd6b24a, 0x74935a};
                for (int i = 0; i < 6; i++) {
                    g.setColor(new Color(paper[i % 4]));
                    g.fillRect(378 + i % 3 * 28, 84 + i / 3 * 36, 22, 28);
                }
            }
            case "lobby" -> {
                board(g, 170, 90, 70, 46, 0x46525c);
                g.setColor(new Color(0x5d6368));
                g.fillRect(214, 196, 18, 70);
                g.fillRect(392, 196, 18, 70);
                g.setColor(new Color(0xb4bac0));
                g.setStroke(new BasicStroke(5f));
                g.drawLine(230, 214, 262, 226);
            }
            case "corridor" -> {
                board(g, 176, 96, 56, 40, 0x8d6f48);
                g.setColor(new Color(0x9c3b30));
                g.fillRect(404, 150, 20, 46);
            }
            default -> {}
        }
    }

    private void frame(Graphics2D g, int x, int y, int w, int h) {
        g.setColor(new Color(0xb08d4a));
        g.fillRect(x - 5, y - 5, w + 10, h + 10);
        g.setColor(new Color(0x9fb0b4));
        g.fillRect(x, y, w, h / 2);
        g.setColor(new Color(0x4d6a72));
        g.fillRect(x, y + h / 2, w, h - h / 2);
        g.setColor(new Color(0xe6dfc8));
        int sail = x + 10 + random.nextInt(Math.max(1, w - 30));
        g.fill(quad(sail, y + h * 0.6, sail + 14, y + h * 0.6, sail + 8, y + h * 0.25));
    }

    private void leftPicture(Graphics2D g) {
        g.setColor(new Color(0xa5823f));
        g.fill(quad(24, 70, 112, 92, 112, 200, 24, 230));
        g.setColor(new Color(0x6d5948 + random.nextInt(0x20) * 0x10101));
        g.fill(quad(34, 84, 104, 100, 104, 190, 34, 214));
    }

    private void shelves(Graphics2D g, int x, int y, int w, int h, boolean books) {
        g.setColor(new Color(books ? 0x4b3725 : 0x565c61));
        g.fillRect(x, y, w, h);
        int[] spines = {0x7c3f36, 0x3f5a6b, 0x6f6a3f, 0x8a7650, 0x49604a, 0x5b4668};
        for (int row = y + 6; row < y + h - 18; row += 30) {
            int at = x + 4;
            while (at < x + w - 10) {
                int wide = books ? 5 + random.nextInt(6) : 16 + random.nextInt(12);
                int tall = books ? 18 + random.nextInt(7) : 20;
                wide = Math.min(wide, x + w - 4 - at);
                g.setColor(new Color(books ? spines[random.nextInt(6)] : 0xa58f6b + random.nextInt(3) * 0x0a0a0a));
                g.fillRect(at, row + 25 - tall, wide - 1, tall);
                at += wide;
            }
        }
    }

    private void chest(Graphics2D g, int x, int y, int w, int h) {
        g.setColor(new Color(0x5f5340));
        g.fillRect(x, y, w, h);
        g.setColor(new Color(0x8d7c5f));
        for (int i = 4; i < h - 8; i += 12) {
            g.fillRect(x + 4, y + i, w - 8, 9);
        }
    }

    private static void crate(Graphics2D g, int x, int y, int w, int h) {
        g.setColor(new Color(0x9a7a4a));
        g.fillRect(x, y, w, h);
        g.setColor(new Color(0x6f5530));
        g.setStroke(new BasicStroke(4f));
        g.drawRect(x + 2, y + 2, w - 4, h - 4);
        g.drawLine(x + 2, y + 2, x + w - 2, y + h - 2);
    }

    private static void stripes(Graphics2D g, int x, int y, int w) {
        for (int i = 0; i < w; i += 12) {
            g.setColor(new Color(i / 12 % 2 == 0 ? 0xc2a33a : 0x2c2c2a));
            g.fillRect(x + i, y, Math.min(12, w - i), 12);
        }
    }

    private static void board(Graphics2D g, int x, int y, int w, int h, int colour) {
        g.setColor(new Color(0x4a3d2e));
        g.fillRect(x - 3, y - 3, w + 6, h + 6);
        g.setColor(new Color(colour));
        g.fillRect(x, y, w, h);
        g.setColor(new Color(0xe4dfcf));
        g.fillRect(x + 8, y + 8, 18, 14);
        g.fillRect(x + 34, y + 12, 14, 18);
    }

    private static void plant(Graphics2D g, int x, int y) {
        g.setColor(new Color(0x7c4c34));
        g.fill(quad(x - 14, y - 26, x + 14, y - 26, x + 10, y, x - 10, y));
        g.setColor(new Color(0x476b43));
        for (int i = 0; i < 7; i++) {
            double a = Math.PI * (0.1 + i * 0.13);
            g.fill(new Ellipse2D.Double(x + Math.cos(a) * 22 - 9, y - 40 - Math.sin(a) * 34 - 12, 18, 30));
        }
    }

    private static void easel(Graphics2D g, int x, int y) {
        g.setColor(new Color(0x6a4d2d));
        g.setStroke(new BasicStroke(5f));
        g.drawLine(x, y - 130, x - 28, y);
        g.drawLine(x, y - 130, x + 28, y);
        g.setColor(new Color(0xe8e3d4));
        g.fillRect(x - 30, y - 112, 60, 66);
        g.setColor(new Color(0x9a8058));
        g.fillRect(x - 20, y - 98, 40, 30);
    }

    private static void lamp(Graphics2D g, int x, int y) {
        g.setColor(new Color(0x3a3f44));
        g.setStroke(new BasicStroke(4f));
        g.drawLine(x, 56, x, y);
        g.setColor(new Color(0xf3e3ac));
        g.fill(quad(x - 10, y, x + 10, y, x + 24, y + 18, x - 24, y + 18));
    }

    private void quay(Graphics2D g) {
        openAir(g, 0x9fb2bf, 0x84796a, 0xa39a88, false);
        g.setColor(new Color(0x4c6a7a));
        g.fill(quad(0, 150, LEFT, 138, LEFT, 200, 0, 250));
        g.setColor(new Color(0xdad2bd));
        g.fillRect(186, 62, 248, 16);
        g.setColor(new Color(0x4a4438));
        g.fillRect(172, 84, 26, 60);
        g.fillRect(430, 84, 26, 60);
        g.setColor(new Color(0xe7dcae));
        g.fill(new Ellipse2D.Double(240, 96, 16, 22));
        g.fill(new Ellipse2D.Double(372, 96, 16, 22));
    }

    private void garden(Graphics2D g) {
        openAir(g, 0x93a6ac, 0x6b7454, 0x8a6a52, false);
        for (int i = 0; i < 26; i++) {
            g.setColor(new Color(0x3f5e3a + random.nextInt(5) * 0x060a04));
            g.fill(new Ellipse2D.Double(i * 26 - 30 + random.nextInt(12), 196 + random.nextInt(16), 46, 50));
        }
        g.setColor(new Color(0x6b7454));
        g.fill(quad(268, 226, 362, 226, 440, 360, 190, 360));
    }

    private void openAir(Graphics2D g, int sky, int ground, int wall, boolean fence) {
        g.setColor(new Color(sky));
        g.fillRect(0, 0, W, FLOOR);
        g.setColor(new Color(ground));
        g.fillRect(0, FLOOR - 30, W, H);
        g.setColor(PersonPainter.darker(new Color(ground), 0.88));
        for (int i = 0; i < 60; i++) {
            int y = FLOOR - 20 + random.nextInt(140);
            g.fill(new Ellipse2D.Double(random.nextInt(W), y, 8 + (y - FLOOR) / 8.0, 3));
        }
        if (fence) {
            g.setColor(new Color(0x3f4b44));
            for (int x = 6; x < W; x += 15) {
                if (x < DOOR.getX() - 8 || x > DOOR.getMaxX() + 4) {
                    g.fillRect(x, 92, 4, FLOOR - 92);
                }
            }
            g.fillRect(0, 104, (int) DOOR.getX() - 6, 5);
            g.fillRect((int) DOOR.getMaxX() + 6, 104, W, 5);
            return;
        }
        g.setColor(new Color(wall));
        g.fillRect(LEFT - 20, 34, RIGHT - LEFT + 60, FLOOR - 34);
        g.setColor(PersonPainter.darker(new Color(wall), 0.9));
        g.setStroke(new BasicStroke(1f));
        for (int y = 44; y < FLOOR; y += 13) {
            g.drawLine(LEFT - 20, y, RIGHT + 40, y);
            for (int x = LEFT - 20 + y / 13 % 2 * 14; x < RIGHT + 40; x += 28) {
                g.drawLine(x, y, x, y + 13);
            }
        }
    }
}
