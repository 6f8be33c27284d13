#include "core/paint/fill_rules.h"

#include "core/base/vectors.h"
#include "core/base/words.h"
#include "core/paint/neighbours.h"
#include "core/paint/occlusion.h"
#include "core/program/builder.h"
#include "core/program/passes/passes.h"
#include "core/surface/at_vertices.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <optional>

namespace hue {
namespace {

using Kind = FillRule::Kind;
using Join = FillRule::Join;

constexpr FillRuleDef kRules[] = {
    {Kind::Constant, "constant", "VALUE", "the same everywhere, 0 to 1"},
    {Kind::Direction, "direction", "up|down|X Y Z 60..30", "how near faces look to a direction, in degrees"},
    {Kind::Height, "height", "0..1.2", "metres above the mesh's origin"},
    {Kind::Edges, "edges", "2..20", "how sharply the surface bends outward, one over metres"},
    {Kind::Cavities, "cavities", "2..20", "how sharply the surface bends inward, one over metres"},
    {Kind::Occlusion, "occlusion", "METRES", "how much of what lies above a point is covered within so many metres"},
    {Kind::Border, "border", "0.2..0", "metres along the surface from where two slots meet"},
    {Kind::Noise, "noise", "SIZE", "an uneven pattern with cells of so many metres"},
    {Kind::Wire, "wire", "CARD.PORT", "what a wire of the master gives at the vertices"},
    {Kind::Blur, "blur", "METRES", "what is there, spread so far along the surface"},
    {Kind::Invert, "invert", "", "one less what is there"},
    {Kind::Levels, "levels", "0.2..0.8", "what is there, stretched"},
};
static_assert(std::size(kRules) == size_t(Kind::Levels) + 1);

struct JoinDef {
    Join join;
    std::string_view key;
};
constexpr JoinDef kJoins[] = {{Join::Replace, "replace"},   {Join::Add, "add"},         {Join::Subtract, "subtract"},
                              {Join::Multiply, "multiply"}, {Join::Largest, "largest"}, {Join::Smallest, "smallest"}};

bool isRamp(Kind k) {
    return k == Kind::Direction || k == Kind::Height || k == Kind::Edges || k == Kind::Cavities || k == Kind::Border || k == Kind::Levels;
}

std::optional<float> numberOf(std::string_view text) {
    float value = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (error != std::errc{} || end != text.data() + text.size() || !std::isfinite(value)) return {};
    return value;
}

std::vector<std::string_view> wordsOf(std::string_view text) {
    std::vector<std::string_view> out;
    for (size_t at = 0; at < text.size();) {
        const size_t first = std::min(text.find_first_not_of(" \t", at), text.size());
        at = std::min(text.find_first_of(" \t", first), text.size());
        if (at > first) out.push_back(text.substr(first, at - first));
    }
    return out;
}

/// Takes a rule apart, word by word.
class Reader {
  public:
    explicit Reader(std::string_view text) : m_text(text), m_words(wordsOf(text)) {}

    Result<FillRule> read() {
        if (m_words.empty()) return wrong("there is no rule");
        const auto def = std::find_if(std::begin(kRules), std::end(kRules), [&](const FillRuleDef& d) { return d.key == m_words[0]; });
        if (def == std::end(kRules)) {
            std::vector<std::string_view> known;
            for (const FillRuleDef& d : kRules) known.push_back(d.key);
            return wrong(fmt::format("{} is none of {}.{}", m_words[0], anyOf(known), nearestSentence(m_words[0], known)));
        }
        FillRule rule;
        rule.kind = def->kind;
        m_next = 1;
        if (rule.kind == Kind::Direction && !direction(rule)) return wrong("a direction is up, down or three numbers that are not all 0");
        if (isRamp(rule.kind) && !ramp(rule))
            return wrong(fmt::format("{} takes where it is 0 and where it is 1, such as {} {}", def->key, def->key, def->takes));
        if (rule.kind == Kind::Constant && !amount(rule, 0, 1)) return wrong("constant takes a number from 0 to 1");
        if ((rule.kind == Kind::Noise || rule.kind == Kind::Blur || rule.kind == Kind::Occlusion) && !amount(rule, 1e-4f, 1e4f))
            return wrong(fmt::format("{} takes metres, from 0.0001 to 10000", def->key));
        if (rule.kind == Kind::Wire) {
            if (m_next == m_words.size()) return wrong("wire takes CARD.PORT");
            rule.wire = m_words[m_next++];
        }
        while (m_next < m_words.size()) {
            const std::string_view word = m_words[m_next++];
            const auto join = std::find_if(std::begin(kJoins), std::end(kJoins), [&](const JoinDef& j) { return j.key == word; });
            if (join != std::end(kJoins)) {
                rule.join = join->join;
            } else if (word == "weight") {
                const auto weight = m_next < m_words.size() ? numberOf(m_words[m_next++]) : std::nullopt;
                if (!weight || *weight < 0 || *weight > 1) return wrong("weight takes a number from 0 to 1");
                rule.weight = *weight;
            } else {
                return wrong(
                    fmt::format("{} says nothing; what may follow is replace, add, subtract, multiply, largest, smallest or weight", word));
            }
        }
        return rule;
    }

