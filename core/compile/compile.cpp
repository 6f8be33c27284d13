#include "core/compile/compile.h"

#include "core/compile/passes.h"
#include "core/document/edits.h"
#include "core/surface/channels.h"

#include <algorithm>
#include <cassert>
#include <fmt/format.h>
#include <optional>

namespace hue {

int widthOfTake(std::string_view take, int sourceWidth) {
    if (take.empty()) return sourceWidth;
    if (take == "luma") return sourceWidth >= 3 ? 1 : 0;
    if (take.size() > 4) return 0;
    for (char c : take) {
        const size_t at = std::string_view("rgbaxyzw").find(c);
        if (at == std::string_view::npos || int(at % 4) >= sourceWidth) return 0;
    }
    return int(take.size());
}

bool leadsTo(const Graph& graph, const Id& from, const Id& to) {
    // Walks against the wires, from `to` back to its sources.
    std::vector<Id> open{to};
    std::map<Id, bool> seen;
    while (!open.empty()) {
        const Id at = open.back();
        open.pop_back();
        if (at == from) return true;
        if (std::exchange(seen[at], true)) continue;
        if (const Node* node = graph.find(at))
            for (const auto& [port, wire] : node->wires) open.push_back(wire.node);
    }
    return false;
}

namespace {

/// What a wire brings: a value of the Program, or a map.
struct Brought {
    Val value;
    int slot = -1;
    Meaning meaning = Meaning::Any;
    bool exists = false;
};

std::string widthText(int width) {
    static constexpr std::string_view texts[] = {"a map", "any width", "one number", "2 components", "3 components", "4 components"};
    return std::string(texts[std::clamp(width + 1, 0, 5)]);
}

class GraphCompiler {
  public:
    GraphCompiler(const Project& project, const Master& master, Constants constants = Constants::Folded)
        : m_project(project),
          m_master(master),
          m_graph(master.graph),
          m_constants(constants),
          m_program(std::make_shared<Program>()),
          m_builder(*m_program) {
        for (const auto& [id, node] : m_graph.nodes) {
            m_origins[id] = int32_t(m_program->origins.size());
            m_program->origins.push_back(id);
        }
        m_shifts.push_back({});
    }

    Compilation surface() {
        lowerInOrder(reachableFromChannels());
        for (const ChannelDef& channel : channels()) {
            Val value = channelValue(channel);
            m_program->outputs.push_back({std::string(channel.key), value.id});
        }
        return finish();
    }

    Compilation taps() {
        std::vector<Id> all;
        for (const auto& [id, node] : m_graph.nodes) all.push_back(id);
        lowerInOrder(all);
        for (const auto& [key, brought] : m_outputs)
            if (brought.value && std::get<0>(key) == 0)
                m_program->outputs.push_back({std::get<1>(key) + "." + std::get<2>(key), brought.value.id});
        for (const ChannelDef& channel : channels())
            m_program->outputs.push_back({"channel." + std::string(channel.key), channelValue(channel).id});
        return finish();
    }

    Compilation tap(const Source& wire) {
        lowerInOrder({wire.node});
        const Brought brought = follow(wire, {}, wire.node, wire.port);
        m_program->outputs.push_back({"tap", (brought.value ? brought.value : m_builder.number(0)).id});
        return finish();
    }

  private:
    friend class NodeLowering;

    void report(Severity severity, std::string code, Place place, std::string sentence, std::vector<Fix> fixes = {}) {
        place.master = m_master.id;
        // The same node may be lowered at several UVs; one report is enough.
        for (const Diagnostic& d : m_out.diagnostics)
            if (d.code == code && d.place == place) return;
        if (severity == Severity::Error) m_out.ok = false;
        m_out.diagnostics.push_back({severity, std::move(code), std::move(place), std::move(sentence), std::move(fixes)});
    }

    std::string titleOf(const Id& id) const {
        const Node* node = m_graph.find(id);
        if (!node) return "a missing card";
        if (!node->title.empty()) return node->title;
        if (node->kind == "parameter")
            if (auto it = node->settings.find("parameter"); it != node->settings.end())
                if (const Parameter* p = m_master.parameter(it->second)) return p->name;
        const NodeDef* def = findNodeDef(node->kind);
        return def ? std::string(def->name) : node->kind;
    }

    std::vector<Id> reachableFromChannels() const {
        std::vector<Id> roots;
        for (const auto& [channel, wire] : m_graph.channelWires)
            if (std::find(m_graph.mutedChannels.begin(), m_graph.mutedChannels.end(), channel) == m_graph.mutedChannels.end())
                roots.push_back(wire.node);
        return roots;
    }

