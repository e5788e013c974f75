package org.custodia.core.message;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.alarm.Versions;
import org.custodia.core.saying.Saying;

/** Who is told, and by which server, as it stands; read from the registers once and whenever something is changed. */
public final class Receivers implements Dispatch.Directory {
    private final Versions<Receiver> receivers;
    private final Versions<MailServer> servers;
    private volatile Map<String, Receiver> byId = Map.of();
    private volatile Optional<MailServer> server = Optional.empty();

    public Receivers(Versions<Receiver> receivers, Versions<MailServer> servers) {
        this.receivers = receivers;
        this.servers = servers;
        read();
    }

    Versions<Receiver> receivers() {
        return receivers;
    }

    Versions<MailServer> servers() {
        return servers;
    }

    void read() {
        Map<String, Receiver> all = new LinkedHashMap<>();
        receivers.newest().forEach((id, said) -> said.value().ifPresent(r -> all.put(id, r)));
        byId = all;
        server = Optional.ofNullable(servers.newest().get(MailServer.ID)).flatMap(Versions.Said::value);
    }

    @Override
    public Optional<Receiver> receiver(String id) {
        return Optional.ofNullable(byId.get(id));
    }

    @Override
    public Optional<MailServer> server() {
        return server;
    }

    /**
     * What is odd about some who are to be told: that they are gone, or switched off.
     *
     * @param ids of receivers
     */
    public List<Saying> odd(List<String> ids) {
        return ids.stream()
                .flatMap(id -> {
                    Optional<Receiver> there = receiver(id);
                    if (there.isEmpty()) {
                        return Optional.of(Saying.of("rule.receiver-gone", id)).stream();
                    }
                    return there.filter(r -> !r.on()).map(r -> Saying.of("rule.receiver-off", r.name())).stream();
                })
                .toList();
    }

    /** All of them, by name. */
    public List<Receiver> all() {
        List<Receiver> all = new ArrayList<>(byId.values());
        all.sort(Comparator.comparing(Receiver::name).thenComparing(Receiver::id));
        return all;
    }
}
