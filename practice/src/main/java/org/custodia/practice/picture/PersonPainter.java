package org.custodia.practice.picture;

import java.awt.BasicStroke;
import java.awt.Color;
import java.awt.Graphics2D;
import java.awt.geom.Arc2D;
import java.awt.geom.Ellipse2D;
import java.awt.geom.Path2D;
import java.awt.geom.RoundRectangle2D;
import org.custodia.practice.place.Look;
import org.custodia.practice.place.Look.Dress;
import org.custodia.practice.place.Look.Hair;

/** Draws somebody, from the front or the back, at any size. */
final class PersonPainter {
    /** Height of a figure of middle size at scale 1, in pixels. */
    static final double HEIGHT = 262;

    private PersonPainter() {}

    /**
     * Draws a whole figure.
     *
     * @param x of the feet
     * @param y of the feet
     * @param stride phase of walking in radians, or not a number for standing still
     * @param reach whether one arm is held out to a reader: 1 to the right, -1 to the left, 0 not
     */
    static void figure(
            Graphics2D g, Look look, double x, double y, double scale, boolean front, double stride, int reach) {
        double h = HEIGHT * scale * look.height();
        double w = 62 * scale * look.width();
        double swing = Double.isNaN(stride) ? 0 : Math.sin(stride);
        double bob = Double.isNaN(stride) ? 0 : Math.abs(Math.cos(stride)) * h * 0.012;
        g.setColor(new Color(0, 0, 0, 70));
        g.fill(new Ellipse2D.Double(x - w * 0.8, y - h * 0.025, w * 1.6, h * 0.055));
        Color trousers = darker(look.second(), 0.45);
        double leg = h * 0.44;
        limb(g, trousers, x - w * 0.2, y - leg - bob, x - w * 0.24 + swing * w * 0.16, y - h * 0.02, w * 0.31);
        limb(g, trousers, x + w * 0.2, y - leg - bob, x + w * 0.24 - swing * w * 0.16, y - h * 0.02, w * 0.31);
        g.setColor(new Color(0x1c1a18));
        g.fill(new Ellipse2D.Double(x - w * 0.46 + swing * w * 0.16, y - h * 0.035, w * 0.4, h * 0.045));
        g.fill(new Ellipse2D.Double(x + w * 0.06 - swing * w * 0.16, y - h * 0.035, w * 0.4, h * 0.045));

        double shoulder = y - h * 0.795 - bob;
        double hip = y - h * 0.4 - bob;
        Color sleeve = darker(look.coat(), 0.88);
        arm(g, look, sleeve, x - w * 0.5, shoulder + h * 0.03, -1, h, w, reach, -swing);
        arm(g, look, sleeve, x + w * 0.5, shoulder + h * 0.03, 1, h, w, reach, swing);
        torso(g, look, x, shoulder, hip, w, front);
        head(g, look, x, y - h * 0.9 - bob, h * 0.094, front);
    }

    private static void arm(
            Graphics2D g,
            Look look,
            Color sleeve,
            double x,
            double y,
            int side,
            double h,
            double w,
            int reach,
            double swing) {
        double handX = x + side * w * 0.12 + swing * w * 0.1;
        double handY = y + h * 0.36;
        if (reach == side) {
            handX = x + side * w * 0.72;
            handY = y + h * 0.14;
        }
        limb(g, sleeve, x, y, (x + handX) / 2 + side * w * 0.07, (y + handY) / 2 + h * 0.02, w * 0.27);
        limb(g, sleeve, (x + handX) / 2 + side * w * 0.07, (y + handY) / 2 + h * 0.02, handX, handY, w * 0.23);
        g.setColor(look.skin());
        double r = w * 0.15;
        g.fill(new Ellipse2D.Double(handX - r, handY - r, 2 * r, 2 * r));
        if (reach == side) {
            g.setColor(new Color(0xe8e4da));
            g.fill(new RoundRectangle2D.Double(handX - r * 0.6, handY - r * 1.9, r * 1.3, r * 1.9, 2, 2));
        }
    }