    /// Lowers the roots and all that they depend on, sources first and without recursion. Finds cycles.
    void lowerInOrder(const std::vector<Id>& roots) {
        enum class State { Open, Done };
        std::map<Id, State> states;
        for (const Id& root : roots) {
            std::vector<std::pair<Id, bool>> stack{{root, false}};
            while (!stack.empty()) {
                auto [id, sourcesDone] = stack.back();
                stack.pop_back();
                const Node* node = m_graph.find(id);
                if (!node) continue;
                if (sourcesDone) {
                    states[id] = State::Done;
                    lowerNode(*node, 0);
                    continue;
                }
                if (states.contains(id)) continue;
                states[id] = State::Open;
                stack.emplace_back(id, true);
                for (const auto& [port, wire] : node->wires) {
                    auto it = states.find(wire.node);
                    if (it == states.end()) {
                        stack.emplace_back(wire.node, false);
                    } else if (it->second == State::Open && leadsTo(m_graph, id, wire.node)) {
                        const Id master = m_master.id;
                        report(Severity::Error, "graph.cycle", {{}, id, port},
                               fmt::format("{} depends on itself through its input {}. Cut one wire of the loop.", titleOf(id), port),
                               {{"Cut this wire",
                                 [master, id = id, port = port](const Project& p) { return edit::disconnect(p, master, id, port); }}});
                    }
                }
            }
        }
    }

    const Brought* outputOf(const Id& node, const std::string& port, int shift) {
        auto it = m_outputs.find({shift, node, port});
        return it == m_outputs.end() ? nullptr : &it->second;
    }

    /// What a wire brings to a port, after its take. `exists` is false, and reported, when it brings nothing usable.
    Brought follow(const Source& wire, const Id& toNode, const Id& placeNode, const std::string& placePort, int shift = 0) {
        const Place place{{}, toNode.empty() ? Id{} : placeNode, placePort};
        const Node* source = m_graph.find(wire.node);
        if (!source) {
            report(Severity::Error, "wire.no-source", place,
                   fmt::format("The wire into {} starts at a card that is not there. Wire it anew.", placePort));
            return {};
        }
        if (shift && !m_lowered.contains({shift, wire.node})) lowerNode(*source, shift);
        const Brought* found = outputOf(wire.node, wire.port, shift);
        if (!found) {
            // A card that has already been reported needs no second sentence.
            if (!m_broken.contains(wire.node) && m_lowered.contains({shift, wire.node}))
                report(Severity::Error, "wire.no-port", place,
                       fmt::format("{} has no output {} here, which the wire into {} wants. Choose another output.", titleOf(wire.node),
                                   wire.port, placePort));
            return {};
        }
        Brought brought = *found;
        brought.exists = true;
        if (brought.slot >= 0 || wire.take.empty()) return brought;
        const int width = m_builder.width(brought.value);
        if (!widthOfTake(wire.take, width)) {
            report(Severity::Error, "wire.take", place,
                   fmt::format("The take .{} of the wire into {} asks for a component that {} ({}) does not have.", wire.take, placePort,
                               titleOf(wire.node), widthText(width)));
            return {};
        }
        if (wire.take == "luma") {
            brought.value = m_builder.luminance(brought.value);
        } else {
            Val parts[4];
            int n = 0;
            for (char c : wire.take) parts[n++] = m_builder.component(brought.value, int(std::string_view("rgbaxyzw").find(c) % 4));
            if (n == 1) brought.value = parts[0];
            else if (n == 2) brought.value = m_builder.compose({parts[0], parts[1]});
            else if (n == 3) brought.value = m_builder.compose({parts[0], parts[1], parts[2]});
            else brought.value = m_builder.compose({parts[0], parts[1], parts[2], parts[3]});
        }
        if (wire.take.size() == 1 || wire.take == "luma") brought.meaning = Meaning::Number;
        return brought;
    }

    std::vector<Fix> takeFixes(const Id& node, const std::string& port, int from) {
        std::vector<Fix> fixes;
        const Id master = m_master.id;
        static constexpr std::string_view letters[] = {"r", "g", "b", "a"};
        for (int i = 0; i < from; ++i) {
            const std::string take(letters[i]);
            fixes.push_back({"Take ." + take, [=](const Project& p) { return edit::setTake(p, master, node, port, take); }});
        }
        if (from >= 3) fixes.push_back({"Take .luma", [=](const Project& p) { return edit::setTake(p, master, node, port, "luma"); }});
        return fixes;
    }

