package org.custodia.store;

import com.fasterxml.jackson.core.JsonProcessingException;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.ByteBuffer;
import java.nio.channels.Channels;
import java.nio.channels.FileChannel;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.FileAttribute;
import java.nio.file.attribute.PosixFileAttributeView;
import java.nio.file.attribute.PosixFilePermission;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.GeneralSecurityException;
import java.security.SecureRandom;
import java.util.Arrays;
import java.util.Base64;
import java.util.EnumSet;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import javax.crypto.Cipher;
import javax.crypto.SecretKeyFactory;
import javax.crypto.spec.GCMParameterSpec;
import javax.crypto.spec.PBEKeySpec;
import javax.crypto.spec.SecretKeySpec;
import org.custodia.core.saying.Saying;
import org.custodia.core.setup.Secrets;
import org.custodia.core.setup.SecretsException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Secrets in a file, each sealed with AES-256 in Galois/Counter Mode (NIST SP 800-38D) under its own name, so that one does not
 * open under another. The key is in a file that only its owner can read, or comes from a passphrase by PBKDF2 (RFC 8018). Where
 * the key is gone or damaged, what it sealed is laid aside when the next secret is kept. Safe for use by several threads.
 */
public final class SealedSecrets implements Secrets {
    private static final Logger LOG = LoggerFactory.getLogger(SealedSecrets.class);
    private static final int FORM = 1;
    private static final int KEY_BYTES = 32;
    private static final int NONCE_BYTES = 12;
    private static final int TAG_BITS = 128;
    private static final int SALT_BYTES = 16;
    /** What OWASP's Password Storage Cheat Sheet asks of PBKDF2 with HMAC-SHA-256. */
    static final int ROUNDS = 600_000;
    /** More than so many would keep a start waiting, and no file of ours has them. */
    private static final int MOST_ROUNDS = 10_000_000;

    private static final long LARGEST = 8 * 1024 * 1024;
    /** Sealed along, so that a wrong passphrase shows even where nothing else is sealed. */
    private static final String CHECK = "check";

    private final Path file;
    private final Path keyFile;
    private final Optional<char[]> passphrase;
    private final int rounds;
    private final SecureRandom random = new SecureRandom();
    private Opened opened;

    /** The file's content. */
    record Content(int form, String keyFrom, String salt, int rounds, Map<String, String> sealed) {}

    /** What it says, and what opens it. */
    private record Opened(Content content, SecretKeySpec key) {}

    /**
     * Nothing is read before the first secret is asked for.
     *
     * @param passphrase instead of a key file; nothing to use one
     */
    public SealedSecrets(Path directory, Optional<char[]> passphrase) {
        this(directory, passphrase, ROUNDS);
    }

    /**
     * The same.
     *
     * @param rounds by which a new file's key is derived from the passphrase
     */
    SealedSecrets(Path directory, Optional<char[]> passphrase, int rounds) {
        this.rounds = rounds;
        this.file = directory.resolve("secrets.json");
        this.keyFile = directory.resolve("secrets-key");
        this.passphrase = passphrase.map(char[]::clone);
    }

    @Override
    public synchronized Optional<String> get(String name) {
        if (!Files.exists(file)) {
            return Optional.empty();
        }
        Opened now = openOrFail();
        String sealed = now.content().sealed().get(name);
        return sealed == null ? Optional.empty() : Optional.of(unseal(now.key(), name, sealed));
    }

    @Override
    public synchronized Set<String> names() {
        if (!Files.exists(file)) {
            return Set.of();
        }
        Set<String> names = new TreeSet<>(openOrFail().content().sealed().keySet());
        names.remove(CHECK);
        return names;
    }

    private Opened openOrFail() {
        try {
            return open();
        } catch (LostException e) {
            throw (SecretsException) e.getCause();
        }
    }

    @Override
    public synchronized void put(String name, String secret) {
        Opened now;
        if (Files.exists(file)) {
            try {
                now = open();
            } catch (LostException e) {
                layAside();
                now = anew();
            }
        } else {
            now = anew();
        }
        Map<String, String> sealed = new TreeMap<>(now.content().sealed());
        sealed.put(name, seal(now.key(), name, secret));
        keep(now, sealed);
    }

    @Override
    public synchronized void remove(String name) {
        if (!Files.exists(file)) {
            return;
        }
        Opened now;
        try {
            now = open();
        } catch (LostException e) {
            // Nobody can read it any more.
            return;
        }
        Map<String, String> sealed = new TreeMap<>(now.content().sealed());
        if (sealed.remove(name) != null) {
            keep(now, sealed);
        }
    }