    private static void limb(Graphics2D g, Color colour, double x1, double y1, double x2, double y2, double width) {
        g.setColor(colour);
        g.setStroke(new BasicStroke((float) width, BasicStroke.CAP_ROUND, BasicStroke.JOIN_ROUND));
        Path2D path = new Path2D.Double();
        path.moveTo(x1, y1);
        path.lineTo(x2, y2);
        g.draw(path);
    }

    private static void torso(Graphics2D g, Look look, double x, double top, double bottom, double w, boolean front) {
        double low = look.dress() == Dress.COAT ? bottom + (bottom - top) * 0.16 : bottom;
        Path2D body = new Path2D.Double();
        body.moveTo(x - w * 0.2, top - w * 0.08);
        body.curveTo(x - w * 0.55, top, x - w * 0.62, top + w * 0.1, x - w * 0.6, top + w * 0.4);
        body.lineTo(x - w * 0.5, low);
        body.lineTo(x + w * 0.5, low);
        body.lineTo(x + w * 0.6, top + w * 0.4);
        body.curveTo(x + w * 0.62, top + w * 0.1, x + w * 0.55, top, x + w * 0.2, top - w * 0.08);
        body.closePath();
        g.setColor(look.coat());
        g.fill(body);
        var clip = g.getClip();
        g.clip(body);
        switch (look.dress()) {
            case VEST -> {
                g.setColor(new Color(0xe9e5cf));
                g.fill(new RoundRectangle2D.Double(x - w, top + (low - top) * 0.52, w * 2, w * 0.16, 0, 0));
                g.fill(new RoundRectangle2D.Double(x - w * 0.42, top - w, w * 0.14, w * 4, 0, 0));
                g.fill(new RoundRectangle2D.Double(x + w * 0.28, top - w, w * 0.14, w * 4, 0, 0));
            }
            case BLAZER -> blazer(g, look, x, top, low, w, front);
            case APRON -> {
                g.setColor(look.second());
                g.fill(new RoundRectangle2D.Double(x - w * 0.8, top - w * 0.2, w * 0.36, w * 3, 0, 0));
                g.fill(new RoundRectangle2D.Double(x + w * 0.44, top - w * 0.2, w * 0.36, w * 3, 0, 0));
                g.fill(new RoundRectangle2D.Double(x - w * 0.3, top - w * 0.2, w * 0.6, w * 0.34, 0, 0));
            }
            case COAT -> {
                g.setColor(darker(look.coat(), 0.7));
                g.setStroke(new BasicStroke((float) Math.max(1, w * 0.04)));
                if (front) {
                    g.drawLine((int) x, (int) top, (int) x, (int) low);
                }
                g.setColor(look.second());
                g.fill(new RoundRectangle2D.Double(x - w * 0.34, top - w * 0.14, w * 0.68, w * 0.22, w * 0.2, w * 0.2));
            }
            case JUMPER -> {
                g.setColor(look.second());
                g.fill(new RoundRectangle2D.Double(x - w, top + (low - top) * 0.34, w * 2, w * 0.12, 0, 0));
                g.setColor(darker(look.coat(), 0.75));
                g.fill(new RoundRectangle2D.Double(x - w, low - w * 0.14, w * 2, w * 0.2, 0, 0));
            }
        }
        g.setClip(clip);
        if (front && look.dress() != Dress.COAT) {
            g.setColor(new Color(0xf2efe6));
            g.fill(new RoundRectangle2D.Double(x + w * 0.12, top + (low - top) * 0.4, w * 0.2, w * 0.26, 2, 2));
        }
    }

