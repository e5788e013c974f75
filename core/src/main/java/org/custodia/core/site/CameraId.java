package org.custodia.core.site;

/**
 * Names one picture of one camera: the recorder's id, a slash, and the recorder's own id for it.
 *
 * @param value not blank, at most {@value Ids#LONGEST} characters
 */
public record CameraId(String value) {
    public CameraId {
        Ids.check(value);
    }

    @Override
    public String toString() {
        return value;
    }
}
