#include "app/session/board_service.h"

#include "core/base/diagnostic.h"
#include "core/project/frame_inputs.h"
#include "core/surface/channels.h"

#include <cmath>

namespace hue {
namespace {

/// The unit square as a dome, so that what depends on normals or view shows something.
class Dome final : public PointSource {
  public:
    explicit Dome(int size) : m_flat(size, size), m_size(size) {}
    void fill(int x, int y, Attribute attribute, int component, float* lanes) const override {
        const bool normal = attribute == Attribute::NormalWorld || attribute == Attribute::NormalObject;
        if (!normal) return m_flat.fill(x, y, attribute, component, lanes);
        for (int r = 0; r < kBlockRows; ++r)
            for (int i = 0; i < kBlockColumns; ++i) {
                float nx = 2 * (float(x + i) + 0.5f) / float(m_size) - 1, ny = 1 - 2 * (float(y + r) + 0.5f) / float(m_size);
                const float length = std::hypot(nx, ny), limit = 0.98f;
                if (length > limit) nx *= limit / length, ny *= limit / length;
                const float n[3] = {nx, ny, std::sqrt(std::max(0.f, 1 - nx * nx - ny * ny))};
                lanes[r * kBlockColumns + i] = n[component];
            }
    }

  private:
    FlatSquare m_flat;
    int m_size;
};

QRgb pixel(const float* v, int width, Meaning meaning) {
    auto byte = [](float x) { return std::isfinite(x) ? int(std::lround(std::clamp(x, 0.f, 1.f) * 255)) : 0; };
    if (width == 1) {
        const int g = byte(v[0]);
        return qRgb(g, g, g);
    }
    if (meaning == Meaning::Normal || meaning == Meaning::Direction)
        return qRgb(byte(v[0] * 0.5f + 0.5f), byte(v[1] * 0.5f + 0.5f), byte(v[2] * 0.5f + 0.5f));
    if (meaning == Meaning::Color)
        return qRgb(byte(linearToSrgb(std::max(v[0], 0.f))), byte(linearToSrgb(std::max(v[1], 0.f))),
                    byte(linearToSrgb(std::max(v[2], 0.f))));
    return qRgb(byte(v[0]), byte(v[1]), width > 2 ? byte(v[2]) : 0);
}

} // namespace

BoardFacts boardFacts(const Snapshot& snapshot, const Id& masterId, const Id& worn, Assets& assets, double time, int size) {
    BoardFacts out;
    out.snapshot = snapshot;
    out.master = masterId;
    const Master* master = snapshot->master(masterId);
    if (!master) return out;
    Compilation taps = compileTaps(*snapshot, *master, Constants::Live);
    const Compilation surface = compileSurface(*snapshot, *master);
    out.ports = std::move(taps.ports);
    out.cards = surface.cards;
    for (const std::vector<Diagnostic>* list : {&surface.diagnostics, static_cast<const std::vector<Diagnostic>*>(&taps.diagnostics)})
        for (const Diagnostic& d : *list)
            if (d.severity == Severity::Error) out.broken.emplace(d.place.node, d.sentence);
    for (const auto& [id, node] : master->graph.nodes)
        if (CardCurve curve = cardCurve(*master, *node, snapshot->loopSeconds); !curve.values.empty()) out.curves[id] = std::move(curve);
    const Resolved resolved = resolve(*snapshot, worn);
    out.cost = costOf(*surface.program, [&](const MapSlot& slot) { return assets.map(*snapshot, resolved, slot); });

    const Evaluator evaluator(taps.program);
    const Frame frame = evaluator.frame(frameInputs(*snapshot, assets, resolved, time));
    struct Target {
        QImage* image;
        int width;
        Meaning meaning;
        size_t plane;
    };
    std::vector<Target> targets;
    std::vector<std::string> names;
    size_t plane = 0;
    for (const auto& o : taps.program->outputs) {
        QImage& image = out.swatches[o.name];
        image = QImage(size, size, QImage::Format_RGB32);
        Meaning meaning = Meaning::Any;
        const size_t dot = o.name.find('.');
        if (o.name.starts_with("channel.")) meaning = findChannel(o.name.substr(dot + 1))->meaning;
        else if (auto it = out.ports.find({o.name.substr(0, dot), o.name.substr(dot + 1)}); it != out.ports.end())
            meaning = it->second.meaning;
        const int width = taps.program->code[size_t(o.value)].width;
        targets.push_back({&image, width, meaning, plane});
        names.push_back(o.name);
        plane += size_t(width);
    }
    for (Target& t : targets) t.image->bits(); // detaches once, before threads write
    const Dome dome(size);
    Work control;
    control.threads = 1;
    evaluator.grid(
        frame, names, size, size, dome,
        [&](int x, int y, int columns, int rows, const float* const* planes) {
            for (const Target& t : targets)
                for (int r = 0; r < rows; ++r) {
                    auto* line = reinterpret_cast<QRgb*>(t.image->scanLine(y + r)) + x;
                    for (int i = 0; i < columns; ++i) {
                        float v[4] = {};
                        for (int c = 0; c < t.width; ++c) v[c] = planes[t.plane + size_t(c)][r * kBlockColumns + i];
                        line[i] = pixel(v, t.width, t.meaning);
                    }
                }
        },
        control);
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