    /** What was sealed cannot be opened by anybody any more. */
    private static final class LostException extends RuntimeException {
        private static final long serialVersionUID = 1L;

        LostException(String code, Path where) {
            super(code, new SecretsException(Saying.of(code, where.toString()), null));
        }
    }

    private Opened open() {
        if (opened != null) {
            return opened;
        }
        Content content = read();
        SecretKeySpec key = content.keyFrom().equals("passphrase") ? fromPassphrase(content) : fromFile();
        String check = content.sealed().get(CHECK);
        try {
            if (check == null || !unseal(key, CHECK, check).equals(CHECK)) {
                throw new SecretsException(Saying.of("secrets.file-odd", file.toString()), null);
            }
        } catch (SecretsException e) {
            if (content.keyFrom().equals("passphrase")) {
                throw new SecretsException(Saying.of("secrets.passphrase-wrong"), e);
            }
            throw new LostException("secrets.key-other", keyFile);
        }
        opened = new Opened(content, key);
        if (passphrase.isPresent() && content.keyFrom().equals("file")) {
            sealAnew();
        }
        return opened;
    }

    /** From now on the passphrase opens it, and the key file is gone. */
    private void sealAnew() {
        Opened before = opened;
        Opened now = anew();
        Map<String, String> sealed = new TreeMap<>();
        before.content()
                .sealed()
                .forEach((name, text) -> sealed.put(name, seal(now.key(), name, unseal(before.key(), name, text))));
        keep(now, sealed);
        try {
            Files.deleteIfExists(keyFile);
        } catch (IOException e) {
            LOG.warn("The key file {} is not needed any more and could not be removed.", keyFile);
        }
    }

    private Content read() {
        try {
            if (Files.size(file) > LARGEST) {
                throw new LostException("secrets.file-odd", file);
            }
            Content content = PayloadText.JSON.readValue(Files.readString(file), Content.class);
            boolean known = content.form() == FORM
                    && content.sealed() != null
                    && Set.of("file", "passphrase").contains(String.valueOf(content.keyFrom()));
            if (!known) {
                throw new LostException("secrets.file-odd", file);
            }
            return content;
        } catch (JsonProcessingException e) {
            throw new LostException("secrets.file-odd", file);
        } catch (IOException e) {
            throw new SecretsException(Saying.of("secrets.not-read", file.toString()), e);
        }
    }

    private SecretKeySpec fromFile() {
        try {
            forOwnerOnly(keyFile);
            byte[] key = Base64.getDecoder().decode(Files.readString(keyFile).strip());
            if (key.length != KEY_BYTES) {
                throw new LostException("secrets.key-odd", keyFile);
            }
            return new SecretKeySpec(key, "AES");
        } catch (NoSuchFileException e) {
            throw new LostException("secrets.key-missing", keyFile);
        } catch (IllegalArgumentException | java.nio.charset.CharacterCodingException e) {
            throw new LostException("secrets.key-odd", keyFile);
        } catch (IOException e) {
            throw new SecretsException(Saying.of("secrets.not-read", keyFile.toString()), e);
        }
    }

    /** Takes from others what a copy or a restore may have given them. */
    private static void forOwnerOnly(Path path) throws IOException {
        PosixFileAttributeView view = Files.getFileAttributeView(path, PosixFileAttributeView.class);
        Set<PosixFilePermission> owner = PosixFilePermissions.fromString("rw-------");
        if (view != null && !owner.containsAll(view.readAttributes().permissions())) {
            LOG.warn("Others than its owner could read the key file {}; now they cannot.", path);
            view.setPermissions(owner);
        }
    }

    private SecretKeySpec fromPassphrase(Content content) {
        char[] said = passphrase.orElseThrow(
                () -> new SecretsException(Saying.of("secrets.passphrase-needed", file.toString()), null));
        try {
            byte[] salt = Base64.getDecoder().decode(String.valueOf(content.salt()));
            if (content.rounds() < 1 || content.rounds() > MOST_ROUNDS || salt.length == 0) {
                throw new LostException("secrets.file-odd", file);
            }
            return derived(said, salt, content.rounds());
        } catch (IllegalArgumentException e) {
            throw new LostException("secrets.file-odd", file);
        }
    }

    private static SecretKeySpec derived(char[] said, byte[] salt, int rounds) {
        PBEKeySpec spec = new PBEKeySpec(said, salt, rounds, KEY_BYTES * 8);
        try {
            byte[] key = SecretKeyFactory.getInstance("PBKDF2WithHmacSHA256")
                    .generateSecret(spec)
                    .getEncoded();
            return new SecretKeySpec(key, "AES");
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("every Java has PBKDF2", e);
        } finally {
            spec.clearPassword();
        }
    }

