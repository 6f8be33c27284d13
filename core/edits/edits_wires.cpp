// Edits of wires, and of what hangs on them.
#include "core/document/wires.h"
#include "core/edits/edit_parts.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/catalogue.h"
#include "core/nodes/finish.h"
#include "core/surface/channels.h"

namespace hue::edit {

namespace {

Outcome checkSource(const Project& project, const Master& m, const Source& source, const Place& place) {
    const Node* from = m.graph.find(source.node);
    if (!from) return refuse("edit.no-card", "The card that the wire starts at is not on the board.", place);
    const NodeDef* def = nodeDefOf(project, *from);
    if (!def || !def->output(source.port))
        return refuse("edit.no-port", fmt::format("There is no output {} to wire from.", source.port), place);
    return Done{};
}

} // namespace

Result<Project> connect(const Project& project, const Id& master, const Source& source, const Id& id, const std::string& port) {
    return withMaster(project, master, [&](Master& m) -> Outcome {
        const Place place{master, id, port};
        if (Outcome o = checkSource(project, m, source, place); !o) return o;
        auto it = m.graph.nodes.find(id);
        if (it == m.graph.nodes.end()) return refuse("edit.no-card", "The card that the wire ends at is not on the board.", place);
        const NodeDef* def = nodeDefOf(project, *it->second);
        if (!def || !def->input(port)) return refuse("edit.no-port", fmt::format("There is no input {} to wire to.", port), place);
        if (leadsTo(m.graph, id, source.node)) {
            return refuse("graph.cycle",
                          source.node == id ? "A card cannot be wired to itself."
                                            : "This wire would close a loop: what it brings depends on the card that it leads to.",
                          place);
        }
        auto copy = std::make_shared<Node>(*it->second);
        copy->wires[port] = source;
        it->second = std::move(copy);
        return Done{};
    });
}

Result<Project> disconnect(const Project& project, const Id& master, const Id& id, const std::string& port) {
    return withNode(project, master, id, [&](Node& n) -> Outcome {
        n.wires.erase(port);
        return Done{};
    });
}

Result<Project> connectChannel(const Project& project, const Id& master, const Source& source, const std::string& channel) {
    return withSurface(project, master, [&](Master& m) -> Outcome {
        const ChannelDef* def = findChannel(channel);
        if (!def && channel != kWholeSurface) return refuse("edit.no-channel", fmt::format("The surface has no channel {}.", channel));
        if (Outcome o = checkSource(project, m, source, {master, {}, channel}); !o) return o;
        m.graph.channelWires[def ? std::string(def->key) : channel] = source;
        return Done{};
    });
}

Result<Project> putBetween(const Project& project, const Id& master, const Source& wire, const std::string& kind, const std::string& in,
                           const std::string& out, const Place& to) {
    const Master* board = project.board(master);
    const Node* source = board ? board->graph.find(wire.node) : nullptr;
    const Node node = makeNode(kind, source ? Point{source->position.x + 190, source->position.y} : Point{});
    const Source from{node.id, out, {}};
    return chain(project, {[&](const Project& p) { return addNode(p, master, node); },
                           [&](const Project& p) { return connect(p, master, wire, node.id, in); },
                           [&](const Project& p) {
                               return to.node.empty() ? connectChannel(p, master, from, to.port)
                                                      : connect(p, master, from, to.node, to.port);
                           }});
}

Result<Project> disconnectChannel(const Project& project, const Id& master, const std::string& channel) {
    return withMaster(project, master, [&](Master& m) -> Outcome {
        m.graph.channelWires.erase(channel);
        return Done{};
    });
}

/// The wire into a port, or into a channel when there is no card.
static Result<Project> withWire(const Project& project, const Id& master, const Id& id, const std::string& port,
                                const std::function<void(Source&)>& change) {
    auto find = [&](std::map<std::string, Source>& wires) -> Outcome {
        auto it = wires.find(port);
        if (it == wires.end()) return refuse("edit.no-wire", fmt::format("There is no wire into {}.", port), {master, id, port});
        change(it->second);
        return Done{};
    };
    if (id.empty()) return withMaster(project, master, [&](Master& m) { return find(m.graph.channelWires); });
    return withNode(project, master, id, [&](Node& n) { return find(n.wires); });
}

Result<Project> setTake(const Project& project, const Id& master, const Id& id, const std::string& port, const std::string& take) {
    if (!take.empty() && !widthOfTake(take, 4))
        return refuse("wire.take", fmt::format(".{} is no take. Use letters of rgba or xyzw, or luma.", take), {master, id, port});
    return withWire(project, master, id, port, [&](Source& wire) { wire.take = take; });
}

Result<Project> setPerVertex(const Project& project, const Id& master, const Id& id, const std::string& port, bool perVertex) {
    return withWire(project, master, id, port, [&](Source& wire) { wire.perVertex = perVertex; });
}

Result<Project> setUnderpass(const Project& project, const Id& master, const Id& id, const std::string& port, const std::string& name) {
    return withWire(project, master, id, port, [&](Source& wire) { wire.underpass = name; });
}

namespace {

/// An output, as its definition tells.
const PortDef* outputPort(const Project& project, const Graph& graph, const Source& source) {
    const Node* node = graph.find(source.node);
    const NodeDef* def = node ? nodeDefOf(project, *node) : nullptr;
    return def ? def->output(source.port) : nullptr;
}

bool bothCarry(const PortDef& a, const PortDef& b) { return a.takes(b.width) || b.takes(a.width); }

} // namespace

Result<Project> moveWires(const Project& project, const Id& master, const Source& from, const Source& to) {
    return withMaster(project, master, [&](Master& m) -> Outcome {
        const Place place{master, to.node, to.port};
        if (Outcome o = checkSource(project, m, from, {master, from.node, from.port}); !o) return o;
        if (Outcome o = checkSource(project, m, to, place); !o) return o;
        if (from.node == to.node && from.port == to.port) return Done{};
        const PortDef& now = *outputPort(project, m.graph, to);
        const int width = now.width;
        if (!bothCarry(*outputPort(project, m.graph, from), now))
            return refuse("wire.kind", "The two do not give the same: numbers, a map, or a finish; what reads one cannot read the other.",
                          place);
        const auto lead = [&](Source& wire) {
            wire.node = to.node, wire.port = to.port;
            // A take that the other cannot give is left out; the wire then brings all of it.
            if (width != kAnyWidth && !wire.take.empty() && !widthOfTake(wire.take, width)) wire.take.clear();
        };
        const auto starts = [&](const Source& wire) { return wire.node == from.node && wire.port == from.port; };
        for (auto& [id, node] : m.graph.nodes) {
            if (std::none_of(node->wires.begin(), node->wires.end(), [&](const auto& w) { return starts(w.second); })) continue;
            if (leadsTo(m.graph, id, to.node))
                return refuse(
                    "graph.cycle",
                    fmt::format("{} reads the first and feeds the second: its wire would close a loop.", cardTitle(project, m, *node)),
                    {master, id, {}});
            auto copy = std::make_shared<Node>(*node);
            for (auto& [port, wire] : copy->wires)
                if (starts(wire)) lead(wire);
            node = std::move(copy);
        }
        for (auto& [channel, wire] : m.graph.channelWires)
            if (starts(wire)) lead(wire);
        return Done{};
    });
}

Result<Project> swapInputs(const Project& project, const Id& master, const Id& id, const std::string& a, const std::string& b) {
    return withNode(project, master, id, [&](Node& n) -> Outcome {
        const NodeDef* def = nodeDefOf(project, n);
        const PortDef *first = def ? def->input(a) : nullptr, *second = def ? def->input(b) : nullptr;
        if (!first || !second) return refuse("edit.no-port", fmt::format("There is no input {} here.", first ? b : a), {master, id, a});
        if (!bothCarry(*first, *second))
            return refuse("wire.kind", fmt::format("{} and {} do not take the same: numbers, a map, or a finish.", a, b), {master, id, a});
        // What nothing is said of has its own default, which goes along as well.
        const auto value = [&](const PortDef& port) {
            return port.unwired == Unwired::Constant && carriesNumbers(port.width) ? std::optional(constantOf(n, port)) : std::nullopt;
        };
        const auto was = std::pair(value(*first), value(*second));
        const auto take = [](auto& map, const std::string& key) {
            auto it = map.find(key);
            auto taken = it == map.end() ? std::nullopt : std::optional(it->second);
            map.erase(key);
            return taken;
        };
        const auto wireA = take(n.wires, a), wireB = take(n.wires, b);
        if (wireA) n.wires[b] = *wireA;
        if (wireB) n.wires[a] = *wireB;
        if (was.first && was.second) n.constants[a] = *was.second, n.constants[b] = *was.first;
        return Done{};
    });
}

Result<Project> replaceNode(const Project& project, const Id& master, const Id& id, const Node& by, std::vector<std::string>* lost) {
    const NodeDef* def = nodeDefOf(project, by);
    if (!def) return refuse("node.unknown", fmt::format("There is no node {}.", by.kind), {master, id, {}});
    if (wouldHoldItself(project, master, assemblyOf(by))) return refuseToHoldItself(*def, {master, id, {}});
    return withMaster(project, master, [&](Master& m) -> Outcome {
        auto it = m.graph.nodes.find(id);
        if (it == m.graph.nodes.end()) return refuse("edit.no-card", "The card is not on the board any more.", {master, id, {}});
        const NodePtr before = it->second;
        const Node& old = *before;
        const NodeDef* oldDef = nodeDefOf(project, old);
        auto made = std::make_shared<Node>(old);
        made->kind = by.kind;
        made->constants.clear(), made->settings.clear(), made->wires.clear();
        const auto drop = [&](std::string what) {
            if (lost) lost->push_back(std::move(what));
        };
        made->settings = by.settings;
        for (const auto& [key, value] : old.settings) {
            if (key == kAssemblySetting) continue;
            const SettingDef* setting = def->setting(key);
            if (setting &&
                (setting->choices.empty() || std::find(setting->choices.begin(), setting->choices.end(), value) != setting->choices.end()))
                made->settings[key] = value;
        }
        // Wires keep their port where there is one of that name, and take the first free one of their kind elsewhere.
        const auto fits = [&](const PortDef& port, const std::string& oldKey) {
            const PortDef* was = oldDef ? oldDef->input(oldKey) : nullptr;
            return !was || bothCarry(*was, port);
        };
        std::vector<std::pair<std::string, Source>> homeless;
        for (const auto& [key, wire] : old.wires) {
            const PortDef* port = def->input(key);
            if (port && fits(*port, key)) made->wires[key] = wire;
            else homeless.emplace_back(key, wire);
        }
        // In the order of the old card's ports, so that the first stays the first.
        const auto placeOf = [&](const std::string& key) {
            size_t k = 0;
            while (oldDef && k < oldDef->inputs.size() && oldDef->inputs[k].key != key) ++k;
            return k;
        };
        std::sort(homeless.begin(), homeless.end(), [&](const auto& a, const auto& b) { return placeOf(a.first) < placeOf(b.first); });
        for (const auto& home : homeless) {
            const auto free = std::find_if(def->inputs.begin(), def->inputs.end(), [&](const PortDef& p) {
                return fits(p, home.first) && !made->wires.contains(std::string(p.key)) && p.unwired == Unwired::Constant &&
                       readsInput(*made, *def, p);
            });
            if (free == def->inputs.end()) drop("input " + home.first);
            else made->wires[std::string(free->key)] = home.second;
        }
        for (const auto& [key, value] : old.constants)
            if (const PortDef* port = def->input(key);
                port && port->unwired == Unwired::Constant && (port->width == kAnyWidth || value.width == 1 || port->width == value.width))
                made->constants[key] = value;
        // What reads it goes on with the output of that name, or the first of its kind.
        const auto outputFor = [&](const std::string& key) -> std::optional<std::string> {
            const PortDef* was = oldDef ? oldDef->output(key) : nullptr;
            const auto same = [&](const PortDef& p) { return !was || bothCarry(*was, p); };
            if (const PortDef* port = def->output(key); port && same(*port)) return key;
            const auto first = std::find_if(def->outputs.begin(), def->outputs.end(), same);
            return first == def->outputs.end() ? std::nullopt : std::optional(std::string(first->key));
        };
        it->second = std::move(made);
        const auto follow = [&](std::map<std::string, Source>& wires, const std::string& who) {
            for (auto w = wires.begin(); w != wires.end();) {
                const std::optional<std::string> now = w->second.node == id ? outputFor(w->second.port) : std::optional(w->second.port);
                if (now) w->second.port = *now, ++w;
                else drop("the wire to " + who), w = wires.erase(w);
            }
        };
        for (auto& [other, node] : m.graph.nodes) {
            if (std::none_of(node->wires.begin(), node->wires.end(), [&](const auto& w) { return w.second.node == id; })) continue;
            auto copy = std::make_shared<Node>(*node);
            follow(copy->wires, cardTitle(project, m, *copy));
            node = std::move(copy);
        }
        follow(m.graph.channelWires, "the surface");
        return Done{};
    });
}

} // namespace hue::edit
