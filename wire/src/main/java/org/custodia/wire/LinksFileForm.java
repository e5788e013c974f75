package org.custodia.wire;

import com.fasterxml.jackson.core.JsonProcessingException;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.setup.SetupSheets;
import org.custodia.core.site.Crop;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;

/** A setup as a links file. Tokens are not in it: they are entered where it is used. */
public final class LinksFileForm implements SetupSheets {
    @Override
    public byte[] write(String site, List<LinkSetup> links, List<Pairing> pairs, List<DoorId> watch) {
        LinksFile file = new LinksFile(
                site,
                links.stream()
                        .map(l -> new LinksFile.Link(
                                l.kind(),
                                l.make(),
                                l.id(),
                                l.name(),
                                l.address(),
                                null,
                                l.certificate().orElse(null)))
                        .toList(),
                pairs.stream().map(LinksFileForm::pairing).toList(),
                watch.stream().map(DoorId::value).toList());
        try {
            return Wire.mapper().writerWithDefaultPrettyPrinter().writeValueAsBytes(file);
        } catch (JsonProcessingException e) {
            throw new IllegalStateException("a links file of records can be written", e);
        }
    }

    private static LinksFile.WirePairing pairing(Pairing p) {
        Map<String, Double> face = null;
        if (!p.face().equals(Crop.WHOLE)) {
            face = new LinkedHashMap<>();
            face.put("x", p.face().x());
            face.put("y", p.face().y());
            face.put("width", p.face().width());
            face.put("height", p.face().height());
        }
        return new LinksFile.WirePairing(
                p.door().value(),
                p.camera().value(),
                p.side().name().toLowerCase(Locale.ROOT),
                p.view().name().toLowerCase(Locale.ROOT),
                (int) Math.round(p.leadIn().toMillis() / 1_000.0),
                face,
                (int) p.faceAfter().toMillis());
    }
}
