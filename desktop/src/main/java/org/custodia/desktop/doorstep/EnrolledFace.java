package org.custodia.desktop.doorstep;

import java.util.Optional;
import org.custodia.core.access.Person;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.video.Stills;

/** The photo that was taken of a person when they were enrolled. Photos are fetched last, so that one may come yet. */
final class EnrolledFace extends FaceModel {
    private static final Texts TEXTS = Texts.of(EnrolledFace.class);

    private final Desk desk;

    EnrolledFace(Desk desk) {
        super(desk::now);
        this.desk = desk;
    }

    /** Shows a person's photo; nothing if nobody is enrolled. */
    void of(Optional<Person> person) {
        if (person.isEmpty()) {
            turnTo(new Shown(Optional.empty(), TEXTS.say("nobody-enrolled"), "\n"), () -> {});
            return;
        }
        turnTo(
                new Shown(Optional.empty(), TEXTS.say("loading-here"), TEXTS.say("enrolled") + "\n"),
                () -> fetch(person.get()));
    }

    private void fetch(Person person) {
        int asked = turn();
        desk.work()
                .load(
                        () -> desk.services()
                                .people()
                                .photo(person.id())
                                .map(jpeg -> Stills.picture(jpeg, FETCHED_HEIGHT)),
                        picture -> {
                            if (still(asked)) {
                                picture.ifPresentOrElse(
                                        p -> show(p, shown().get().below()), () -> {
                                            say(TEXTS.say("no-photo"));
                                            again(now().plus(ASK_AGAIN));
                                        });
                            }
                        },
                        why -> {
                            if (still(asked)) {
                                say(TEXTS.say("photo-unreadable"));
                            }
                        });
    }
}
