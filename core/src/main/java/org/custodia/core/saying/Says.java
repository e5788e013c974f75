package org.custodia.core.saying;

/** Something that can say to people what it is, such as an exception whose message is for whoever reads our logs. */
public interface Says {
    Saying saying();

    /** What an exception has to say to people; the other saying where it has nothing to say. */
    static Saying of(Throwable e, Saying otherwise) {
        return e instanceof Says says ? says.saying() : otherwise;
    }
}
