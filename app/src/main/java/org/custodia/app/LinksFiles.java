package org.custodia.app;

import java.io.IOException;
import java.nio.charset.CharacterCodingException;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.util.stream.Collectors;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.site.SystemId;
import org.custodia.link.LinkFactory;
import org.custodia.wire.LinksFileForm;
import org.custodia.wire.WireException;

/** Reads links files, and says in one sentence what is wrong with one. */
final class LinksFiles {
    private static final String SEE = ". docs/link-protocol.md shows one.";

    private LinksFiles() {}

    /**
     * Reads and checks a file.
     *
     * @throws Main.CannotStartException if it cannot be used; the message says why, and never holds a token
     */
    static LinksFileForm.Content read(Path file) {
        String text = text(file);
        try {
            LinksFileForm.Content content = new LinksFileForm().read(text);
            need(
                    !content.setup().links().isEmpty(),
                    "its list of links is empty or missing, so there is nothing to connect to");
            content.setup().links().forEach(LinksFiles::check);
            return content;
        } catch (WireException e) {
            throw new Main.CannotStartException(
                    "The links file " + file + " cannot be understood: " + e.getMessage() + SEE);
        } catch (IllegalArgumentException e) {
            throw new Main.CannotStartException("The links file " + file + " cannot be used: " + e.getMessage() + SEE);
        }
    }

    /**
     * The same, where all links are to be signed in to at once.
     *
     * @throws Main.CannotStartException if it cannot be used, or has no token for one of its links
     */
    static LinksFileForm.Content readWithTokens(Path file) {
        LinksFileForm.Content content = read(file);
        content.setup().links().stream()
                .filter(l -> !content.tokens().containsKey(l.id()))
                .findFirst()
                .ifPresent(l -> {
                    throw new Main.CannotStartException("The links file " + file + " has no token for the link \""
                            + l.id() + "\", as one that was exported has none" + SEE);
                });
        return content;
    }

    private static String text(Path file) {
        try {
            if (Files.size(file) > LinksFileForm.LARGEST) {
                throw new Main.CannotStartException("The links file " + file + " is far too large to be one" + SEE);
            }
            return Files.readString(file);
        } catch (NoSuchFileException e) {
            throw new Main.CannotStartException("There is no links file " + file + ". Name one with --links.");
        } catch (CharacterCodingException e) {
            throw new Main.CannotStartException("The links file " + file + " is not a text in UTF-8" + SEE);
        } catch (IOException e) {
            throw new Main.CannotStartException(
                    "The links file " + file + " cannot be read. Is it a file, and may it be read?");
        }
    }

    /** Whether there is anything that can speak with it. */
    private static void check(LinkSetup link) {
        String name = "the link \"" + link.id() + "\" ";
        need(
                LinkFactory.ALL.stream().anyMatch(f -> f.kind().equals(link.kind())),
                name + "is of kind "
                        + LinkFactory.ALL.stream()
                                .map(LinkFactory::kind)
                                .distinct()
                                .collect(Collectors.joining(" or "))
                        + ", not " + link.kind());
        need(
                LinkFactory.of(link.kind(), link.make()).isPresent(),
                name + "is of the make " + link.make() + ", which Custodia cannot connect to");
    }

    private static void need(boolean fine, String otherwise) {
        if (!fine) {
            throw new IllegalArgumentException(otherwise);
        }
    }

    /** What connects to the system of a link that was {@linkplain #read read}. */
    static LinkFactory factory(LinkSetup link) {
        return LinkFactory.of(link.kind(), link.make()).orElseThrow();
    }

    /**
     * Where a link goes.
     *
     * @param token with what to sign in
     */
    static LinkFactory.Destination destination(LinkSetup link, String token) {
        return new LinkFactory.Destination(
                new SystemId(link.id()), link.name(), link.address(), token, link.certificate());
    }
}