    /// Fits a value to a width, or reports and returns nothing.
    Val fit(Val value, int width, const Id& node, const std::string& port, const std::string& receiver) {
        const int from = m_builder.width(value);
        if (from == width) return value;
        if (from == 1) return m_builder.spread(value, width);
        const Place place{{}, node, port};
        if (width == 1) {
            report(Severity::Error, "wire.needs-take", place,
                   fmt::format("{} takes one number and the wire brings {}. Choose a component, or .luma for its brightness.", receiver,
                               widthText(from)),
                   takeFixes(node, port, from));
        } else {
            std::vector<Fix> fixes;
            if (from > width) {
                const std::string take = std::string("rgba").substr(0, width);
                const Id master = m_master.id;
                fixes.push_back({"Take ." + take, [=](const Project& p) { return edit::setTake(p, master, node, port, take); }});
            }
            report(Severity::Error, "wire.width", place,
                   fmt::format("{} takes {} and the wire brings {}. Take the components that are wanted, or combine the missing ones.",
                               receiver, widthText(width), widthText(from)),
                   std::move(fixes));
        }
        return {};
    }

    Val channelValue(const ChannelDef& channel) {
        const std::string key(channel.key);
        const bool muted = std::find(m_graph.mutedChannels.begin(), m_graph.mutedChannels.end(), key) != m_graph.mutedChannels.end();
        m_builder.setOrigin(-1);
        if (auto it = m_graph.channelWires.find(key); it != m_graph.channelWires.end() && !muted) {
            const Brought brought = follow(it->second, {}, {}, key);
            if (brought.value) {
                if (channel.meaning == Meaning::Normal) checkNormalChannel(it->second, brought);
                if (Val fitted = fit(brought.value, channel.width, {}, key, fmt::format("The channel {}", channel.name))) return fitted;
            } else if (brought.exists) {
                report(
                    Severity::Error, "wire.map-to-number", {{}, {}, key},
                    fmt::format("The channel {} takes numbers and the wire brings a map. Read the map with an Image card.", channel.name));
            }
        }
        if (channel.meaning == Meaning::Normal) return m_builder.attribute(Attribute::NormalWorld);
        if (m_constants == Constants::Live && !muted) return m_builder.parameter(liveConstantName({}, key), channel.width);
        if (auto it = m_graph.channelConstants.find(key); it != m_graph.channelConstants.end() && !muted)
            return m_builder.constant({channel.width, it->second.v});
        return m_builder.constant(channel.standard);
    }

    void checkNormalChannel(const Source& wire, const Brought& brought) {
        if (brought.meaning == Meaning::Normal || m_builder.width(brought.value) != 3) return;
        const Id master = m_master.id;
        report(Severity::Caution, "normal.not-a-normal", {{}, {}, "normal"},
               fmt::format("The normal channel takes a world-space normal and {} gives a {}. Put a Normal map card between.",
                           titleOf(wire.node), nameOf(brought.meaning)),
               {{"Put a Normal map between", [master, wire](const Project& p) {
                     const Node* source = p.master(master) ? p.master(master)->graph.find(wire.node) : nullptr;
                     Node node = makeNode("normal_map", source ? Point{source->position.x + 190, source->position.y} : Point{});
                     const Id id = node.id;
                     return edit::chain(p, {[=](const Project& q) { return edit::addNode(q, master, node); },
                                            [=](const Project& q) { return edit::connect(q, master, wire, id, "in"); },
                                            [=](const Project& q) {
                                                return edit::connectChannel(q, master, {id, "out", ""}, "normal");
                                            }});
                 }}});
    }

    void lowerNode(const Node& node, int shift);
    int addShift(int base, Val offset);

