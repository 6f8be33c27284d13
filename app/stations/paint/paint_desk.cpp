#include "app/stations/paint/paint_desk.h"

#include "core/edits/edits.h"
#include "core/nodes/catalogue.h"
#include "core/paint/carry_over.h"
#include "core/paint/fill_rules.h"
#include "core/paint/finer_mesh.h"
#include "core/paint/live_rules.h"
#include "core/paint/paint_problems.h"
#include "core/paint/wire_values.h"

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

} // namespace

PaintDesk::PaintDesk(Session& session, QObject* parent) : QObject(parent), m_session(session) {
    connect(&session, &Session::changed, this, &PaintDesk::follow);
    connect(&session, &Session::projectOpened, this, [this] {
        m_stroke.reset();
        m_specimen = 0;
        m_read.reset();
        m_sizeChosen = false;
        // A slot and a mask are of the last project's mesh.
        m_brush.slot = m_brush.maskChannel = -1;
        m_meshId.clear();
        m_mesh = nullptr;
        m_surface = nullptr;
        Q_EMIT fillProgress(false);
        Q_EMIT surfaceChanged();
        prepare();
    });
}

std::optional<Specimen> PaintDesk::alone() const {
    const auto& specimens = m_session.project().lineup.specimens;
    if (m_specimen >= specimens.size()) return {};
    Specimen s = specimens[m_specimen];
    s.placements.reset();
    s.things.clear();
    return s;
}

const Paintwork* PaintDesk::paintwork() const {
    const auto s = alone();
    return s ? m_session.project().paintwork(s->paintwork) : nullptr;
}

void PaintDesk::setSpecimen(size_t index) {
    if (index == m_specimen) return;
    end();
    m_specimen = index;
    m_read.reset();
    prepare();
    Q_EMIT changed();
}

void PaintDesk::follow(Changes what) {
    if (!what.only(Change::Paint | Change::Camera | Change::Values)) m_read.reset();
    if (!m_active) return;
    if (what.any(Change::Lineup | Change::Meshes | Change::Files)) {
        const size_t count = m_session.project().lineup.specimens.size();
        if (m_specimen >= count && count) m_specimen = 0;
        prepare();
    }
    if (what.any(Change::Paint) && !painting()) Q_EMIT painted();
    if (!what.only(Change::Paint | Change::Camera)) Q_EMIT changed();
}

void PaintDesk::setActive(bool active) {
    if (active == m_active) return;
    m_active = active;
    if (!active) return end();
    prepare();
    Q_EMIT changed();
}

void PaintDesk::prepare() {
    if (!m_active) return;
    const auto s = alone();
    const Id id = s ? s->mesh : Id{};
    if (id != m_meshId || !s) {
        end();
        m_meshId = id;
        m_mesh = nullptr;
        m_surface = nullptr;
        m_brush.slot = -1;
        Q_EMIT surfaceChanged();
    }
    if (!s) return m_session.runner().cancel(this, "surface");
    struct Ready {
        MeshPtr mesh;
        std::shared_ptr<const PaintSurface> surface;
        PaintDataPtr paint, from;
    };
    const Paintwork* w = paintwork();
    m_session.runner().run(
        {.owner = this, .kind = "surface"},
        [snapshot = m_session.snapshot(), files = m_session.files(), id, known = m_mesh, surface = m_surface,
         from = w ? w->paint : nullptr](const Work&) {
            Ready r;
            r.mesh = files->assets.mesh(*snapshot, id);
            r.surface = surface && known == r.mesh ? surface : std::make_shared<const PaintSurface>(r.mesh);
            r.paint = paintOn(r.mesh, from);
            r.from = from;
            return r;
        },
        [this, id](const Ready& r) {
            if (id != m_meshId || r.mesh == m_mesh) return;
            end();
            m_mesh = r.mesh;
            m_surface = r.surface;
            m_paint = r.paint;
            m_paintFrom = r.from;
            // A brush that suits the mesh: a twelfth of its size.
            if (!m_sizeChosen) m_brush.radius = std::max(boundsOf(*m_mesh).radius() / 12, 1e-4f);
            Q_EMIT surfaceChanged();
            Q_EMIT changed();
        });
}