    private static void blazer(Graphics2D g, Look look, double x, double top, double low, double w, boolean front) {
        if (!front) {
            return;
        }
        Path2D shirt = new Path2D.Double();
        shirt.moveTo(x - w * 0.2, top - w * 0.1);
        shirt.lineTo(x + w * 0.2, top - w * 0.1);
        shirt.lineTo(x, top + (low - top) * 0.48);
        shirt.closePath();
        g.setColor(new Color(0xe9e6de));
        g.fill(shirt);
        g.setColor(look.second());
        Path2D tie = new Path2D.Double();
        tie.moveTo(x - w * 0.06, top - w * 0.02);
        tie.lineTo(x + w * 0.06, top - w * 0.02);
        tie.lineTo(x + w * 0.03, top + (low - top) * 0.42);
        tie.lineTo(x - w * 0.03, top + (low - top) * 0.42);
        tie.closePath();
        g.fill(tie);
    }

    /**
     * Draws a head.
     *
     * @param r half its width
     */
    static void head(Graphics2D g, Look look, double x, double y, double r, boolean front) {
        double tall = r * 1.22 * look.faceLength();
        Color shade = darker(look.skin(), 0.82);
        g.setColor(shade);
        g.fill(new RoundRectangle2D.Double(x - r * 0.42, y + tall * 0.55, r * 0.84, r * 1.0, r * 0.3, r * 0.3));
        if (look.style() == Hair.LONG) {
            g.setColor(darker(look.hair(), 0.85));
            g.fill(new RoundRectangle2D.Double(x - r * 1.16, y - tall * 0.8, r * 2.32, tall * 2.1, r * 1.4, r * 1.4));
        }
        if (look.style() == Hair.BUN) {
            g.setColor(look.hair());
            g.fill(new Ellipse2D.Double(x - r * 0.42, y - tall * 1.5, r * 0.84, r * 0.84));
        }
        g.setColor(shade);
        g.fill(new Ellipse2D.Double(x - r * 1.12, y - r * 0.2, r * 0.36, r * 0.5));
        g.fill(new Ellipse2D.Double(x + r * 0.76, y - r * 0.2, r * 0.36, r * 0.5));
        g.setColor(look.skin());
        g.fill(new Ellipse2D.Double(x - r, y - tall, r * 2, tall * 2));
        if (!front) {
            g.setColor(look.style() == Hair.BALD ? darker(look.skin(), 0.9) : look.hair());
            g.fill(new Ellipse2D.Double(x - r * 1.04, y - tall * 1.06, r * 2.08, tall * 1.75));
            return;
        }
        face(g, look, x, y, r, tall);
        hair(g, look, x, y, r, tall);
    }

    private static void face(Graphics2D g, Look look, double x, double y, double r, double tall) {
        Color line = darker(look.skin(), 0.55);
        if (look.beard()) {
            g.setColor(darker(look.hair(), 0.95));
            g.fill(new Arc2D.Double(x - r * 0.98, y - tall * 0.85, r * 1.96, tall * 1.86, 190, 160, Arc2D.CHORD));
            g.setColor(look.skin());
            g.fill(new Ellipse2D.Double(x - r * 0.62, y - tall * 0.5, r * 1.24, tall * 0.95));
        }
        double eye = r * 0.4;
        for (int side = -1; side <= 1; side += 2) {
            g.setColor(new Color(0xf4f2ec));
            g.fill(new Ellipse2D.Double(x + side * eye - r * 0.18, y - tall * 0.14, r * 0.36, r * 0.24));
            g.setColor(new Color(0x2a211b));
            g.fill(new Ellipse2D.Double(x + side * eye - r * 0.09, y - tall * 0.13, r * 0.19, r * 0.21));
            g.setColor(look.style() == Hair.BALD ? line : darker(look.hair(), 0.9));
            g.fill(new RoundRectangle2D.Double(
                    x + side * eye - r * 0.24, y - tall * 0.33, r * 0.48, Math.max(1, r * 0.1), r * 0.1, r * 0.1));
        }
        g.setStroke(new BasicStroke((float) Math.max(1, r * 0.08), BasicStroke.CAP_ROUND, BasicStroke.JOIN_ROUND));
        g.setColor(line);
        Path2D nose = new Path2D.Double();
        nose.moveTo(x + r * 0.02, y - tall * 0.02);
        nose.lineTo(x + r * 0.12, y + tall * 0.24);
        nose.lineTo(x - r * 0.04, y + tall * 0.27);
        g.draw(nose);
        g.setColor(new Color(
                mix(look.skin().getRed(), 150),
                mix(look.skin().getGreen(), 60),
                mix(look.skin().getBlue(), 60)));
        g.fill(new RoundRectangle2D.Double(
                x - r * 0.3, y + tall * 0.47, r * 0.6, Math.max(1.4, r * 0.15), r * 0.2, r * 0.2));
        if (look.glasses()) {
            g.setColor(new Color(0x23262b));
            g.setStroke(new BasicStroke((float) Math.max(1, r * 0.09)));
            for (int side = -1; side <= 1; side += 2) {
                g.draw(new RoundRectangle2D.Double(
                        x + side * eye - r * 0.31, y - tall * 0.24, r * 0.62, r * 0.5, r * 0.3, r * 0.3));
            }
            g.draw(new java.awt.geom.Line2D.Double(x - r * 0.1, y - tall * 0.08, x + r * 0.1, y - tall * 0.08));
        }
    }

