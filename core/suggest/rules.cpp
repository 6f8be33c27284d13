// Savings on the board: of cards, wires and channels.
#include "core/check/idle_channels.h"
#include "core/document/parameter_kinds.h"
#include "core/nodes/assembly_card.h"
#include "core/suggest/rules_private.h"
#include "core/surface/channels.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace hue {
namespace {

constexpr int kWorthLooking = 4;     ///< operations of a card below which no rule looks at it
constexpr float kUnseen = 1 / 255.f; ///< less than that is no difference in a channel of 8 bits

} // namespace

Rules::Rules(const Project& project, const Id& worn, const Target& target, const FrameInputs& inputs, TriedMaps* maps)
    : m_project(project), m_resolved(resolve(project, worn)), m_target(target), m_inputs(inputs), m_maps(maps) {}

std::vector<Proposed> Rules::run() {
    if (!m_resolved.master) return {};
    m_master = m_project.master(m_resolved.master->id);
    if (!m_master) return {};
    m_users = usersOf(m_project, m_master->id);
    for (const Id& user : m_users)
        for (const Instance* i : m_project.chainOf(user))
            for (const auto& [id, value] : i->own) m_owned.insert(id);
    m_compiled = compileSurface(m_project, *m_resolved.master);
    m_cards = m_compiled->cards;
    for (const auto& [id, node] : m_master->graph.nodes) {
        const NodeDef* def = nodeDefOf(m_project, *node);
        if (!def || node->muted || !m_cards.contains(id)) continue;
        settings(*node, *def);
        wires(*node, *def);
        constant(*node, *def);
        chain(*node);
        perPlacement(*node, *def);
    }
    choices();
    surface();
    channels();
    idleLayers();
    formats();
    shareSamplers();
    mapToProcedural();
    if (m_maps) {
        smallerMaps();
        constantChannels();
        packMaps();
        proceduralToMap();
        decalDepths();
    }
    std::erase_if(m_out, [&](const Proposed& p) {
        const auto& silent = m_master->silencedAdvice;
        return std::find(silent.begin(), silent.end(), p.code) != silent.end();
    });
    return std::move(m_out);
}

bool Rules::Spread::constant() const {
    for (int c = 0; c < mean.width; ++c)
        if (!(most[c] - least[c] < kUnseen)) return false;
    return true;
}

std::optional<Rules::Spread> Rules::spreadOf(const Source& wire) const {
    constexpr int kSide = 16;
    const Compilation c = compileTap(m_project, *m_resolved.master, wire);
    const int32_t at = c.program->output("tap");
    if (!c.ok || at < 0) return {};
    const int width = c.program->code[size_t(at)].width;
    Spread out{{width, {}}, {width, {}}, {width, {}}};
    std::array<double, 4> sums{};
    out.least.v.fill(INFINITY), out.most.v.fill(-INFINITY);
    const Evaluator evaluator(c.program);
    Work alone;
    alone.threads = 1;
    evaluator.grid(
        evaluator.frame(m_inputs), {"tap"}, kSide, kSide, FlatSquare(kSide, kSide),
        [&](int, int, int columns, int rows, const float* const* planes) {
            for (int k = 0; k < width; ++k)
                for (int r = 0; r < rows; ++r)
                    for (int i = 0; i < columns; ++i) {
                        const float x = planes[k][r * kBlockColumns + i];
                        if (!std::isfinite(x)) continue;
                        sums[size_t(k)] += double(x);
                        out.least[k] = std::min(out.least[k], x), out.most[k] = std::max(out.most[k], x);
                    }
        },
        alone);
    for (int k = 0; k < width; ++k) out.mean[k] = float(sums[size_t(k)] / (kSide * kSide));
    return out;
}

std::string Rules::titleOf(const Node& node) const { return cardTitle(m_project, *m_master, node); }

void Rules::add(std::string_view rule, const std::string& about, std::string title, std::string why, const Id& card, edit::Edit change) {
    m_out.push_back({fmt::format("{}:{}", rule, about), std::move(title), std::move(why), card, std::move(change)});
}