PaintDataPtr PaintDesk::paint() const {
    if (!m_surface) return nullptr;
    const Paintwork* w = paintwork();
    const PaintDataPtr from = w ? w->paint : nullptr;
    if (m_paint && m_paint->surface() == m_mesh && from == m_paintFrom) return m_paint;
    m_paintFrom = from;
    return m_paint = paintOn(m_mesh, from);
}

const std::vector<ReadChannel>& PaintDesk::read() const {
    if (!m_read) {
        const auto s = alone();
        m_read = s ? channelsRead(m_session.project(), *s) : std::vector<ReadChannel>{};
    }
    return *m_read;
}

QString PaintDesk::channelName(int channel) const {
    for (const ReadChannel& r : read())
        if (r.channel == channel) return text(r.name);
    return tr("channel %1").arg(channel + 1);
}

QString PaintDesk::hint() const {
    const auto s = alone();
    if (!s) return tr("There is no specimen to paint on. Add one with + above.");
    const std::vector<ReadChannel>& all = read();
    if (all.empty())
        return tr("Nothing that specimen %1 wears reads paint, so strokes show only when the channel is seen alone, as weights or in the "
                  "sum.")
            .arg(m_specimen + 1);
    for (const ReadChannel& r : all)
        if (r.channel == m_channel) return {};
    return tr("Channel %1 is read by nothing that specimen %2 wears.").arg(m_channel + 1).arg(m_specimen + 1);
}

void PaintDesk::setChannel(int channel) {
    m_channel = std::clamp(channel, 0, PaintData::kChannels - 1);
    Q_EMIT changed();
}
void PaintDesk::setShown(PaintShown shown) {
    m_shown = shown;
    Q_EMIT changed();
}
void PaintDesk::setBrush(const Brush& brush) {
    m_sizeChosen = m_sizeChosen || brush.radius != m_brush.radius;
    m_brush = brush;
    m_brush.radius = std::clamp(brush.radius, 1e-5f, 1e5f);
    Q_EMIT brushChanged();
}
void PaintDesk::setSizedByView(bool by) {
    m_sizedByView = by;
    Q_EMIT brushChanged();
}
void PaintDesk::setViewShare(float share) {
    m_viewShare = std::clamp(share, 0.001f, 2.f);
    Q_EMIT brushChanged();
}
void PaintDesk::setPressure(Pressure pressure) {
    m_pressure = pressure;
    Q_EMIT brushChanged();
}

bool PaintDesk::begin(const Ray& sight, float radius, float pressure, bool opposite) {
    end();
    if (!m_surface) {
        m_session.say(tr("The mesh is still being made ready."));
        return false;
    }
    if (read().empty() && m_shown == PaintShown::Drawn) {
        m_session.say(hint() + " " + tr("Place a card that reads it, or look at the channel alone."));
        return false;
    }
    if (!m_surface->rays().hit(sight)) return false;
    m_before = paint();
    Brush brush = m_brush;
    brush.radius = radius;
    if (opposite && brush.does == Brush::Does::Add) brush.does = Brush::Does::TakeAway;
    else if (opposite && brush.does == Brush::Does::TakeAway) brush.does = Brush::Does::Add;
    m_strokeRadius = radius;
    m_strokeWeight = brush.weight;
    m_stroke = std::make_unique<PaintStroke>(*m_surface, *m_before, m_channel, brush);
    m_newPaintwork = paintwork() ? Id{} : newId('w');
    ++m_strokes;
    strokeTo(sight, pressure);
    return true;
}

void PaintDesk::moveTo(const Ray& sight, float pressure) {
    if (m_stroke) strokeTo(sight, pressure);
}

