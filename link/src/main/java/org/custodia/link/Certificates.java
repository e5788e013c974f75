package org.custodia.link;

import java.io.IOException;
import java.net.InetSocketAddress;
import java.net.Socket;
import java.net.URI;
import java.security.GeneralSecurityException;
import java.security.KeyStore;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.cert.CertificateException;
import java.security.cert.X509Certificate;
import java.util.HexFormat;
import java.util.Optional;
import javax.net.ssl.SSLContext;
import javax.net.ssl.SSLEngine;
import javax.net.ssl.SSLException;
import javax.net.ssl.SSLParameters;
import javax.net.ssl.SSLSocket;
import javax.net.ssl.TrustManager;
import javax.net.ssl.TrustManagerFactory;
import javax.net.ssl.X509ExtendedTrustManager;
import org.custodia.core.setup.Connections;

/**
 * Whether a system that is connected to by https is the one that it should be: an authority that this machine trusts vouches
 * for its certificate and its name, or somebody has confirmed just this certificate, by its SHA-256 fingerprint.
 */
public final class Certificates {
    private static final int PATIENCE_MILLIS = 5_000;
    private static final int HTTPS = 443;

    private Certificates() {}

    /** The certificate is another than the one that was confirmed, or nobody vouches for it. */
    public static final class NotTrusted extends CertificateException {
        private static final long serialVersionUID = 1L;
        private final transient Connections.Shown shown;
        private final boolean changed;

        NotTrusted(Connections.Shown shown, boolean changed, Exception cause) {
            super(changed ? "another certificate than confirmed" : "nobody vouches for the certificate", cause);
            this.shown = shown;
            this.changed = changed;
        }

        /** The certificate that it is about. */
        public Connections.Shown shown() {
            return shown;
        }

        /** As it is written out for people. */
        String fingerprint() {
            return Connections.Shown.written(shown.fingerprint());
        }

        /** Whether another one was confirmed. */
        public boolean changed() {
            return changed;
        }

        /** The reason of that sort in what went wrong, if there is one. */
        public static Optional<NotTrusted> in(Throwable failure) {
            for (Throwable t = failure; t != null; t = t.getCause()) {
                if (t instanceof NotTrusted found) {
                    return Optional.of(found);
                }
            }
            return Optional.empty();
        }
    }