void Rules::set(std::string_view rule, const Node& node, const std::string& key, const std::string& value, std::string title,
                std::string why) {
    add(rule, node.id, std::move(title), std::move(why), node.id,
        [m = m_master->id, id = node.id, key, value](const Project& p) { return edit::setSetting(p, m, id, key, value); });
}

std::vector<std::pair<Id, std::string>> Rules::readersOf(const Id& card) const {
    std::vector<std::pair<Id, std::string>> out;
    for (const auto& [id, node] : m_master->graph.nodes)
        for (const auto& [port, wire] : node->wires)
            if (wire.node == card) out.emplace_back(id, port);
    for (const auto& [channel, wire] : m_master->graph.channelWires)
        if (wire.node == card) out.emplace_back(Id{}, channel);
    return out;
}

const Source& Rules::wireAt(const Id& card, const std::string& port) const {
    return card.empty() ? m_master->graph.channelWires.at(port) : m_master->graph.find(card)->wires.at(port);
}

edit::Edit Rules::valueAt(const Id& card, const std::string& port, const Value& value) const {
    return [m = m_master->id, card, port, value](const Project& p) -> Result<Project> {
        const Result<Project> cut = card.empty() ? edit::disconnectChannel(p, m, port) : edit::disconnect(p, m, card, port);
        if (!cut) return cut;
        return card.empty() ? edit::setChannelConstant(*cut, m, port, value) : edit::setConstant(*cut, m, card, port, value);
    };
}

void Rules::settings(const Node& node, const NodeDef& def) {
    if (const SettingDef* s = def.setting("octaves"); s && m_cards[node.id].operations > 0) {
        const int now = std::atoi(std::string(settingOf(node, def, "octaves")).c_str());
        if (now > 1)
            set("octaves", node, "octaves", fmt::format("{}", now - 1),
                fmt::format("{} {} of {}", now - 1, now == 2 ? "octave" : "octaves", titleOf(node)), "The finest octave is the weakest.");
    }
    if (node.kind == "fresnel" && def.setting("by") && settingOf(node, def, "by") == "index")
        set("fresnel-power", node, "by", "power", fmt::format("{} by a power", titleOf(node)),
            "A power follows the exact curve closely, and costs less.");
    // What does nearly the same in a plainer way; wires and values go along as far as they fit.
    static constexpr std::pair<std::string_view, std::string_view> kPlainer[] = {
        {"worley_noise", "noise_2d"}, {"worley_noise_3d", "noise_3d"},    {"noise_3d", "noise_2d"},
        {"fractal_3d", "fractal"},    {"hex_tiled_image", "tiled_image"}, {"triplanar_projection", "image"}};
    for (const auto& [kind, plainer] : kPlainer)
        if (node.kind == kind)
            if (const NodeDef* other = findNodeDef(plainer))
                add("plainer-card", node.id, fmt::format("{} in the place of {}", other->name, titleOf(node)),
                    "It does nearly the same, and costs less.", node.id,
                    [m = m_master->id, id = node.id, to = std::string(plainer)](const Project& p) {
                        return edit::replaceNode(p, m, id, makeNode(to));
                    });
    if (def.setting("unseen") && settingOf(node, def, "unseen") == "computed")
        set("skip-unseen", node, "unseen", "skipped", fmt::format("Skip what {} hides", titleOf(node)),
            "Where the mask is at one of its ends, the other side is not computed.");
}

void Rules::wires(const Node& node, const NodeDef& def) {
    for (const auto& [port, wire] : node.wires) {
        const PortDef* in = def.input(port);
        const auto from = m_cards.find(wire.node);
        if (!in || !carriesNumbers(in->width) || wire.perVertex || from == m_cards.end() || from->second.rate != Rate::Pixel ||
            from->second.operations < kWorthLooking)
            continue;
        const Node* source = m_master->graph.find(wire.node);
        if (!source) continue;
        add("per-vertex", node.id + "." + port, fmt::format("Compute {} at the vertices", titleOf(*source)),
            fmt::format("What changes slowly over a triangle can be carried over it to {}.", titleOf(node)), wire.node,
            [m = m_master->id, id = node.id, port = port](const Project& p) { return edit::setPerVertex(p, m, id, port, true); });
    }
}

