package org.custodia.core.message;

/** Under which names secrets of messages are kept. */
final class Keys {
    /** What the user of the mail server signs in with. */
    static final String PASSWORD = "message/mail";

    private Keys() {}

    /** What messages to an address of the web are signed with. */
    static String of(String receiver) {
        return "message/to/" + receiver;
    }
}
