package org.custodia.core.message;

import org.custodia.core.setup.Secrets;

/** Under which names secrets of messages are kept. */
final class Keys {
    /** What the names of all passwords of mail servers begin with. */
    static final String PASSWORDS = "message/mail/";

    private Keys() {}

    /** What the user of a mail server signs in with; another name for each server, user and certificate. */
    static String password(MailServer server) {
        return Secrets.nameFor(
                "message/mail",
                server.host(),
                String.valueOf(server.port()),
                server.security().name(),
                server.user().orElse(""),
                server.certificate().orElse(""));
    }

    /** What messages to an address of the web are signed with. */
    static String of(String receiver) {
        return "message/to/" + receiver;
    }
}
