#include "core/tap/swatches.h"

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

/// A small picture in few blocks: its pairs of rows lie beside each other as long as a block has room, so that hardly a lane is idle.
class SideBySide final : public PointSource {
  public:
    SideBySide(const PointSource& of, int side)
        : m_of(of), m_side(side), m_stride(side + side % 2), m_pairs(std::max(1, kBlockColumns / m_stride)) {}
    int width() const { return std::min(m_pairs, pairs()) * m_stride; }
    int height() const { return (pairs() + m_pairs - 1) / m_pairs * kBlockRows; }

    void fill(int x, int y, Attribute attribute, int component, float* lanes) const override {
        std::array<float, kBlockLanes> pair;
        for (int column = 0; column < kBlockColumns; column += m_stride) {
            const auto [px, py] = at(x + column, y);
            m_of.fill(px, py, attribute, component, pair.data());
            const int count = std::min(m_stride, kBlockColumns - column);
            for (int r = 0; r < kBlockRows; ++r) std::copy_n(pair.data() + r * kBlockColumns, count, lanes + r * kBlockColumns + column);
        }
    }

    /// Where a lane of the grid lies, which may be beyond the picture.
    std::pair<int, int> at(int x, int y) const {
        return {x % m_stride, (y / kBlockRows * m_pairs + x / m_stride) * kBlockRows + y % kBlockRows};
    }
    bool holds(std::pair<int, int> at) const { return at.first < m_side && at.second < m_side; }

  private:
    const PointSource& m_of;
    const int m_side, m_stride,
        m_pairs; ///< pixels; with one more where that is odd, since lanes are neighbours by twos; pairs of rows in a block
    int pairs() const { return (m_side + kBlockRows - 1) / kBlockRows; }
};

uint32_t pixel(const float* v, int width, Meaning meaning) {
    auto byte = [](float x) { return std::isfinite(x) ? uint32_t(std::lround(std::clamp(x, 0.f, 1.f) * 255)) : 0u; };
    auto rgb = [](uint32_t r, uint32_t g, uint32_t b) { return 0xFF000000u | r << 16 | g << 8 | b; };
    if (width == 1) return rgb(byte(v[0]), byte(v[0]), byte(v[0]));
    if (meaning == Meaning::Normal || meaning == Meaning::Direction)
        return rgb(byte(v[0] * 0.5f + 0.5f), byte(v[1] * 0.5f + 0.5f), byte(v[2] * 0.5f + 0.5f));
    if (meaning == Meaning::Color) {
        auto encoded = [&](int c) { return byte(linearToSrgb(std::max(v[c], 0.f))); };
        return rgb(encoded(0), encoded(1), encoded(2));
    }
    return rgb(byte(v[0]), byte(v[1]), width > 2 ? byte(v[2]) : 0);
}

} // namespace

std::map<std::string, Swatch> swatchesOf(const Project& project, const Resolved& resolved, const Compilation& taps, Assets& assets,
                                         double time, int side) {
    std::map<std::string, Swatch> out;
    const Evaluator evaluator(taps.program);
    const Frame frame = evaluator.frame(frameInputs(project, assets, resolved, time));
    struct Target {
        Swatch* swatch;
        int width;
        Meaning meaning;
        size_t plane;
    };
    std::vector<Target> targets;
    std::vector<std::string> names;
    size_t plane = 0;
    for (const auto& o : taps.program->outputs) {
        Swatch& swatch = out[o.name];
        swatch.side = side;
        swatch.rgb.resize(size_t(side) * size_t(side));
        Meaning meaning = Meaning::Any;
        const size_t dot = o.name.find('.');
        if (o.name.starts_with("channel.")) meaning = findChannel(o.name.substr(dot + 1))->meaning;
        else if (auto it = taps.ports.find({o.name.substr(0, dot), o.name.substr(dot + 1)}); it != taps.ports.end())
            meaning = it->second.meaning;
        const int width = taps.program->code[size_t(o.value)].width;
        targets.push_back({&swatch, width, meaning, plane});
        names.push_back(o.name);
        plane += size_t(width);
    }
    Work work;
    work.threads = 1;
    const Dome dome(side);
    const SideBySide points(dome, side);
    evaluator.grid(
        frame, names, points.width(), points.height(), points,
        [&](int x, int y, int columns, int rows, const float* const* planes) {
            for (const Target& t : targets)
                for (int r = 0; r < rows; ++r)
                    for (int i = 0; i < columns; ++i) {
                        const auto at = points.at(x + i, y + r);
                        if (!points.holds(at)) continue;
                        float v[4] = {};
                        for (int c = 0; c < t.width; ++c) v[c] = planes[t.plane + size_t(c)][r * kBlockColumns + i];
                        t.swatch->rgb[size_t(at.second) * size_t(side) + size_t(at.first)] = pixel(v, t.width, t.meaning);
                    }
        },
        work);
    return out;
}

std::optional<Swatch> swatchOf(const Project& project, const Id& worn, const Source& wire, Assets& assets, double time, int side) {
    const Resolved resolved = resolve(project, worn);
    if (!resolved.master) return {};
    const size_t last = wire.node.rfind('/');
    const Id path = last == Id::npos ? Id{} : wire.node.substr(0, last);
    Source within = wire;
    if (last != Id::npos) within.node = wire.node.substr(last + 1);
    Compilation tap = compileTap(project, *resolved.master, within, Constants::Live, path);
    if (!tap.ports.contains({within.node, within.port}) || tap.program->outputs.empty()) return {};
    auto named = std::make_shared<Program>(*tap.program);
    named->outputs[0].name = within.node + "." + within.port;
    tap.program = std::move(named);
    std::map<std::string, Swatch> all = swatchesOf(project, resolved, tap, assets, time, side);
    return std::move(all.begin()->second);
}

} // namespace hue