  private:
    std::string_view m_text;
    std::vector<std::string_view> m_words;
    size_t m_next = 0;

    Error wrong(const std::string& why) const {
        return {"paint.rule", fmt::format("The rule \"{}\" is not understood: {}{}", m_text, why, why.ends_with('.') ? "" : "."), {}};
    }

    bool amount(FillRule& rule, float low, float high) {
        const auto value = m_next < m_words.size() ? numberOf(m_words[m_next++]) : std::nullopt;
        if (value) rule.amount = *value;
        return value && *value >= low && *value <= high;
    }

    bool direction(FillRule& rule) {
        if (m_next == m_words.size()) return false;
        const bool up = m_words[m_next] == "up", down = m_words[m_next] == "down";
        if (up || down) {
            rule.direction = {0, up ? 1.f : -1.f, 0};
            return ++m_next, true;
        }
        if (m_next + 3 > m_words.size()) return false;
        for (float& c : rule.direction) {
            const auto value = numberOf(m_words[m_next++]);
            if (!value) return false;
            c = *value;
        }
        const auto unitLong = directionOf(rule.direction);
        if (unitLong) rule.direction = *unitLong;
        return unitLong.has_value();
    }

    bool ramp(FillRule& rule) {
        if (m_next == m_words.size()) return false;
        const std::string_view word = m_words[m_next++];
        const size_t dots = word.find("..");
        if (dots == std::string_view::npos) return false;
        const auto from = numberOf(word.substr(0, dots)), to = numberOf(word.substr(dots + 2));
        if (from) rule.from = *from;
        if (to) rule.to = *to;
        return from && to;
    }
};

/// 0 at `from`, 1 at `to`, straight between; a step where both are the same.
float ramp(float x, const FillRule& rule) {
    if (rule.from == rule.to) return x >= rule.to;
    return std::clamp((x - rule.from) / (rule.to - rule.from), 0.f, 1.f);
}

PaintChannel noiseOver(const Mesh& mesh, float size) {
    // The noise of the catalogue, so that a card can give the same.
    auto program = std::make_shared<Program>();
    Builder b(*program);
    const Val at = b.mul(b.attribute(Attribute::PositionObject), b.number(1 / size));
    program->outputs.push_back({"noise", b.add(b.mul(b.noise3(at), b.number(0.5f)), b.number(0.5f)).id});
    optimise(*program);
    const Evaluator evaluator(program);
    PaintChannel out(mesh.vertices.size(), 0);
    for (const MeshSlot& slot : mesh.slots)
        atVertices(evaluator, evaluator.frame({}), mesh, slot, {"noise"}, kWorld,
                   [&](uint32_t v, const float* const* planes, size_t lane) { out[v] = planes[0][lane]; });
    return out;
}

/// Half of the way to the mean of the neighbours, again and again. Each time adds half the mean square of the edges to what is spread, in
/// two directions; a spread of `reach` in each is the square of that.
Result<PaintChannel> blurred(const PaintChannel& channel, const MeshNeighbours& neighbours, float reach) {
    constexpr float kMostRounds = 4000;
    const float rounds = neighbours.meanSquareEdge() > 0 ? std::ceil(4 * reach * reach / neighbours.meanSquareEdge()) : 0;
    if (rounds > kMostRounds)
        return Error{"paint.blur-too-wide",
                     fmt::format("Edges of this mesh are {:.3g} m long, and paint is blurred over at most {:.3g} m along them, not {:.6g}. "
                                 "Blur less, or work on a coarser mesh.",
                                 std::sqrt(neighbours.meanSquareEdge()), std::sqrt(kMostRounds * neighbours.meanSquareEdge() / 4), reach),
                     {}};
    std::vector<float> now = neighbours.gathered(channel), next(now.size());
    for (int k = 0; k < int(rounds); ++k) {
        for (uint32_t p = 0; p < now.size(); ++p) {
            const auto around = neighbours.around(p);
            float all = 0;
            for (const uint32_t q : around) all += now[q];
            next[p] = around.empty() ? now[p] : 0.5f * (now[p] + all / float(around.size()));
        }
        now.swap(next);
    }
    return neighbours.scattered(now);
}

/// What a rule gives at each vertex, before it meets `channel`.
Result<PaintChannel> valuesOf(const FillRule& rule, const Mesh& mesh, const MeshNeighbours& neighbours, const PaintChannel& channel,
                              const WireValues& wires) {
    PaintChannel out(mesh.vertices.size());
    const auto each = [&](auto value) {
        for (size_t v = 0; v < out.size(); ++v) out[v] = value(v);
        return out;
    };
    switch (rule.kind) {
    case Kind::Constant: return each([&](size_t) { return rule.amount; });
    case Kind::Direction:
        return each([&](size_t v) {
            const float along = std::clamp(dot(mesh.vertices[v].normal, rule.direction), -1.f, 1.f);
            return ramp(std::acos(along) * 180 / std::numbers::pi_v<float>, rule);
        });
    case Kind::Height: return each([&](size_t v) { return ramp(mesh.vertices[v].position[1], rule); });
    case Kind::Edges:
    case Kind::Cavities: {
        const std::vector<float> bends = neighbours.scattered(meanCurvatures(mesh, neighbours));
        return each([&](size_t v) { return ramp(rule.kind == Kind::Edges ? bends[v] : -bends[v], rule); });
    }
    case Kind::Border: {
        const std::vector<float> far = neighbours.scattered(distancesToBorders(mesh, neighbours));
        if (std::none_of(far.begin(), far.end(), [](float d) { return d == 0; }))
            return Error{
                "paint.no-border",
                fmt::format("No two slots of this mesh share an edge (it has {}), so there is no border to paint along. Use another "
                            "rule, or give its faces slots.",
                            mesh.slots.size()),
                {}};
        return each([&](size_t v) { return std::isinf(far[v]) ? (rule.to > rule.from ? 1.f : 0.f) : ramp(far[v], rule); });
    }
    case Kind::Occlusion: return neighbours.scattered(occlusionAt(mesh, neighbours, rule.amount));
    case Kind::Noise: return noiseOver(mesh, rule.amount);
    case Kind::Wire:
        if (!wires)
            return Error{"paint.rule", fmt::format("No wire can be read here, such as {}: say which master it is of.", rule.wire), {}};
        return wires(rule.wire);
    case Kind::Blur: return blurred(channel, neighbours, rule.amount);
    case Kind::Invert: return each([&](size_t v) { return 1 - channel[v]; });
    case Kind::Levels: return each([&](size_t v) { return ramp(channel[v], rule); });
    }
    return out;
}

float joined(Join join, float there, float given) {
    switch (join) {
    case Join::Replace: return given;
    case Join::Add: return there + given;
    case Join::Subtract: return there - given;
    case Join::Multiply: return there * given;
    case Join::Largest: return std::max(there, given);
    case Join::Smallest: return std::min(there, given);
    }
    return given;
}

/// What is no number becomes 0.
float within(float x) { return x > 0 ? std::min(x, 1.f) : 0.f; }

} // namespace

std::span<const FillRuleDef> fillRules() { return kRules; }

Result<FillRule> fillRuleFromText(std::string_view text) { return Reader(text).read(); }

Outcome fillByRules(const Mesh& mesh, std::span<const FillRule> rules, PaintChannel& channel, const WireValues& wires) {
    const MeshNeighbours neighbours(mesh);
    PaintChannel now = channel;
    for (const FillRule& rule : rules) {
        const Result<PaintChannel> given = valuesOf(rule, mesh, neighbours, now, wires);
        if (!given) return given.error();
        for (size_t v = 0; v < now.size(); ++v) {
            const float outcome = within(joined(rule.join, now[v], within((*given)[v])));
            now[v] = within(outcome * rule.weight + now[v] * (1 - rule.weight));
        }
    }
    channel = std::move(now);
    return Done{};
}

PaintShare shareOf(const PaintChannel& channel) {
    PaintShare out;
    if (channel.empty()) return out;
    const auto [least, most] = std::minmax_element(channel.begin(), channel.end());
    double all = 0;
    size_t above = 0;
    for (const float x : channel) all += x, above += x > 0;
    out.least = *least;
    out.most = *most;
    out.mean = float(all / double(channel.size()));
    out.painted = float(double(above) / double(channel.size()));
    return out;
}

} // namespace hue
