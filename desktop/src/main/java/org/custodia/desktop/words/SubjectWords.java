package org.custodia.desktop.words;

import java.util.Collection;
import org.custodia.core.alarm.Subject;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Device;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.Door;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteModel;
import org.custodia.desktop.text.Texts;

/** Says what an alarm is about. */
public final class SubjectWords {
    private static final Texts TEXTS = Texts.of(SubjectWords.class);

    private SubjectWords() {}

    /** The name of what it is about; its id where it is not known any more. */
    public static String where(Subject subject, SiteModel sites, Collection<LinkStatus> links) {
        return switch (subject.sort()) {
            case DOOR -> subject.door().flatMap(sites::door).map(Door::name).orElse(subject.id());
            case DEVICE ->
                sites.device(new DeviceId(subject.id())).map(Device::name).orElse(subject.id());
            case CAMERA ->
                sites.camera(new CameraId(subject.id())).map(Camera::name).orElse(subject.id());
            case SITE ->
                sites.sites().stream()
                        .filter(s -> s.id().value().equals(subject.id()))
                        .findFirst()
                        .map(Site::name)
                        .orElse(subject.id());
            case CONTROLLER -> TEXTS.say("subject-controller", subject.id());
            case SYSTEM ->
                links.stream()
                        .filter(l -> l.system().value().equals(subject.id()))
                        .findFirst()
                        .map(LinkStatus::name)
                        .orElse(subject.id());
        };
    }
}