    Compilation finish() {
        for (const auto& [key, brought] : m_outputs) {
            const auto& [shift, node, port] = key;
            if (shift) continue;
            PortInfo info;
            info.meaning = brought.meaning;
            info.width = brought.slot >= 0 ? kMapPort : m_builder.width(brought.value);
            m_out.ports[{node, port}] = info;
        }
        // Rates of ports are read before anything is folded, so that they speak of the graph as drawn.
        assignRates(*m_program);
        for (const auto& [key, brought] : m_outputs)
            if (std::get<0>(key) == 0 && brought.value)
                m_out.ports[{std::get<1>(key), std::get<2>(key)}].rate = m_program->code[brought.value.id].rate;
        optimise(*m_program);
        assert(validate(*m_program).empty());
        for (const Instruction& i : m_program->code) {
            if (i.origin < 0) continue;
            CardCost& cost = m_out.cards[m_program->origins[i.origin]];
            const OpInfo& info = infoOf(i.op);
            cost.operations += info.elementwise ? info.cost * i.width : info.cost * (i.op == Op::Fractal2 ? int(i.imm) : 1);
            cost.fetches += i.op == Op::Sample;
            cost.rate = std::max(cost.rate, i.rate);
        }
        m_out.program = m_program;
        return std::move(m_out);
    }

    const Project& m_project;
    const Master& m_master;
    const Graph& m_graph;
    const Constants m_constants;
    std::shared_ptr<Program> m_program;
    Builder m_builder;
    Compilation m_out;
    std::map<Id, int32_t> m_origins;
    std::map<std::tuple<int, Id, std::string>, Brought> m_outputs;
    std::map<std::pair<int, Id>, bool> m_lowered;
    std::map<Id, bool> m_broken;
    std::vector<Val> m_shifts; ///< UV offset in force; 0 is none
    int m_depth = 0;
};

class NodeLowering final : public Lowering {
  public:
    NodeLowering(GraphCompiler& c, const Node& node, const NodeDef& def, int shift)
        : Lowering(c.m_builder), m_c(c), m_node(node), m_def(def), m_shift(shift) {
        findWidth();
    }

    bool broken() const { return m_broken; }

    Val in(std::string_view port) override { return inAt(port, m_shift); }

    Val inAtShiftedUv(std::string_view port, Val offset) override {
        const Val value = inAt(port, m_c.addShift(m_shift, offset));
        b.setOrigin(m_c.m_origins[m_node.id]);
        return value;
    }

    Val uv(int set) override {
        const Val plain = b.attribute(set ? Attribute::Uv1 : Attribute::Uv0);
        return m_shift ? b.add(plain, m_c.m_shifts[m_shift]) : plain;
    }

    bool wired(std::string_view port) const override { return m_node.wires.contains(std::string(port)); }

    int mapSlot(std::string_view port) override {
        if (auto it = m_node.wires.find(std::string(port)); it != m_node.wires.end()) {
            const Brought brought = m_c.follow(it->second, m_node.id, m_node.id, std::string(port), m_shift);
            if (brought.slot >= 0) return brought.slot;
            if (brought.exists) {
                m_c.report(
                    Severity::Error, "wire.number-to-map", {{}, m_node.id, std::string(port)},
                    fmt::format("{}'s input {} takes a map and the wire brings numbers. Wire a map parameter, or choose a map on the card.",
                                m_c.titleOf(m_node.id), port));
            }
            m_broken = true;
            return -1;
        }
        const Id id(setting(port));
        if (const MapFile* map = m_c.m_project.map(id)) return b.mapSlot({{}, id, map->kind});
        m_c.report(Severity::Caution, "image.no-map", {{}, m_node.id, std::string(port)},
                   id.empty() ? fmt::format("{} has no map and shows white. Choose one on the card, or wire a map parameter.",
                                            m_c.titleOf(m_node.id))
                              : fmt::format("{} asks for a map that the project does not have and shows white. Choose another on the card.",
                                            m_c.titleOf(m_node.id)));
        return b.mapSlot({{}, {}, MapKind::Data});
    }

    int mapBehind(std::string_view port) override {
        const Val value = in(port);
        std::vector<int32_t> open{value.id};
        std::map<int32_t, bool> seen;
        while (!open.empty()) {
            const int32_t at = open.back();
            open.pop_back();
            if (std::exchange(seen[at], true)) continue;
            const Instruction& i = m_c.m_program->code[at];
            if (i.op == Op::Sample) return int(i.imm);
            for (int a = 0; a < i.operands; ++a) open.push_back(i.args[a]);
        }
        return -1;
    }

    std::string_view setting(std::string_view key) const override { return settingOf(m_node, m_def, key); }

    const Parameter* parameter() const override {
        const Id id(setting("parameter"));
        const Parameter* p = m_c.m_master.parameter(id);
        if (!p) {
            m_c.report(Severity::Error, "parameter.missing", {{}, m_node.id, "out"},
                       "This card stands for a parameter that the master does not have. Delete the card, or choose a parameter.");
            m_broken = true;
        }
        return p;
    }

