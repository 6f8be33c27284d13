#include "app/session/board_service.h"

#include "core/tap/swatches.h"

#include "core/base/diagnostic.h"

namespace hue {
BoardFacts boardFacts(const Snapshot& snapshot, const Id& masterId, const Id& worn, Assets& assets, double time, int size) {
    BoardFacts out;
    out.snapshot = snapshot;
    out.master = masterId;
    const Master* master = snapshot->master(masterId);
    if (!master) return out;
    Compilation taps = compileTaps(*snapshot, *master, Constants::Live);
    const Compilation surface = compileSurface(*snapshot, *master);
    out.cards = surface.cards;
    for (const std::vector<Diagnostic>* list : {&surface.diagnostics, static_cast<const std::vector<Diagnostic>*>(&taps.diagnostics)})
        for (const Diagnostic& d : *list)
            if (d.severity == Severity::Error) out.broken.emplace(d.place.node, d.sentence);
    for (const auto& [id, node] : master->graph.nodes)
        if (CardCurve curve = cardCurve(*master, *node, snapshot->loopSeconds); !curve.values.empty()) out.curves[id] = std::move(curve);
    const Resolved resolved = resolve(*snapshot, worn);
    out.cost = costOf(*surface.program, surface.offset.get(), [&](const MapSlot& slot) { return assets.map(*snapshot, resolved, slot); });

    for (const auto& [name, swatch] : swatchesOf(*snapshot, resolved, taps, assets, time, size))
        out.swatches[name] =
            QImage(reinterpret_cast<const uchar*>(swatch.rgb.data()), swatch.side, swatch.side, swatch.side * 4, QImage::Format_RGB32)
                .copy();
    out.ports = std::move(taps.ports);
    return out;
}

BoardService::BoardService(Session& session) : QObject(&session), m_session(session), m_facts(std::make_shared<BoardFacts>()) {
    constexpr Changes kHeard = Change::Graph | Change::Values | Change::Surface | Change::Maps | Change::Files;
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (what.any(kHeard)) refresh();
    });
    connect(&session, &Session::masterShown, this, &BoardService::refresh);
    connect(&session, &Session::targetChanged, this, &BoardService::refresh);
}

void BoardService::refresh() {
    m_session.runner().run(
        {.owner = this, .kind = "board", .newer = Newer::Waits, .priority = 5},
        [files = m_session.files(), snapshot = m_session.snapshot(), master = m_session.masterId(), worn = m_session.target(),
         time = m_session.time()](const Work&) {
            return std::make_shared<BoardFacts>(boardFacts(snapshot, master, worn, files->assets, time, kSwatch));
        },
        [this](BoardFactsPtr facts) {
            m_facts = std::move(facts);
            Q_EMIT factsChanged();
        });
}

} // namespace hue