    private static void hair(Graphics2D g, Look look, double x, double y, double r, double tall) {
        g.setColor(look.hair());
        switch (look.style()) {
            case SHORT ->
                g.fill(new Arc2D.Double(x - r * 1.06, y - tall * 1.1, r * 2.12, tall * 1.5, 8, 164, Arc2D.CHORD));
            case SIDE -> {
                Path2D path = new Path2D.Double();
                path.moveTo(x - r * 1.06, y - tall * 0.1);
                path.curveTo(x - r * 1.2, y - tall * 1.35, x + r * 1.2, y - tall * 1.35, x + r * 1.06, y - tall * 0.1);
                path.curveTo(
                        x + r * 0.85, y - tall * 0.55, x + r * 0.1, y - tall * 0.75, x - r * 0.55, y - tall * 0.62);
                path.curveTo(x - r * 0.85, y - tall * 0.5, x - r * 0.95, y - tall * 0.3, x - r * 1.06, y - tall * 0.1);
                g.fill(path);
            }
            case LONG, BUN -> {
                Path2D path = new Path2D.Double();
                path.moveTo(x - r * 1.08, y + tall * 0.15);
                path.curveTo(x - r * 1.2, y - tall * 1.4, x + r * 1.2, y - tall * 1.4, x + r * 1.08, y + tall * 0.15);
                path.curveTo(x + r * 0.95, y - tall * 0.5, x + r * 0.5, y - tall * 0.62, x, y - tall * 0.72);
                path.curveTo(x - r * 0.5, y - tall * 0.62, x - r * 0.95, y - tall * 0.5, x - r * 1.08, y + tall * 0.15);
                g.fill(path);
            }
            case CURLY -> {
                for (int i = 0; i < 9; i++) {
                    double a = Math.PI * (1.02 + i * 0.12);
                    double cx = x + Math.cos(a) * r * 0.95;
                    double cy = y - tall * 0.22 + Math.sin(a) * tall * 0.82;
                    g.fill(new Ellipse2D.Double(cx - r * 0.36, cy - r * 0.36, r * 0.72, r * 0.72));
                }
                g.fill(new Arc2D.Double(x - r * 1.0, y - tall * 1.1, r * 2.0, tall * 1.2, 10, 160, Arc2D.CHORD));
            }
            case BALD -> {
                g.setColor(new Color(255, 255, 255, 46));
                g.fill(new Ellipse2D.Double(x - r * 0.5, y - tall * 0.88, r * 0.7, tall * 0.26));
            }
        }
    }

    private static int mix(int a, int b) {
        return (a * 2 + b) / 3;
    }

    static Color darker(Color c, double factor) {
        return new Color((int) (c.getRed() * factor), (int) (c.getGreen() * factor), (int) (c.getBlue() * factor));
    }
}
