#include "app/stations/dispatch/sending.h"

#include <QCoreApplication>

namespace hue {
namespace {

QString tr(const char* words) { return QCoreApplication::translate("hue::Sending", words); }
QString text(const std::string& s) { return QString::fromStdString(s); }

struct Report {
    Sent sent;

    Sent failed(const Error& error) { return {false, {text(error.sentence)}}; }
    void add(const std::vector<std::string>& lines) {
        for (const std::string& l : lines) sent.lines << text(l);
    }
    void glow(const QString& of, const BakedSet& set) {
        if (set.emissiveStrength > 1) sent.lines << of + tr("emissive strength %1").arg(set.emissiveStrength);
    }
    Sent done(const std::vector<std::string>& cautions) {
        for (const std::string& c : cautions) sent.lines << tr("caution: ") + text(c);
        return sent;
    }
    Sent of(const Result<DispatchReport>& written) {
        if (!written) return failed(written.error());
        add(written->lines);
        return done(written->cautions);
    }
};

Sent sendWorn(const Project& project, Assets& assets, const Sending& what, const Work& work) {
    Report report;
    const BakeRequest request{.worn = what.worn, .size = what.size, .time = what.time, .control = work};
    if (what.glb) return report.of(dispatchGlb(project, assets, request, what.mesh, what.file + ".glb"));
    const auto set = bake(project, assets, request);
    const auto written = set ? writeBake(*set, what.file) : Result<std::vector<std::string>>(set.error());
    if (!written) return report.failed(written.error());
    report.add(*written);
    report.glow({}, *set);
    return report.done(set->cautions);
}

Sent sendSpecimen(const Project& project, Assets& assets, const Sending& what, const Work& work) {
    Report report;
    const SpecimenBakeRequest request{what.size, what.time, what.uvSet, work};
    if (what.glb) return report.of(dispatchSpecimen(project, assets, what.specimen, request, what.file + ".glb"));
    const auto baked = bakeSpecimen(project, assets, what.specimen, request);
    const auto written = baked ? writeBake(*baked, what.file) : Result<std::vector<std::string>>(baked.error());
    if (!written) return report.failed(written.error());
    report.add(*written);
    for (const BakedSlot& slot : baked->slots) report.glow(text(slot.name) + ": ", slot.set);
    return report.done(baked->cautions());
}

Sent sendDecals(const Project& project, Assets& assets, const Sending& what, const Work& work) {
    Report report;
    const auto atlas = decalAtlas(project, assets, what.specimen, {.size = what.size, .time = what.time, .control = work});
    if (!atlas) return report.failed(atlas.error());
    if (what.glb) return report.of(dispatchDecals(project, *atlas, what.file + ".glb"));
    const auto written = writeBake(atlas->set, what.file);
    if (!written) return report.failed(written.error());
    report.add(linesOf(project, *atlas));
    report.add(*written);
    report.glow({}, atlas->set);
    return report.done(atlas->set.cautions);
}

} // namespace

Sent send(const Project& project, Assets& assets, const Sending& what, const Work& work) {
    switch (what.what) {
    case Sending::What::Worn: return sendWorn(project, assets, what, work);
    case Sending::What::Specimen: return sendSpecimen(project, assets, what, work);
    case Sending::What::Decals: return sendDecals(project, assets, what, work);
    }
    return {};
}

} // namespace hue