/// All readers of a card's numbers read their mean.
void Rules::constant(const Node& node, const NodeDef& def) {
    const CardCost& cost = m_cards[node.id];
    // What comes from the mesh has no mean that means anything.
    if (cost.rate != Rate::Pixel || (cost.operations < kWorthLooking && !cost.fetches) || isAssembly(node) || def.inputs.empty()) return;
    std::vector<edit::Edit> steps;
    std::map<std::pair<std::string, std::string>, std::optional<Value>> means;
    const auto mean = [&](const Source& wire) -> std::optional<Value> {
        auto& known = means[{wire.port, wire.take}];
        const PortDef* port = def.output(wire.port);
        if (!known && port && port->width != kFinishPort && !port->finishes)
            if (const std::optional<Spread> spread = spreadOf(wire)) known = spread->mean;
        return known;
    };
    const Id master = m_master->id;
    for (const auto& [id, reader] : m_master->graph.nodes) {
        const NodeDef* its = nodeDefOf(m_project, *reader);
        for (const auto& [port, wire] : reader->wires) {
            if (wire.node != node.id) continue;
            const PortDef* in = its ? its->input(port) : nullptr;
            const std::optional<Value> v = in && carriesNumbers(in->width) ? mean(wire) : std::nullopt;
            if (!v) return; // a finish or a map, which has no mean
            steps.push_back([=, id = id, port = port](const Project& p) { return edit::disconnect(p, master, id, port); });
            steps.push_back([=, id = id, port = port](const Project& p) { return edit::setConstant(p, master, id, port, *v); });
        }
    }
    for (const auto& [channel, wire] : m_master->graph.channelWires) {
        if (wire.node != node.id) continue;
        const ChannelDef* c = findChannel(channel);
        // A mean of normals is no flat one, and the mesh's own serves better.
        const bool normal = c && c->meaning == Meaning::Normal;
        const std::optional<Value> v = c && !normal ? mean(wire) : std::nullopt;
        if (!v && !normal) return;
        steps.push_back([=, channel = channel](const Project& p) { return edit::disconnectChannel(p, master, channel); });
        if (v) steps.push_back([=, channel = channel](const Project& p) { return edit::setChannelConstant(p, master, channel, *v); });
    }
    if (steps.empty()) return;
    add("constant", node.id, fmt::format("A constant in the place of {}", titleOf(node)), "Its mean, for all that read it.", node.id,
        [steps](const Project& p) {
            Result<Project> next = p;
            for (const edit::Edit& step : steps)
                if (next) next = step(*next);
            return next;
        });
}