    void out(std::string_view port, Val value) override {
        const PortDef* def = m_def.output(port);
        Meaning meaning = def->meaning;
        if (meaning == Meaning::Any) meaning = m_meaning;
        // Three constant numbers are a color as a rule; so they are shown and typed.
        if (m_node.kind == "constant" && b.width(value) == 3) meaning = Meaning::Color;
        if (m_node.kind == "image" && port == "color") meaning = mapMeaning(value);
        if (m_node.kind == "parameter")
            if (const Parameter* p = parameter())
                meaning = p->type == ParameterType::Color    ? Meaning::Color
                          : p->type == ParameterType::Number ? Meaning::Number
                                                             : Meaning::Vector;
        if (b.width(value) == 1) meaning = Meaning::Number;
        m_c.m_outputs[{m_shift, m_node.id, std::string(port)}] = {value, -1, meaning, true};
    }

    void outMap(std::string_view port, int slot) override {
        m_c.m_outputs[{m_shift, m_node.id, std::string(port)}] = {{}, slot, Meaning::Any, true};
    }

    /// A muted card hands on its first input that fits.
    void passThrough() {
        for (const PortDef& output : m_def.outputs) {
            Val passed;
            for (const PortDef& input : m_def.inputs) {
                if (input.width == kMapPort) continue;
                const Val value = in(input.key);
                if (output.width == kAnyWidth || b.width(value) == output.width || b.width(value) == 1) {
                    passed = output.width > 0 ? b.spread(value, output.width) : value;
                    break;
                }
            }
            out(output.key, passed ? passed : b.constant({std::max(1, output.width), {}}));
        }
    }

    void standIn() {
        for (const PortDef& output : m_def.outputs)
            if (!m_c.m_outputs.contains({m_shift, m_node.id, std::string(output.key)}) && output.width != kMapPort &&
                m_node.kind != "separate")
                out(output.key, b.constant({output.width > 0 ? output.width : m_width, {}}));
    }

  private:
    Meaning mapMeaning(Val rgb) const {
        const Instruction& take = m_c.m_program->code[rgb.id];
        const Instruction& sample = m_c.m_program->code[take.args[0]];
        if (sample.op != Op::Sample) return Meaning::Color;
        return m_c.m_program->maps[sample.imm].kind == MapKind::Color ? Meaning::Color : Meaning::Vector;
    }

    /// The width that all ports of any width share.
    void findWidth() {
        std::string_view widestPort;
        for (const PortDef& port : m_def.inputs) {
            if (port.width != kAnyWidth) continue;
            const std::string key(port.key);
            auto wire = m_node.wires.find(key);
            if (wire == m_node.wires.end()) continue;
            const Brought brought = m_c.follow(wire->second, m_node.id, m_node.id, key, m_shift);
            if (!brought.value) {
                if (brought.exists)
                    m_c.report(Severity::Error, "wire.map-to-number", {{}, m_node.id, key},
                               fmt::format("{}'s input {} takes numbers and the wire brings a map. Read the map with an Image card.",
                                           m_c.titleOf(m_node.id), key));
                m_broken = true;
                continue;
            }
            const int width = b.width(brought.value);
            if (m_meaning == Meaning::Normal && brought.meaning == Meaning::Normal && (m_node.kind == "add" || m_node.kind == "multiply"))
                m_c.report(Severity::Caution, "normal.added", {{}, m_node.id, key},
                           fmt::format("{} joins two normals as if they were numbers, which flattens both. Combine their heights before "
                                       "Height to normal instead.",
                                       m_c.titleOf(m_node.id)));
            if (m_meaning == Meaning::Any) m_meaning = brought.meaning;
            if (width > 1 && m_width > 1 && width != m_width) {
                std::vector<Fix> fixes;
                const Id master = m_c.m_master.id, node = m_node.id;
                if (width > m_width) {
                    const std::string take = std::string("rgba").substr(0, m_width);
                    fixes.push_back({"Take ." + take, [=](const Project& p) { return edit::setTake(p, master, node, key, take); }});
                }
                m_c.report(Severity::Error, "wire.width", {{}, m_node.id, key},
                           fmt::format("{} gets {} at {} and {} at {}; both must be the same. Take the components that are wanted.",
                                       m_c.titleOf(m_node.id), widthText(m_width), widestPort, widthText(width), key),
                           std::move(fixes));
                m_broken = true;
            } else if (width > m_width) {
                m_width = width;
                widestPort = port.key;
            }
        }
        if (m_width > 1) return;
        for (const PortDef& port : m_def.inputs)
            if (port.width == kAnyWidth && !m_node.wires.contains(std::string(port.key)))
                m_width = std::max(m_width, constantOf(m_node, port).width);
    }

