#include "core/check/range_reports.h"

#include "core/document/drawn.h"
#include "core/edits/edits.h"
#include "core/nodes/catalogue.h"
#include "core/program/intervals.h"
#include "core/surface/channels.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>
#include <tuple>

namespace hue {
namespace {

bool isKnown(Interval i) { return std::isfinite(i.low) && std::isfinite(i.high); }
std::string textOf(float x) { return fmt::format("{:g}", std::round(x * 1000) / 1000 + 0.f); }

/// Of all that the slot may hold: a parameter has a map of its own in each instance.
Interval boundsOf(const Project& project, const Master& master, const MapSlot& slot, const MapBounds& maps) {
    std::set<Id> held;
    if (const Parameter* parameter = slot.parameter.empty() ? nullptr : master.parameter(slot.parameter)) {
        held.insert(parameter->standard.map);
        for (const InstancePtr& instance : project.instances)
            if (const auto own = instance->own.find(slot.parameter); own != instance->own.end()) held.insert(own->second.map);
    } else {
        held.insert(slot.map);
    }
    constexpr Interval kUnknown{0, 1};
    Interval all{std::numeric_limits<float>::infinity(), -std::numeric_limits<float>::infinity()};
    for (const Id& map : held) {
        if (const Result<Drawn> drawn = isDrawn(map) ? drawnFrom(map) : Error{}; drawn) {
            for (const DrawnPoint& p : drawn->points)
                for (size_t c = 0; c < (drawn->kind == Drawn::Kind::Curve ? 1u : 4u); ++c)
                    all = {std::min(all.low, p.value[c]), std::max(all.high, p.value[c])};
            continue;
        }
        const Interval its = map.empty() || !maps ? kUnknown : maps(map).value_or(kUnknown);
        all = {std::min(all.low, its.low), std::max(all.high, its.high)};
    }
    return all;
}

/// What comes from outside stays within what people may give.
std::optional<Interval> fromOutside(const Project& project, const Program& p, const Master& master, const MapBounds& maps,
                                    const Instruction& i) {
    switch (i.op) {
    case Op::Parameter: {
        const Parameter* parameter = master.parameter(p.parameters[i.imm]);
        if (!parameter) return {};
        if (parameter->type == ParameterType::Color)
            return Interval{std::max(0.f, parameter->hardMin), std::min(parameter->strongest, parameter->hardMax)};
        // The slider is what is meant; beyond it is done on purpose.
        return Interval{std::max(parameter->softMin, parameter->hardMin), std::min(parameter->softMax, parameter->hardMax)};
    }
    case Op::Swizzle: {
        // The alpha of a color stays below 1, however strongly the color glows.
        const Instruction& from = p.code[size_t(i.args[0])];
        const Parameter* color = from.op == Op::Parameter ? master.parameter(p.parameters[from.imm]) : nullptr;
        if (color && color->alpha && i.width == 1 && (i.imm & 3) == 3) return Interval{0, 1};
        return {};
    }
    case Op::Noise2:
    case Op::Noise2Seamless:
    case Op::Noise3:
    case Op::Fractal2:
    case Op::Fractal3: return Interval{-1, 1};
    case Op::Worley2:
    case Op::Worley2Seamless: return Interval{0, 1.4143f};
    case Op::Sample:
    case Op::SampleLevel:
    case Op::SampleGuided:
    case Op::SampleFramed: return boundsOf(project, master, p.maps[i.imm], maps);
    case Op::Attribute:
        switch (Attribute(i.imm)) {
        case Attribute::Color:
        case Attribute::Painted:
        case Attribute::PaintedSecond:
        case Attribute::Screen: return Interval{0, 1};
        case Attribute::NormalWorld:
        case Attribute::NormalObject:
        case Attribute::TangentWorld:
        case Attribute::BitangentWorld:
        case Attribute::View: return Interval{-1, 1};
        default: return {};
        }
    default: return {};
    }
}

/// Puts a Clamp to 0..1 into the wire that ends there; into a channel's when the place has no card.
Result<Project> clampBetween(const Project& p, const Place& there) {
    const auto& [board, card, port] = there;
    const Master* m = p.board(board);
    const Node* node = m && !card.empty() ? m->graph.find(card) : nullptr;
    const std::map<std::string, Source> none;
    const auto& wires = card.empty() && m ? m->graph.channelWires : node ? node->wires : none;
    const auto wire = wires.find(port);
    if (wire == wires.end()) return Error{"edit.no-wire", fmt::format("There is no wire into {}.", port), there};
    return edit::putBetween(p, there.master, wire->second, "clamp", "in", "out", there);
}

class Reports {
  public:
    Reports(const Project& project, const Master& master, const Program& program, const MapBounds& maps)
        : m_project(project),
          m_master(master),
          m_program(program),
          m_intervals(intervalsOf(program, [&](const Instruction& i) { return fromOutside(project, program, master, maps, i); })) {}

