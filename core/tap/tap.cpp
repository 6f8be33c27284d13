#include "core/tap/tap.h"
#include "core/nodes/assembly_card.h"

#include "core/edits/edits.h"
#include "core/project/frame_inputs.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace hue {
namespace {

/// Components of an output that a take picks, read from the planes of the whole output.
std::array<float, 4> taken(const Source& wire, int width, const float* const* planes, size_t lane) {
    std::array<float, 4> all{};
    for (int c = 0; c < width; ++c) all[size_t(c)] = planes[c][lane];
    if (wire.take.empty()) return all;
    if (wire.take == "luma") return {width < 3 ? all[0] : 0.2126f * all[0] + 0.7152f * all[1] + 0.0722f * all[2]};
    std::array<float, 4> out{};
    size_t n = 0;
    for (char c : wire.take)
        if (n < 4) out[n++] = all[std::string_view("rgbaxyzw").find(c) % 4];
    return out;
}

int widthAfterTake(const Source& wire, int width) {
    if (wire.take.empty()) return width;
    return wire.take == "luma" ? 1 : int(wire.take.size());
}

/// One wire of a compiled board, ready to be read.
class Reader {
  public:
    Reader(const Program& program, const Source& wire) : m_wire(wire), m_name(wire.node + "." + wire.port) {
        const int32_t value = program.output(m_name);
        if (value >= 0) m_width = program.code[size_t(value)].width;
    }
    int width() const { return m_width ? widthAfterTake(m_wire, m_width) : 0; }
    const std::string& name() const { return m_name; }
    int planes() const { return m_width; }
    std::array<float, 4> at(const float* const* planes, size_t lane) const { return taken(m_wire, m_width, planes, lane); }

  private:
    Source m_wire;
    std::string m_name;
    int m_width = 0;
};

std::vector<std::array<float, 4>> square(const Evaluator& evaluator, const Frame& frame, const Reader& reader, int side) {
    std::vector<std::array<float, 4>> out(size_t(side) * size_t(side));
    evaluator.grid(frame, {reader.name()}, side, side, FlatSquare(side, side),
                   [&](int x, int y, int columns, int rows, const float* const* planes) {
                       for (int r = 0; r < rows; ++r)
                           for (int i = 0; i < columns; ++i)
                               out[size_t(y + r) * size_t(side) + size_t(x + i)] = reader.at(planes, size_t(r * kBlockColumns + i));
                   },
                   {});
    return out;
}

void measure(TapFacts& out, const std::vector<std::array<float, 4>>& values) {
    const auto count = float(values.size());
    float low = 0, high = 1;
    for (size_t c = 0; c < size_t(out.width); ++c) {
        float least = std::numeric_limits<float>::infinity(), most = -least;
        double sum = 0;
        size_t finite = 0, outside = 0;
        for (const auto& v : values) {
            if (!std::isfinite(v[c])) continue;
            ++finite;
            sum += double(v[c]);
            least = std::min(least, v[c]);
            most = std::max(most, v[c]);
            outside += v[c] < 0 || v[c] > 1;
        }
        out.broken[c] = 1 - float(finite) / count;
        out.outside[c] = float(outside) / count;
        out.least[c] = finite ? least : 0;
        out.most[c] = finite ? most : 0;
        out.mean[c] = finite ? float(sum / double(finite)) : 0;
        low = std::min(low, out.least[c]);
        high = std::max(high, out.most[c]);
    }
    out.low = low;
    out.high = high;
    for (size_t c = 0; c < 4; ++c) out.shares[c] = {};
    for (const auto& v : values)
        for (size_t c = 0; c < size_t(out.width); ++c)
            if (std::isfinite(v[c])) {
                const float at = (v[c] - low) / (high - low) * TapFacts::kBins;
                out.shares[c][size_t(std::clamp(int(at), 0, TapFacts::kBins - 1))] += 1 / count;
            }
}

} // namespace