/// Cards that scale and move a value, one behind the other, are one factor and one summand. What the compiler joins by itself, factors
/// behind factors and sums behind sums, is no saving.
void Rules::chain(const Node& node) {
    /// out = scale * in + offset, by components; nothing where the card does something else.
    struct Linear {
        Value scale, offset;
        std::string port;
    };
    const auto linear = [&](const Node& n) -> std::optional<Linear> {
        const NodeDef* def = nodeDefOf(m_project, n);
        if (!def || n.muted || n.wires.size() != 1) return {};
        const auto value = [&](const char* port) { return constantOf(n, *def->input(port)); };
        const auto number = [&](const char* port) { return value(port)[0]; };
        const std::string& port = n.wires.begin()->first;
        const Value one = Value::number(1), none = Value::number(0);
        if (n.kind == "multiply" && port == "in1") return Linear{value("in2"), none, port};
        if (n.kind == "add" && port == "in1") return Linear{one, value("in2"), port};
        if (n.kind == "invert" && port == "in") return Linear{Value::number(-1), Value::number(number("amount")), port};
        if (n.kind == "remap" && port == "in" && settingOf(n, *def, "limit") != "on") {
            const float width = number("inhigh") - number("inlow");
            if (width == 0) return {};
            const float scale = (number("outhigh") - number("outlow")) / width;
            return Linear{Value::number(scale), Value::number(number("outlow") - scale * number("inlow")), port};
        }
        return {};
    };
    const auto at = [](const Value& v, int c) { return v.width == 1 ? v[0] : c < v.width ? v[c] : 0.f; };
    std::optional<Linear> all = linear(node);
    // From the last card of a chain alone.
    const auto readers = readersOf(node.id);
    if (!all || (readers.size() == 1 && !readers[0].first.empty() && linear(*m_master->graph.find(readers[0].first)))) return;
    std::vector<Id> cards{node.id};
    const Node* first = &node;
    for (;;) {
        const Source& wire = first->wires.begin()->second;
        const Node* before = m_master->graph.find(wire.node);
        const std::optional<Linear> its = before && wire.take.empty() && readersOf(before->id).size() == 1 ? linear(*before) : std::nullopt;
        if (!its) break;
        Linear both{{std::max(all->scale.width, its->scale.width), {}}, {1, {}}, its->port};
        both.offset.width = std::max({both.scale.width, all->offset.width, its->offset.width});
        for (int c = 0; c < both.scale.width; ++c) both.scale[c] = at(all->scale, c) * at(its->scale, c);
        for (int c = 0; c < both.offset.width; ++c) both.offset[c] = at(all->scale, c) * at(its->offset, c) + at(all->offset, c);
        all = both;
        first = before;
        cards.push_back(before->id);
    }
    if (cards.size() < 3) return;
    Node scale = makeNode("multiply", first->position), offset = makeNode("add", node.position);
    scale.constants["in2"] = all->scale;
    offset.constants["in2"] = all->offset;
    add("merge-chain", node.id, fmt::format("{} to {} as one factor and one summand", titleOf(*first), titleOf(node)),
        "They scale and move the value several times, which can be done at once.", node.id,
        [m = m_master->id, from = first->wires.begin()->second, last = node.id, cards, scale, offset](const Project& p) {
            Result<Project> next = edit::addNode(p, m, scale);
            if (next) next = edit::addNode(*next, m, offset);
            if (next) next = edit::connect(*next, m, from, scale.id, "in1");
            if (next) next = edit::connect(*next, m, {scale.id, "out", {}}, offset.id, "in1");
            if (next) next = edit::moveWires(*next, m, {last, "out", {}}, {offset.id, "out", {}});
            return next ? edit::removeNodes(*next, m, cards) : next;
        });
}

/// What reads the place of each pixel reads that of the whole object.
void Rules::perPlacement(const Node& node, const NodeDef& def) {
    if (m_cards[node.id].operations < kWorthLooking) return;
    for (const PortDef& in : def.inputs) {
        const std::string port(in.key);
        const auto wire = node.wires.find(port);
        const Node* from = wire == node.wires.end() ? nullptr : m_master->graph.find(wire->second.node);
        // Wired to where the pixel lies, or following the mesh with nothing wired.
        if (in.meaning != Meaning::Position || in.unwired == Unwired::Constant) continue;
        if (wire != node.wires.end() && (!from || from->kind != "position" || !wire->second.take.empty())) continue;
        const Point at = from ? from->position : Point{node.position.x - 190, node.position.y};
        Node origin = makeNode("transform_point", {at.x, at.y + 120});
        add("per-placement", node.id + "." + port, fmt::format("Compute {} once for each placement", titleOf(node)),
            "It reads where the object stands in the place of where each pixel lies: one value for all of it.", node.id,
            [m = m_master->id, id = node.id, port, origin](const Project& p) {
                const Result<Project> next = edit::addNode(p, m, origin);
                return next ? edit::connect(*next, m, {origin.id, "out", {}}, id, port) : next;
            });
    }
}