void PaintDesk::strokeTo(const Ray& sight, float pressure) {
    const float pressed = std::clamp(pressure, 0.02f, 1.f);
    m_stroke->brush().radius = m_strokeRadius * (m_pressure == Pressure::Size ? pressed : 1);
    m_stroke->brush().weight = m_strokeWeight * (m_pressure == Pressure::Weight ? pressed : 1);
    m_stroke->moveTo(sight);
    if (m_stroke->takeChanged().empty()) return;
    keep(tr("paint %1").arg(channelName(m_channel)), std::make_shared<PaintData>(m_stroke->done()), QString("stroke %1").arg(m_strokes));
}

bool PaintDesk::keep(const QString& name, const PaintDataPtr& paint, const QString& key) {
    const size_t index = m_specimen;
    const MeshPtr mesh = m_mesh;
    const Id fresh = m_newPaintwork, known = paintwork() ? paintwork()->id : Id{};
    const bool kept = m_session.apply(
        name,
        [&](const Project& p) -> Result<Project> {
            if (!known.empty()) return edit::setPaint(p, known, paint);
            const Result<Project> given = givePaintwork(p, index, mesh, {}, fresh);
            return given ? edit::setPaint(*given, fresh, paint) : given;
        },
        key);
    if (kept) Q_EMIT painted();
    return kept;
}

void PaintDesk::end() {
    if (!m_stroke) return;
    m_stroke.reset();
    m_before = nullptr;
    m_session.endRow();
    Q_EMIT painted();
    Q_EMIT changed();
}

void PaintDesk::fill(const QString& words) {
    const Result<FillRule> rule = fillRuleFromText(words.toStdString());
    if (!rule) return m_session.say(text(rule.error().sentence));
    const PaintDataPtr from = paint();
    const auto s = alone();
    if (!from || !s) return m_session.say(tr("The mesh is still being made ready."));
    end();
    Q_EMIT fillProgress(true);
    m_session.runner().run(
        {.owner = this, .kind = "fill", .pace = Pace::Long},
        [from, rule = *rule, channel = m_channel, s = *s, snapshot = m_session.snapshot(), files = m_session.files(),
         time = m_session.time()](const Work&) -> Result<PaintDataPtr> {
            const Mesh mesh = hue::painted(*from->surface(), *from);
            const WireValues wires = [&](const std::string& wire) -> Result<PaintChannel> {
                const Result<WornWire> its = wornWire(*snapshot, s, wire);
                if (!its) return its.error();
                return wireAtVertices(*snapshot, files->assets, its->worn, its->wire, mesh, time);
            };
            PaintChannel values = from->channel(channel);
            if (const Outcome filled = fillByRules(mesh, std::span(&rule, 1), values, wires); !filled) return filled.error();
            return PaintDataPtr(std::make_shared<PaintData>(from->with(channel, values)));
        },
        [this, from, words](const Result<PaintDataPtr>& filled) {
            Q_EMIT fillProgress(false);
            if (!filled) return m_session.say(text(filled.error().sentence));
            // What was painted meanwhile is not thrown away.
            if (paint() != from) return m_session.say(tr("The paint has changed while the rule was reckoned. Fill again."));
            m_newPaintwork = paintwork() ? Id{} : newId('w');
            keep(tr("fill %1: %2").arg(channelName(m_channel), words), *filled, {});
            Q_EMIT changed();
        });
}

std::vector<std::string> PaintDesk::live() const {
    const Paintwork* w = paintwork();
    const LiveRules* rules = w ? w->liveOf(m_channel) : nullptr;
    return rules ? rules->rules : std::vector<std::string>{};
}