    std::vector<Diagnostic> run() {
        for (const Instruction& i : m_program.code) instruction(i);
        for (const Program::Output& o : m_program.outputs) output(o);
        return std::move(m_out);
    }

  private:
    Interval operand(const Instruction& i, int k) const { return m_intervals[size_t(i.args[size_t(k)])]; }

    /// A card, and the board that it lies on: the master's, or that of an assembly that it uses.
    struct Standing {
        const Master* board;
        const Node* card;
    };
    std::optional<Standing> standingOf(const Instruction& i) const {
        if (i.origin < 0) return {};
        const Origin& from = m_program.origins[size_t(i.origin)];
        const Master* board = from.board.empty() ? &m_master : m_project.board(from.board);
        const Node* card = board ? board->graph.find(from.board.empty() ? from.card : from.home) : nullptr;
        return card ? std::optional(Standing{board, card}) : std::nullopt;
    }

    /// "what comes from Wear, ", or where nothing is wired there, "what lies ".
    std::string sourceOf(const Standing& at, const std::string& port) const {
        const auto wire = at.card->wires.find(port);
        return wire == at.card->wires.end() ? "what lies"
                                            : fmt::format("what comes from {},", cardTitle(m_project, *at.board, wire->second.node));
    }

    void say(Severity severity, const char* code, const Standing& at, std::string_view port, std::string sentence,
             std::vector<Fix> fixes = {}) {
        if (at.board != &m_master) sentence = fmt::format("In {}, as {} uses it: {}", at.board->name, m_master.name, sentence);
        say(severity, code, Place{at.board->id, at.card->id, std::string(port)}, std::move(sentence), std::move(fixes));
    }
    void say(Severity severity, const char* code, const Place& place, std::string sentence, std::vector<Fix> fixes) {
        if (!m_said.insert({code, place.master, place.node}).second) return;
        if (severity == Severity::Advice && !m_project.assembly(m_master.id)) {
            const auto& silent = m_master.silencedAdvice;
            if (std::find(silent.begin(), silent.end(), code) != silent.end()) return;
            fixes.push_back({fmt::format("Silence for {}", m_master.name),
                             [m = m_master.id, c = std::string(code)](const Project& p) { return edit::silenceAdvice(p, m, c, true); }});
        }
        m_out.push_back({severity, code, place, std::move(sentence), std::move(fixes)});
    }

    /// The difference of two masks is how bands are made: one lies within the other, which bounds do not tell.
    bool isBand(int32_t n) const {
        const Instruction& i = m_program.code[size_t(n)];
        return i.op == Op::Sub && operand(i, 0).within(-kSlack, 1 + kSlack) && operand(i, 1).within(-kSlack, 1 + kSlack);
    }

    /// A parameter or a constant by itself: its bounds are reached, whatever others are.
    bool isSetAlone(int32_t n) const {
        const Op op = m_program.code[size_t(n)].op;
        return op == Op::Parameter || op == Op::Constant;
    }

    static Fix clampFix(Place place) {
        return {"Put a Clamp between", [place = std::move(place)](const Project& p) { return clampBetween(p, place); }};
    }

