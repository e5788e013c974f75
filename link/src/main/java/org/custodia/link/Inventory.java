package org.custodia.link;

import java.util.List;
import org.custodia.core.access.Credential;
import org.custodia.core.access.Person;
import org.custodia.core.access.RuleBook;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Device;
import org.custodia.core.site.Door;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.Reader;
import org.custodia.core.site.Site;
import org.custodia.core.site.SystemId;

/** Takes in what systems say they have. Called on the links' threads. */
public interface Inventory {
    void places(SystemId system, List<Site> sites, List<Door> doors, List<Reader> readers, List<Device> devices);

    void rules(SystemId system, RuleBook book);

    void people(SystemId system, List<Person> people, List<Credential> credentials);

    void cameras(SystemId recorder, List<Camera> cameras);

    /** Whether the photo in this version is still to be fetched. */
    boolean wantsPhoto(PersonId person, String version);

    void photo(PersonId person, String version, byte[] jpeg);
}