void PaintDesk::setLive(const std::vector<std::string>& rules) {
    for (const std::string& words : rules)
        if (const auto rule = fillRuleFromText(words); !rule) {
            m_session.say(text(rule.error().sentence));
            Q_EMIT changed(); // what is shown is as it was
            return;
        }
    const PaintDataPtr from = paint();
    if (!from) {
        m_session.say(tr("The mesh is still being made ready."));
        Q_EMIT changed();
        return;
    }
    end();
    const Id known = paintwork() ? paintwork()->id : Id{}, id = known.empty() ? newId('w') : known;
    const auto withRules = [id, known, from, rules, index = m_specimen, channel = m_channel](const Project& p) -> Result<Project> {
        Result<Project> next = known.empty() ? givePaintwork(p, index, from->surface(), {}, id) : p;
        // What was carried over to another mesh lies there from now on.
        if (const Paintwork* w = next ? next->paintwork(id) : nullptr; w && w->paint && w->paint->surface() != from->surface())
            next = edit::setPaint(*next, id, paintOn(from->surface(), w->paint));
        return next ? edit::setLiveRules(*next, id, {channel, rules, {}}) : next;
    };
    Q_EMIT fillProgress(true);
    m_session.runner().run(
        {.owner = this, .kind = "fill", .pace = Pace::Long},
        [withRules, id, channel = m_channel, snapshot = m_session.snapshot(),
         files = m_session.files()](const Work& work) -> Result<LivePaint> {
            const Result<Project> with = withRules(*snapshot);
            if (!with) return with.error();
            LivePaint live = reckonLive(*with, files->assets, work);
            if (const std::optional<Error> failure = live.failureOf(id, channel)) return *failure;
            return live;
        },
        [this, withRules, name = tr("live rules of %1").arg(channelName(m_channel))](const Result<LivePaint>& live) {
            Q_EMIT fillProgress(false);
            if (live)
                m_session.apply(name, [&](const Project& p) -> Result<Project> {
                    const Result<Project> with = withRules(p);
                    return with ? Result<Project>(withLive(*with, *live)) : with;
                });
            else m_session.say(text(live.error().sentence));
            Q_EMIT painted();
            Q_EMIT changed();
        });
}

void PaintDesk::cancelFill() {
    m_session.runner().cancel(this, "fill");
    Q_EMIT fillProgress(false);
    Q_EMIT changed();
}

void PaintDesk::begin() {
    if (!m_surface) return;
    m_session.apply(tr("new paintwork"), [&](const Project& p) { return givePaintwork(p, m_specimen, m_mesh); });
}

void PaintDesk::wear(const Id& paintwork) {
    m_session.apply(tr("wear paintwork"), [&](const Project& p) { return edit::wearPaintwork(p, m_specimen, paintwork); });
}

void PaintDesk::makeFiner() {
    end();
    m_session.runner().run(
        {.owner = this, .kind = "finer", .pace = Pace::Long},
        [snapshot = m_session.snapshot(), files = m_session.files(), index = m_specimen](const Work&) {
            return finerMesh(*snapshot, files->assets, index);
        },
        [this, before = m_session.snapshot()](const Result<FinerMesh>& made) {
            if (!made) return m_session.say(text(made.error().sentence));
            if (m_session.snapshot() != before) {
                std::error_code none;
                if (!made->file.empty()) std::filesystem::remove(m_session.assets().resolve(made->file), none);
                return m_session.say(tr("The project has changed meanwhile. Make the mesh finer again."));
            }
            if (m_session.apply(tr("make the mesh finer"), [&](const Project&) -> Result<Project> { return made->project; }))
                m_session.say(made->file.empty() ? tr("The shape has %1 vertices now.").arg(made->vertices)
                                                 : tr("%1 was written, with %2 vertices.").arg(text(made->file)).arg(made->vertices));
        });
}

void PaintDesk::placeCard() {
    const auto s = alone();
    const Master* master = nullptr;
    for (const Id& worn : s ? s->wears : std::vector<Id>{})
        if (!master) master = m_session.project().masterOf(worn);
    if (!master) return m_session.say(tr("The specimen wears nothing. Drag a master on it."));
    Node card = makeNode("painted", {});
    card.settings["channel"] = std::to_string(m_channel + 1);
    // Beside what is there, to the left.
    float left = 0, top = 0;
    for (const auto& [id, node] : master->graph.nodes) left = std::min(left, node->position.x - 220), top = std::min(top, node->position.y);
    card.position = {left, top};
    if (m_session.apply(tr("place a card that reads paint"), [&](const Project& p) { return edit::addNode(p, master->id, card); }))
        m_session.say(tr("A Painted channel card stands on the board of %1. Give it a name there, and wire it to what paint is to change.")
                          .arg(text(master->name)));
}

} // namespace hue