    /** SHA-256 of a certificate, 64 hexadecimal digits. */
    static String fingerprint(X509Certificate certificate) throws CertificateException {
        try {
            return HexFormat.of().formatHex(MessageDigest.getInstance("SHA-256").digest(certificate.getEncoded()));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }

    /**
     * What connections to one system are made with.
     *
     * @param confirmed fingerprint of the only certificate that is taken; nothing to ask the authorities
     */
    public static SSLContext context(Optional<String> confirmed) {
        return context(
                confirmed.<X509ExtendedTrustManager>map(Confirmed::new).orElseGet(() -> new VouchedFor(authorities())));
    }

    private static SSLContext context(X509ExtendedTrustManager manager) {
        try {
            SSLContext context = SSLContext.getInstance("TLS");
            context.init(null, new TrustManager[] {manager}, null);
            return context;
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    private static X509ExtendedTrustManager authorities() {
        try {
            TrustManagerFactory factory = TrustManagerFactory.getInstance(TrustManagerFactory.getDefaultAlgorithm());
            factory.init((KeyStore) null);
            for (TrustManager manager : factory.getTrustManagers()) {
                if (manager instanceof X509ExtendedTrustManager x509) {
                    return x509;
                }
            }
            throw new IllegalStateException("this Java trusts nobody");
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    /**
     * Which certificate answers at an address. Nothing but a handshake is sent.
     *
     * @throws IOException if nothing answers, or not so
     */
    static Connections.Shown shownBy(URI address) throws IOException {
        Seen seen = new Seen(authorities());
        int port = address.getPort() < 0 ? HTTPS : address.getPort();
        String where = address.getHost() + ":" + port;
        try (Socket plain = new Socket()) {
            plain.connect(new InetSocketAddress(bare(address.getHost()), port), PATIENCE_MILLIS);
            plain.setSoTimeout(PATIENCE_MILLIS);
            try (SSLSocket socket = (SSLSocket)
                    context(seen).getSocketFactory().createSocket(plain, bare(address.getHost()), port, true)) {
                SSLParameters parameters = socket.getSSLParameters();
                parameters.setEndpointIdentificationAlgorithm("HTTPS");
                socket.setSSLParameters(parameters);
                socket.startHandshake();
            }
        } catch (SSLException e) {
            throw LinkException.nobodyThere("link.not-secure", where);
        } catch (IOException e) {
            throw LinkException.nobodyThere("link.nobody-there", where);
        }
        if (seen.shown == null) {
            throw LinkException.nobodyThere("link.not-secure", where);
        }
        return seen.shown;
    }

    private static Connections.Shown shown(X509Certificate certificate, boolean vouchedFor)
            throws CertificateException {
        return new Connections.Shown(
                fingerprint(certificate),
                certificate.getSubjectX500Principal().getName(),
                certificate.getNotAfter().toInstant(),
                vouchedFor);
    }

    private static String bare(String host) {
        return host.startsWith("[") ? host.substring(1, host.length() - 1) : host;
    }

    /** Takes one certificate and no other, whoever vouches for it and whatever name it bears. */
    private static final class Confirmed extends ServersOnly {
        private final String fingerprint;

        Confirmed(String fingerprint) {
            this.fingerprint = fingerprint;
        }

        @Override
        void check(X509Certificate[] chain, String type, Check byAuthorities) throws CertificateException {
            if (!fingerprint(chain[0]).equals(fingerprint)) {
                throw new NotTrusted(shown(chain[0], false), true, null);
            }
        }
    }

    /** Asks the authorities. */
    private static final class VouchedFor extends ServersOnly {
        VouchedFor(X509ExtendedTrustManager authorities) {
            super(authorities);
        }

        @Override
        void check(X509Certificate[] chain, String type, Check byAuthorities) throws CertificateException {
            try {
                byAuthorities.check();
            } catch (CertificateException e) {
                throw new NotTrusted(shown(chain[0], false), false, e);
            }
        }
    }

    /** Takes any, and remembers it; nothing is sent to whoever showed it. */
    private static final class Seen extends ServersOnly {
        private Connections.Shown shown;

        Seen(X509ExtendedTrustManager authorities) {
            super(authorities);
        }

        @Override
        void check(X509Certificate[] chain, String type, Check byAuthorities) throws CertificateException {
            boolean vouchedFor = true;
            try {
                byAuthorities.check();
            } catch (CertificateException e) {
                vouchedFor = false;
            }
            shown = Certificates.shown(chain[0], vouchedFor);
        }
    }

    /** Nobody connects to Custodia: what is checked are servers only. */
    private abstract static class ServersOnly extends X509ExtendedTrustManager {
        private final X509ExtendedTrustManager authorities;

        ServersOnly() {
            this(null);
        }

        ServersOnly(X509ExtendedTrustManager authorities) {
            this.authorities = authorities;
        }

        /** What the authorities say of it. */
        interface Check {
            void check() throws CertificateException;
        }

        abstract void check(X509Certificate[] chain, String type, Check byAuthorities) throws CertificateException;

        @Override
        public void checkServerTrusted(X509Certificate[] chain, String type, Socket socket)
                throws CertificateException {
            check(chain, type, () -> authorities.checkServerTrusted(chain, type, socket));
        }

        @Override
        public void checkServerTrusted(X509Certificate[] chain, String type, SSLEngine engine)
                throws CertificateException {
            check(chain, type, () -> authorities.checkServerTrusted(chain, type, engine));
        }

        @Override
        public void checkServerTrusted(X509Certificate[] chain, String type) throws CertificateException {
            check(chain, type, () -> authorities.checkServerTrusted(chain, type));
        }

        @Override
        public void checkClientTrusted(X509Certificate[] chain, String type, Socket socket)
                throws CertificateException {
            throw new CertificateException("no clients");
        }

        @Override
        public void checkClientTrusted(X509Certificate[] chain, String type, SSLEngine engine)
                throws CertificateException {
            throw new CertificateException("no clients");
        }

        @Override
        public void checkClientTrusted(X509Certificate[] chain, String type) throws CertificateException {
            throw new CertificateException("no clients");
        }

        @Override
        public X509Certificate[] getAcceptedIssuers() {
            return new X509Certificate[0];
        }
    }
}