TapFacts tapFacts(const Project& project, Assets& assets, const Id& worn, const Source& wire, const TapAxis& axis, double time,
                  const Id& path) {
    TapFacts out;
    const Resolved resolved = resolve(project, worn);
    if (!resolved.master) return out;
    const Compilation taps = compileTaps(project, *resolved.master, Constants::Live, path);
    const Reader reader(*taps.program, wire);
    out.width = reader.width();
    if (!out.width) return out;
    if (auto port = taps.ports.find({wire.node, wire.port}); port != taps.ports.end())
        out.meaning = out.width == 1 ? Meaning::Number : port->second.meaning;
    const Evaluator evaluator(taps.program);
    const Frame frame = evaluator.frame(frameInputs(project, assets, resolved, time));
    constexpr int side = TapFacts::kSide;
    const auto values = square(evaluator, frame, reader, side);
    for (const auto& v : values)
        for (int c = 0; c < out.width; ++c) out.values.push_back(v[size_t(c)]);
    measure(out, values);
    out.movesWithTime = compileTap(project, *resolved.master, wire, Constants::Folded, path).program->readsTime();

    constexpr float none = std::numeric_limits<float>::quiet_NaN();
    switch (axis.over) {
    case TapAxis::Over::U:
    case TapAxis::Over::V:
        out.axisName = axis.over == TapAxis::Over::U ? "U" : "V";
        for (int i = 0; i < side; ++i) {
            const int x = axis.over == TapAxis::Over::U ? i : side / 2, y = axis.over == TapAxis::Over::U ? side / 2 : i;
            out.course.push_back(values[size_t(y) * side + size_t(x)]);
        }
        break;
    case TapAxis::Over::Time: {
        out.axisName = "time";
        out.axisUnit = "s";
        out.axisHigh = project.loopSeconds;
        constexpr int steps = 160;
        // In the middle of the square, where a tap of a plain animation is the same as anywhere.
        constexpr int few = 8;
        for (int i = 0; i <= steps; ++i) {
            const Frame then = evaluator.frame(frameInputs(project, assets, resolved, double(project.loopSeconds) * i / steps));
            out.course.push_back(square(evaluator, then, reader, few)[few * few / 2 + few / 2]);
            if (!out.movesWithTime) {
                out.course.resize(steps + 1, out.course[0]);
                break;
            }
        }
        break;
    }
    case TapAxis::Over::Wire: {
        const Reader other(*taps.program, axis.other);
        if (other.width() != 1) break;
        out.axisName = axis.other.node;
        const auto along = square(evaluator, frame, other, side);
        float low = std::numeric_limits<float>::infinity(), high = -low;
        for (const auto& v : along)
            if (std::isfinite(v[0])) low = std::min(low, v[0]), high = std::max(high, v[0]);
        if (!(high > low)) high = low + 1;
        out.axisLow = low;
        out.axisHigh = high;
        // The mean of the wire where the other has a value.
        constexpr int steps = 96;
        std::vector<std::array<double, 4>> sums(steps);
        std::vector<int> counts(steps, 0);
        for (size_t i = 0; i < values.size(); ++i) {
            if (!std::isfinite(along[i][0])) continue;
            const int bin = std::clamp(int((along[i][0] - low) / (high - low) * steps), 0, steps - 1);
            ++counts[size_t(bin)];
            for (size_t c = 0; c < size_t(out.width); ++c) sums[size_t(bin)][c] += double(values[i][c]);
        }
        for (size_t b = 0; b < steps; ++b) {
            std::array<float, 4> v{none, none, none, none};
            for (size_t c = 0; c < 4 && counts[b]; ++c) v[c] = float(sums[b][c] / counts[b]);
            out.course.push_back(v);
        }
        break;
    }
    }
    return out;
}

CardCurve cardCurve(const Master& master, const Node& node, float loopSeconds) {
    CardCurve out;
    const NodeDef* def = findNodeDef(node.kind);
    if (!def || def->outputs.size() != 1 || def->outputs[0].width > 1) return out;
    static constexpr std::string_view plain[] = {"smoothstep",    "step",     "clamp",          "remap",       "range",       "power",
                                                 "sine",          "cosine",   "fract",          "floor",       "ceil",        "round",
                                                 "invert",        "contrast", "absolute_value", "square_root", "exponential", "logarithm",
                                                 "triangle_wave", "wave",     "flicker"};
    if (std::find(std::begin(plain), std::end(plain), node.kind) == std::end(plain)) return out;
    const bool overTime = settingOf(node, *def, "of") == "time" || node.kind == "flicker";
    std::string input;
    for (const char* key : {"in", "in1", "value"})
        if (def->input(key)) {
            input = key;
            break;
        }
    if (!overTime && input.empty()) return out;
    // The card alone, with a number of 0 to 1 where its value comes from.
    Project small;
    auto alone = std::make_shared<Master>();
    alone->id = "m";
    alone->parameters = master.parameters;
    auto copy = std::make_shared<Node>(node);
    copy->muted = false;
    copy->wires.clear();
    for (const PortDef& port : def->inputs)
        if (port.width != 1 && port.width != kAnyWidth) return out;
    // Vectors would be curves of their own; the first component speaks for all.
    for (auto& [port, value] : copy->constants) value.width = 1;
    // Wired inputs that come straight from a parameter have its default.
    for (const auto& [port, wire] : node.wires)
        if (const Node* source = master.graph.find(wire.node); source && source->kind == "parameter")
            if (auto it = source->settings.find("parameter"); it != source->settings.end())
                if (const Parameter* p = master.parameter(it->second); p && p->type == ParameterType::Number)
                    copy->constants[port] = p->standard.value;
    if (!overTime) {
        auto uv = std::make_shared<Node>();
        uv->id = "u";
        uv->kind = "texcoord";
        alone->graph.nodes["u"] = uv;
        copy->wires[input] = {"u", "out", "x"};
        copy->constants.erase(input);
    }
    alone->graph.nodes[copy->id] = copy;
    small.masters.push_back(alone);
    const Compilation compiled = compileTap(small, *alone, {copy->id, std::string(def->outputs[0].key), {}});
    const Evaluator evaluator(compiled.program);
    FrameInputs inputs;
    inputs.parameter = [&](const Id& id) {
        const Parameter* p = alone->parameter(id);
        return p ? p->standard.value : Value{};
    };
    constexpr int steps = 64;
    const float length = overTime ? std::min(loopSeconds, 4.f) : 1;
    auto row = [&](int width, double time) {
        std::vector<float> values;
        values.resize(size_t(width));
        inputs.time = time;
        Work control;
        control.threads = 1;
        evaluator.grid(
            evaluator.frame(inputs), {"tap"}, width, 1, FlatSquare(width, 1),
            [&](int x, int, int columns, int, const float* const* planes) { std::copy_n(planes[0], columns, values.begin() + x); },
            control);
        return values;
    };
    if (overTime)
        for (int i = 0; i <= steps; ++i) out.values.push_back(row(1, double(length) * i / steps)[0]);
    else out.values = row(steps, 0);
    out.over = overTime ? "time" : input;
    out.low = *std::min_element(out.values.begin(), out.values.end());
    out.high = *std::max_element(out.values.begin(), out.values.end());
    for (float x : out.values)
        if (!std::isfinite(x)) return {};
    return out;
}

} // namespace hue