    Val inAt(std::string_view portKey, int shift) {
        const PortDef& port = *m_def.input(portKey);
        const std::string key(portKey);
        const int width = port.width == kAnyWidth ? m_width : port.width;
        if (auto it = m_node.wires.find(key); it != m_node.wires.end()) {
            const Brought brought = m_c.follow(it->second, m_node.id, m_node.id, key, shift);
            b.setOrigin(m_c.m_origins[m_node.id]);
            if (brought.value) {
                // Numbers stay narrow at ports of any width; operations spread them.
                if (port.width == kAnyWidth && b.width(brought.value) == 1) return brought.value;
                if (Val fitted = m_c.fit(brought.value, width, m_node.id, key, fmt::format("{}'s input {}", m_c.titleOf(m_node.id), key)))
                    return fitted;
            } else if (brought.exists) {
                m_c.report(Severity::Error, "wire.map-to-number", {{}, m_node.id, key},
                           fmt::format("{}'s input {} takes numbers and the wire brings a map. Read the map with an Image card.",
                                       m_c.titleOf(m_node.id), key));
            }
            m_broken = true;
        } else if (port.unwired == Unwired::Uv) {
            const Val plain = b.attribute(Attribute::Uv0);
            return shift ? b.add(plain, m_c.m_shifts[shift]) : plain;
        } else if (port.unwired == Unwired::NormalWorld) {
            return b.attribute(Attribute::NormalWorld);
        }
        Value value = constantOf(m_node, port);
        if (value.width == 1 && width > 1 && port.width != kAnyWidth) value = {width, {value[0], value[0], value[0], value[0]}};
        else if (value.width != 1 || port.width != kAnyWidth) value.width = width;
        if (m_c.m_constants == Constants::Live)
            return b.spread(b.parameter(liveConstantName(m_node.id, key), constantOf(m_node, port).width == 1 ? 1 : value.width),
                            port.width == kAnyWidth ? 1 : width);
        return b.constant(value);
    }

    GraphCompiler& m_c;
    const Node& m_node;
    const NodeDef& m_def;
    const int m_shift;
    int m_width = 1;
    Meaning m_meaning = Meaning::Any;
    mutable bool m_broken = false;
};

int GraphCompiler::addShift(int base, Val offset) {
    m_shifts.push_back(base ? m_builder.add(m_shifts[base], offset) : offset);
    return int(m_shifts.size()) - 1;
}

void GraphCompiler::lowerNode(const Node& node, int shift) {
    if (std::exchange(m_lowered[{shift, node.id}], true)) return;
    const NodeDef* def = findNodeDef(node.kind);
    if (!def) {
        report(
            Severity::Error, "node.unknown", {{}, node.id, {}},
            fmt::format(
                "This version does not know the node {}. Its card is kept; delete it, or open the project with the version that made it.",
                node.kind));
        m_broken[node.id] = true;
        return;
    }
    // Nested derivatives of derivatives multiply the work; past this depth they are surely a mistake.
    constexpr int kDeepest = 1500;
    if (m_depth > kDeepest || m_shifts.size() > 4096) {
        report(Severity::Error, "graph.too-deep", {{}, node.id, {}},
               fmt::format("{} lies too deep under cards that read it at several UVs. Bake a part of it to a map.", titleOf(node.id)));
        m_broken[node.id] = true;
        return;
    }
    ++m_depth;
    m_builder.setOrigin(m_origins[node.id]);
    NodeLowering lowering(*this, node, *def, shift);
    m_builder.setOrigin(m_origins[node.id]);
    if (node.muted && !def->inputs.empty()) lowering.passThrough();
    else if (!lowering.broken()) def->lower(lowering);
    if (lowering.broken()) {
        m_broken[node.id] = true;
        lowering.standIn();
    }
    --m_depth;
}

} // namespace

Compilation compileSurface(const Project& project, const Master& master, Constants constants) {
    return GraphCompiler(project, master, constants).surface();
}
Compilation compileTaps(const Project& project, const Master& master, Constants constants) {
    return GraphCompiler(project, master, constants).taps();
}
Compilation compileTap(const Project& project, const Master& master, const Source& wire) {
    return GraphCompiler(project, master).tap(wire);
}

} // namespace hue