    void instruction(const Instruction& i) {
        const std::optional<Standing> at = standingOf(i);
        if (!at) return;
        const Node* card = at->card;
        const std::string title = cardTitle(m_project, *at->board, *card);
        switch (i.op) {
        case Op::Div: {
            // Others divide by what they have made safe, or by sizes of texels.
            static constexpr std::string_view dividing[] = {"divide", "modulo", "remap", "range", "inverse_mix", "formula"};
            if (std::find(std::begin(dividing), std::end(dividing), card->kind) == std::end(dividing)) break;
            const Interval by = operand(i, 1);
            if (isKnown(by) && by.low <= 0 && by.high >= 0 && !(by.low == 0 && by.high == 0))
                say(Severity::Caution, "divide.may-be-zero", *at, "in2",
                    fmt::format(
                        "{} divides by {} between {} and {}, so by 0 as well: such pixels are invalid. Limit what comes in, or put a "
                        "Maximum before.",
                        title, sourceOf(*at, "in2"), textOf(by.low), textOf(by.high)));
            break;
        }
        case Op::Sqrt:
            if (const Interval x = operand(i, 0); card->kind == "square_root" && isKnown(x) && x.low < -1e-4f)
                say(Severity::Caution, "root.may-be-negative", *at, "in",
                    fmt::format(
                        "{} gets what can fall to {}; the root of what is below 0 is taken as 0. Take the Absolute value before, or "
                        "move the range.",
                        title, textOf(x.low)));
            break;
        case Op::Power:
            if (const Interval x = operand(i, 0); card->kind == "power" && isKnown(x) && x.low < -1e-4f)
                say(Severity::Caution, "power.may-be-negative", *at, "in1",
                    fmt::format("{} gets what can fall to {}; a power of what is below 0 is taken as 0. Take the Absolute value before, or "
                                "move the range.",
                                title, textOf(x.low)));
            break;
        case Op::Smooth:
            if (const Interval low = operand(i, 1), high = operand(i, 2); card->kind == "smoothstep" && low.low >= high.high)
                say(Severity::Caution, "smoothstep.no-width", *at, "low",
                    fmt::format(
                        "The lower edge of {} ({}) is never below the upper one ({}), so it jumps instead of rising. Move the edges "
                        "apart.",
                        title, textOf(low.low), textOf(high.high)));
            else if (card->kind == "smoothstep" && isSetAlone(i.args[1]) && isSetAlone(i.args[2]) && low.high > high.low)
                say(Severity::Caution, "smoothstep.may-have-no-width", *at, "low",
                    fmt::format(
                        "The lower edge of {} can be as high as {}, and the upper one as low as {}: where they meet it jumps instead "
                        "of rising. Let their ranges end before each other.",
                        title, textOf(low.high), textOf(high.low)));
            break;
        case Op::Mix: {
            const Interval weight = operand(i, 2);
            if (isBand(i.args[2])) break;
            if (card->kind == "mix" && card->wires.contains("mix") && isKnown(weight) && !weight.within(-kSlack, 1 + kSlack))
                say(Severity::Advice, "mix.beyond", *at, "mix",
                    fmt::format(
                        "The weight of {} can lie between {} and {}; outside of 0 to 1 it goes beyond both of its values. Clamp it, "
                        "unless that is meant.",
                        title, textOf(weight.low), textOf(weight.high)),
                    {clampFix({at->board->id, card->id, "mix"})});
            break;
        }
        default: break;
        }
    }

    void output(const Program::Output& o) {
        const ChannelDef* channel = findChannel(o.name);
        const auto wire = m_master.graph.channelWires.find(o.name);
        if (!channel || wire == m_master.graph.channelWires.end() || channel->meaning == Meaning::Normal) return;
        const Interval its = m_intervals[size_t(o.value)];
        if (!isKnown(its) || its.within(channel->low - kSlack, channel->high + kSlack)) return;
        std::vector<Fix> fixes;
        if (channel->low == 0 && channel->high == 1) fixes.push_back(clampFix({m_master.id, {}, std::string(channel->key)}));
        say(Severity::Advice, "channel.may-leave-range", Place{m_master.id, {}, o.name},
            fmt::format("{} can lie between {} and {}; its range is {} to {}. Clamp it, or narrow what leads to it.", channel->name,
                        textOf(its.low), textOf(its.high), textOf(channel->low), textOf(channel->high)),
            std::move(fixes));
    }

    /// What lies this little outside is rounding, not intent.
    static constexpr float kSlack = 0.02f;
    const Project& m_project;
    const Master& m_master;
    const Program& m_program;
    const std::vector<Interval> m_intervals;
    std::set<std::tuple<std::string, Id, Id>> m_said;
    std::vector<Diagnostic> m_out;
};

} // namespace

std::vector<Diagnostic> rangeReports(const Project& project, const Master& master, const Program& program, const MapBounds& maps) {
    return Reports(project, master, program, maps).run();
}

} // namespace hue