    /** A file with nothing in it, and a key of its own. */
    private Opened anew() {
        byte[] salt = new byte[SALT_BYTES];
        random.nextBytes(salt);
        if (passphrase.isPresent()) {
            SecretKeySpec key = derived(passphrase.get(), salt, rounds);
            Map<String, String> sealed = Map.of(CHECK, seal(key, CHECK, CHECK));
            return new Opened(
                    new Content(FORM, "passphrase", Base64.getEncoder().encodeToString(salt), rounds, sealed), key);
        }
        byte[] fresh = new byte[KEY_BYTES];
        random.nextBytes(fresh);
        write(keyFile, Base64.getEncoder().encodeToString(fresh) + "\n");
        SecretKeySpec key = new SecretKeySpec(fresh, "AES");
        Arrays.fill(fresh, (byte) 0);
        return new Opened(new Content(FORM, "file", null, 0, Map.of(CHECK, seal(key, CHECK, CHECK))), key);
    }

    private void layAside() {
        Path aside = file.resolveSibling("secrets-lost-" + System.currentTimeMillis() + ".json");
        try {
            Files.move(file, aside);
            if (Files.exists(keyFile)) {
                Files.move(keyFile, aside.resolveSibling(aside.getFileName() + ".key"));
            }
            LOG.warn("What was sealed cannot be opened any more and lies in {} now.", aside);
        } catch (IOException e) {
            throw new SecretsException(Saying.of("secrets.not-kept", file.toString()), e);
        }
    }

    private void keep(Opened now, Map<String, String> sealed) {
        Content content = new Content(
                FORM,
                now.content().keyFrom(),
                now.content().salt(),
                now.content().rounds(),
                sealed);
        try {
            write(file, PayloadText.JSON.writeValueAsString(content));
        } catch (JsonProcessingException e) {
            throw new IllegalStateException(e);
        }
        opened = new Opened(content, now.key());
    }

    /** Writes a file that only its owner can read, all of it or nothing. */
    private static void write(Path to, String text) {
        Path fresh = to.resolveSibling(to.getFileName() + ".new");
        try {
            Files.deleteIfExists(fresh);
            FileAttribute<?>[] owner = Files.getFileStore(to.getParent()).supportsFileAttributeView("posix")
                    ? new FileAttribute<?>[] {
                        PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------"))
                    }
                    : new FileAttribute<?>[0];
            try (FileChannel channel = FileChannel.open(
                            fresh, EnumSet.of(StandardOpenOption.CREATE_NEW, StandardOpenOption.WRITE), owner);
                    OutputStream out = Channels.newOutputStream(channel)) {
                out.write(text.getBytes(StandardCharsets.UTF_8));
                channel.force(true);
            }
            Files.move(fresh, to, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
        } catch (IOException e) {
            throw new SecretsException(Saying.of("secrets.not-kept", to.toString()), e);
        }
    }

    private String seal(SecretKeySpec key, String name, String text) {
        byte[] nonce = new byte[NONCE_BYTES];
        random.nextBytes(nonce);
        byte[] sealed = cipher(Cipher.ENCRYPT_MODE, key, nonce, name, text.getBytes(StandardCharsets.UTF_8));
        return Base64.getEncoder()
                .encodeToString(ByteBuffer.allocate(nonce.length + sealed.length)
                        .put(nonce)
                        .put(sealed)
                        .array());
    }

    private String unseal(SecretKeySpec key, String name, String sealed) {
        try {
            byte[] all = Base64.getDecoder().decode(sealed);
            if (all.length > NONCE_BYTES) {
                byte[] nonce = Arrays.copyOf(all, NONCE_BYTES);
                byte[] text = Arrays.copyOfRange(all, NONCE_BYTES, all.length);
                return new String(cipher(Cipher.DECRYPT_MODE, key, nonce, name, text), StandardCharsets.UTF_8);
            }
        } catch (IllegalArgumentException e) {
            LOG.debug("A sealed secret is damaged");
        }
        throw new SecretsException(Saying.of("secrets.damaged", name), null);
    }

    private static byte[] cipher(int mode, SecretKeySpec key, byte[] nonce, String name, byte[] text) {
        try {
            Cipher cipher = Cipher.getInstance("AES/GCM/NoPadding");
            cipher.init(mode, key, new GCMParameterSpec(TAG_BITS, nonce));
            cipher.updateAAD(name.getBytes(StandardCharsets.UTF_8));
            return cipher.doFinal(text);
        } catch (GeneralSecurityException e) {
            throw new SecretsException(Saying.of("secrets.damaged", name), e);
        }
    }
}
