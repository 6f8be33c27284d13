#include "app/session/board_service.h"

#include "core/tap/swatches.h"

#include "core/base/diagnostic.h"
#include "core/builds/builds.h"

namespace hue {
BoardFacts boardFacts(const Snapshot& snapshot, const BoardPlace& place, const Id& worn, Assets& assets, double time, int size) {
    BoardFacts out;
    out.snapshot = snapshot;
    out.master = place.board;
    const Master* master = snapshot->board(place.board);
    if (!master) return out;
    const bool entered = !place.path.empty();
    const Master* root = entered ? snapshot->master(place.root) : master;
    if (!root) return out;
    // What is tuned may be another build of it.
    const Resolved resolved = resolve(*snapshot, entered || snapshot->master(place.board) ? worn : place.board);
    if (resolved.built && resolved.built->id == root->id) root = resolved.built.get();
    out.builds = buildsInUse(*snapshot);
    if (const Master* built = snapshot->master(root->id)) {
        const std::vector<Build> all = buildsOf(*snapshot, *built);
        out.masterBuilds = size_t(std::count_if(all.begin(), all.end(), [](const Build& b) { return !b.users.empty(); }));
    }
    out.idle = idleParameters(*snapshot, *root);
    const Id& path = place.path;
    Compilation taps = compileTaps(*snapshot, *root, Constants::Live, path);
    const Compilation surface = compileSurface(*snapshot, *root, Constants::Folded, {}, path);
    // An assembly by itself leads to no surface: what its cards cost is what they cost while all of them count.
    out.cards = !entered && snapshot->assembly(place.board) ? compileTaps(*snapshot, *master).cards : surface.cards;
    out.broken = surface.atFault;
    out.broken.merge(taps.atFault);
    for (const auto& [id, node] : master->graph.nodes)
        if (CardCurve curve = cardCurve(*master, *node, snapshot->loopSeconds); !curve.values.empty()) out.curves[id] = std::move(curve);
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
        [files = m_session.files(), snapshot = m_session.snapshot(),
         place = BoardPlace{m_session.masterId(), m_session.rootId(), m_session.pathText()}, worn = m_session.target(),
         time = m_session.time()](const Work&) {
            return std::make_shared<BoardFacts>(boardFacts(snapshot, place, worn, files->assets, time, kSwatch));
        },
        [this](BoardFactsPtr facts) {
            m_facts = std::move(facts);
            Q_EMIT factsChanged();
        });
}

} // namespace hue