void Rules::choices() {
    for (const Parameter& p : m_master->parameters) {
        if (!p.isNamed() || p.build) continue;
        Parameter build = p;
        build.build = true;
        add("build-choice", p.id, fmt::format("{} as a build choice", p.name),
            "What is not chosen is not computed; each choice in use is a build.", {},
            [m = m_master->id, build](const Project& q) { return edit::changeParameter(q, m, build); });
    }
}

void Rules::surface() {
    SurfaceSettings s = m_master->surface;
    if (s.alphaMode != AlphaMode::Blend || s.decal) return;
    s.alphaMode = AlphaMode::Mask;
    add("cut-out", "alpha", "Cut out in the place of see-through",
        "Pixels behind each other are not shaded several times, and nothing has to be sorted.", {},
        [m = m_master->id, s](const Project& p) { return edit::setSurface(p, m, s); });
}

/// Channels whose wires bring nothing: one value all over, or where the channel has no effect.
void Rules::channels() {
    for (const auto& [key, wire] : m_master->graph.channelWires) {
        const ChannelDef* channel = findChannel(key);
        const auto from = m_cards.find(wire.node);
        if (!channel || from == m_cards.end()) continue;
        const Id master = m_master->id;
        const std::string name(channel->name);
        if (const std::optional<Inactive> idle = inactive(*m_resolved.master, key)) {
            add("drop-channel", key, fmt::format("Nothing wired to {}", name), fmt::format("It has no effect: {}.", idle->why), {},
                [master, key = key](const Project& p) { return edit::disconnectChannel(p, master, key); });
            continue;
        }
        if (from->second.rate != Rate::Pixel && !from->second.fetches) continue;
        const std::optional<Spread> spread = spreadOf(wire);
        if (!spread || !spread->constant()) continue;
        if (channel->meaning == Meaning::Normal) {
            // One direction all over the square is the mesh's own where it is the one that the square looks in.
            const Value& n = spread->mean;
            if (n.width != 3 || std::max({std::fabs(n[0]), std::fabs(n[1]), std::fabs(n[2])}) < 1 - kUnseen) continue;
            add("drop-channel", key, fmt::format("Nothing wired to {}", name), "It leaves the normal as the mesh has it.", {},
                [master, key = key](const Project& p) { return edit::disconnectChannel(p, master, key); });
        } else {
            add("drop-channel", key, fmt::format("One value for {}", name), "It is the same everywhere.", {},
                valueAt({}, key, spread->mean));
        }
    }
}

/// Layers of the surface whose weight is nothing everywhere.
void Rules::idleLayers() {
    static constexpr std::pair<Layer, std::string_view> kWeights[] = {
        {Layer::Coat, "clearcoat"},   {Layer::Sheen, "sheen_color"},     {Layer::Sheen, "sheen"},
        {Layer::Film, "iridescence"}, {Layer::Anisotropy, "anisotropy"}, {Layer::Transmission, "transmission"}};
    std::set<Layer> told;
    for (const auto& [layer, weight] : kWeights) {
        const ChannelDef* channel = findChannel(weight);
        if (!channel || !m_master->surface.has(layer) || told.contains(layer)) continue;
        const Graph& g = m_master->graph;
        const auto wire = g.channelWires.find(std::string(weight));
        Value most = channelConstant(g, weight);
        if (wire != g.channelWires.end()) {
            const std::optional<Spread> spread = spreadOf(wire->second);
            if (!spread) continue;
            most = spread->most;
        }
        bool none = true;
        for (int c = 0; c < most.width; ++c) none = none && most[c] < kUnseen;
        if (!none) continue;
        told.insert(layer);
        for (const LayerDef& def : layers())
            if (def.layer == layer) {
                SurfaceSettings s = m_master->surface;
                s.layers &= ~uint32_t(layer);
                add("idle-layer", std::string(def.key), fmt::format("No {}", def.name),
                    fmt::format("{} is 0 everywhere, and what is wired to the layer is computed all the same.", channel->name), {},
                    [m = m_master->id, s](const Project& p) { return edit::setSurface(p, m, s); });
            }
    }
}

} // namespace hue
