// How one card becomes operations: widths of its ports, its inputs, and what its definition makes of them.
#include "core/base/diagnostic.h"
#include "core/compile/graph_compiler.h"
#include "core/document/drawn.h"
#include "core/document/parameter_kinds.h"

#include <set>

namespace hue {

class NodeLowering final : public Lowering {
  public:
    NodeLowering(GraphCompiler& c, const Node& node, const NodeDef& def, int shift)
        : Lowering(c.m_builder), m_c(c), m_node(node), m_def(def), m_shift(shift) {
        findWidth();
    }

    bool broken() const { return m_broken; }

    /// Of an input, for people.
    Place placeOf(std::string_view port) const { return m_c.placeOf(m_node.id, std::string(port)); }
    std::string titleAt(const Place& place) const { return m_c.titleOf(place.node); }

    Val in(std::string_view port) override { return inAt(port, m_shift); }

    Val inAtShiftedUv(std::string_view port, Val offset) override {
        const Val value = inAt(port, m_c.addShift(m_shift, offset));
        b.setOrigin(m_c.m_origins[m_node.id]);
        return value;
    }

    Val uv(int set) override {
        if (set == 0) return uvAt(m_shift);
        const Val plain = b.attribute(Attribute::Uv1);
        return m_shift ? b.add(plain, m_c.m_shifts[m_shift]) : plain;
    }

    bool wired(std::string_view port) const override { return m_node.wires.contains(std::string(port)); }

    Val mappedNormal() override {
        if (const Source* wire = m_c.mappedNormalOf(m_node)) {
            Brought brought = m_c.follow(*wire, m_node.id, m_node.id, "out", m_shift);
            b.setOrigin(m_c.m_origins[m_node.id]);
            if (brought.finish) brought.value = brought.finish->part("normal");
            if (brought.value && b.width(brought.value) == 3) return brought.value;
        }
        return b.attribute(Attribute::NormalWorld);
    }

    int mapSlot(std::string_view port) override { return m_slot = slotAt(port); }

    int slotAt(std::string_view port) {
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
        if (isDrawn(id)) return b.mapSlot({{}, id, MapKind::Data});
        m_c.report(Severity::Caution, "image.no-map", {{}, m_node.id, std::string(port)},
                   id.empty() ? fmt::format("{} has no map and shows white. Choose one on the card, or wire a map parameter.",
                                            m_c.titleOf(m_node.id))
                              : fmt::format("{} asks for a map that the project does not have and shows white. Choose another on the card.",
                                            m_c.titleOf(m_node.id)));
        return b.mapSlot({{}, {}, MapKind::Data});
    }

    Val texelStep(std::string_view port) override {
        const Reading here = readingBehind(in(port));
        // Without a map there is no texel: a 1024th is finer than most details.
        if (here.slot < 0) return b.constant(Value::vec2(1 / 1024.f, 1 / 1024.f));
        return stepOf(here.slot, here.uv, [&](Val offset) { return readingBehind(inAtShiftedUv(port, offset)).uv; });
    }

    Val texelStep(int slot, std::string_view uvPort) override {
        return stepOf(slot, in(uvPort), [&](Val offset) { return inAtShiftedUv(uvPort, offset); });
    }

    bool followsUv(std::string_view port) override {
        bool found = false;
        m_c.walk(in(port), [&](const Instruction& i) {
            found = found || (i.op == Op::Attribute && Attribute(i.imm) == Attribute::Uv0);
            return !found;
        });
        return found;
    }

    bool bringsFinish(std::string_view port) override {
        const auto wire = m_node.wires.find(std::string(port));
        return wire != m_node.wires.end() && m_c.follow(wire->second, m_node.id, m_node.id, std::string(port), m_shift).finish;
    }

    Finish finish(std::string_view portKey) override {
        const std::string port(portKey);
        const Place place = placeOf(port);
        if (const auto wire = m_node.wires.find(port); wire != m_node.wires.end()) {
            const Brought brought = m_c.follow(wire->second, m_node.id, place.node, place.port, m_shift);
            b.setOrigin(m_c.m_origins[m_node.id]);
            if (brought.finish) return *brought.finish;
            if (brought.exists) m_c.reportNoFinish(place, fmt::format("{}'s input {}", titleAt(place), place.port), wire->second);
            m_broken = true;
        } else {
            m_c.report(Severity::Caution, "finish.unwired", place,
                       fmt::format("{}'s input {} takes a finish and has none, so a plain grey stands there. Wire one.", titleAt(place),
                                   place.port));
        }
        return plainFinish(b);
    }

    Finish wornFinish() override {
        const auto surface = m_c.m_opened.surfaces.find(m_node.id);
        if (surface == m_c.m_opened.surfaces.end()) return plainFinish(b);
        const Finish out = m_c.finishOfSurface(surface->first, surface->second, m_shift);
        b.setOrigin(m_c.m_origins[m_node.id]);
        return out;
    }

    void outFinish(std::string_view port, Finish value) override {
        // Its color is what is seen of it.
        m_c.m_outputs[{m_shift, m_node.id, std::string(port)}] = {
            {}, -1, Meaning::Color, true, std::make_shared<const Finish>(std::move(value))};
    }

    void caution(std::string_view code, std::string_view port, const std::string& sentence) override {
        m_c.report(Severity::Caution, std::string(code), {{}, m_node.id, std::string(port)},
                   fmt::format("{} {}", m_c.titleOf(m_node.id), sentence));
    }

    void fail(std::string_view code, std::string_view port, const std::string& sentence) override {
        m_c.report(Severity::Error, std::string(code), {{}, m_node.id, std::string(port)},
                   fmt::format("{} {}", m_c.titleOf(m_node.id), sentence));
        m_broken = true;
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
        // What a map gives is a color where the map is one.
        if (m_slot >= 0 && port == "color") switch (m_c.m_program->maps[size_t(m_slot)].kind) {
            case MapKind::Color: meaning = Meaning::Color; break;
            case MapKind::Normal: meaning = Meaning::EncodedNormal; break;
            default: meaning = Meaning::Vector; break;
            }
        if (m_node.kind == "parameter")
            if (const Parameter* p = parameter()) meaning = kindOf(p->type).meaning;
        // An input of an assembly that asks for no meaning hands on that of the wire.
        if (meaning == Meaning::Vector && m_handed != Meaning::Any) meaning = m_handed;
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
            std::optional<Finish> whole;
            for (const PortDef& input : m_def.inputs)
                if (!whole && (input.width == kFinishPort || bringsFinish(input.key))) whole = finish(input.key);
            if (output.width == kFinishPort || (output.width == kAnyWidth && whole)) {
                outFinish(output.key, whole ? *whole : plainFinish(b));
                continue;
            }
            if (const ChannelDef* part = whole ? findFinishPart(output.key) : nullptr) {
                const Val own = whole->part(part->key);
                out(output.key, own ? own : b.constant(part->standard));
                continue;
            }
            for (const PortDef& input : m_def.inputs) {
                if (!carriesNumbers(input.width)) continue;
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
            if (!m_c.m_outputs.contains({m_shift, m_node.id, std::string(output.key)})) {
                if (output.width == kFinishPort) outFinish(output.key, plainFinish(b));
                else if (output.width != kMapPort && m_node.kind != "separate")
                    out(output.key, b.constant({output.width > 0 ? output.width : m_width, {}}));
            }
    }

  private:
    struct Reading {
        int slot = -1;
        Val uv; ///< the smooth one, of readings whose UVs jump
    };
    Reading readingBehind(Val value) const {
        Reading out;
        Val frames;
        m_c.walk(value, [&](const Instruction& i) {
            if (!isFetch(i.op)) return true;
            // A level that is read by its number may be a mean; a reading that follows its UV says more.
            if (i.op == Op::SampleLevel && out.slot >= 0) return true;
            out = {int(i.imm), {i.args[i.op == Op::SampleGuided ? 1 : 0]}};
            frames = i.op == Op::SampleFramed ? Val{i.args[2]} : Val{};
            return i.op == Op::SampleLevel;
        });
        // A frame's UV, in the map that holds all of them.
        if (frames) out.uv = b.op(Op::Div, out.uv, frames);
        return out;
    }

    /// `uv` is read at, and `moved` says what becomes of it when the mesh's UVs are moved. How far a texel lies is found from a small
    /// move; a map that is read where the mesh's UVs are needs no looking.
    Val stepOf(int slot, Val uv, const std::function<Val(Val)>& moved) {
        const Val texel = b.texelSize(slot);
        const auto isUv = [&](int32_t id) {
            const Instruction& i = m_c.m_program->code[size_t(id)];
            return i.op == Op::Attribute && Attribute(i.imm) == Attribute::Uv0;
        };
        const Instruction& read = m_c.m_program->code[size_t(uv.id)];
        if (isUv(uv.id) || (m_shift && read.op == Op::Add && isUv(read.args[0]) && read.args[1] == m_c.m_shifts[m_shift].id)) return texel;
        constexpr float small = 1 / 512.f;
        const auto along = [&](float u, float v) {
            const Val way = b.sub(moved(b.constant(Value::vec2(u, v))), uv);
            // Texels that a small move goes past; where it goes past none, a step of a sixteenth is as good as any.
            const Val texels = b.magnitude(b.op(Op::Div, way, texel));
            return b.op(Op::Div, b.number(small), b.op(Op::Max, texels, b.number(16 * small)));
        };
        return b.compose({along(small, 0), along(0, small)});
    }

    /// Cards that hand on one of their inputs, whatever it means.
    bool choosesOne() const {
        static constexpr std::string_view kinds[] = {"if_greater", "if_equal", "switch", "dot"};
        return std::find(std::begin(kinds), std::end(kinds), m_node.kind) != std::end(kinds);
    }

    /// Says where what a wire means is not what its port means, and offers what would be.
    void checkMeaning(const PortDef& port, const Source& wire, Meaning brought, const Place& place) {
        const Id master = m_c.m_master.id;
        const auto between = [&](std::string_view kind) {
            return [=, kind = std::string(kind), to = place](const Project& p) {
                const Node* reader = p.board(master) ? p.board(master)->graph.find(to.node) : nullptr;
                const Node node = makeNode(kind, reader ? Point{reader->position.x - 190, reader->position.y + 40} : Point{});
                const NodeDef* def = findNodeDef(kind);
                Result<Project> next = edit::addNode(p, master, node);
                if (next && !def->inputs.empty()) next = edit::connect(*next, master, wire, node.id, "in");
                return next ? edit::connect(*next, master, {node.id, "out", {}}, to.node, to.port) : next;
            };
        };
        const std::string title = m_c.titleOf(place.node), source = m_c.titleOf(wire.node);
        if (port.meaning == Meaning::EncodedNormal && brought == Meaning::Color) {
            std::vector<Fix> fixes;
            if (const Node* card = m_c.m_master.graph.find(wire.node)) {
                const auto map = card->settings.find("map");
                if (map != card->settings.end() && m_c.m_project.map(map->second) && !card->wires.contains("map"))
                    fixes.push_back({"Read the map as a normal", [id = map->second](const Project& p) {
                                         MapFile changed = p.map(id) ? *p.map(id) : MapFile{};
                                         changed.kind = MapKind::Normal;
                                         return edit::changeMap(p, changed);
                                     }});
            }
            m_c.report(Severity::Caution, "normal.from-color", place,
                       fmt::format("{}'s input {} takes an encoded normal, and {} is read as a color: decoded from sRGB, which bends every "
                                   "slope. Set the kind of the map to normal.",
                                   title, place.port, source),
                       std::move(fixes));
        } else if (port.meaning == Meaning::Normal && brought == Meaning::EncodedNormal) {
            m_c.report(Severity::Caution, "normal.encoded", place,
                       fmt::format("{}'s input {} takes a normal in the world, and {} gives an encoded one. Put a Normal map between.",
                                   title, place.port, source),
                       {{"Put a Normal map between", between("normal_map")}});
        } else if (port.meaning == Meaning::Position &&
                   (brought == Meaning::Direction || brought == Meaning::Normal || brought == Meaning::EncodedNormal)) {
            m_c.report(
                Severity::Caution, "wire.not-a-position", place,
                fmt::format("{}'s input {} takes a position, and {} gives a {}, which is the same far and near. Take a Position card.",
                            title, place.port, source, nameOf(brought)),
                {{"Take the position instead", between("position")}});
        }
    }

    /// The width that all ports of any width share.
    void findWidth() {
        std::string_view widestPort;
        for (const PortDef& port : m_def.inputs) {
            if (port.width != kAnyWidth || port.apart) continue;
            const std::string key(port.key);
            auto wire = m_node.wires.find(key);
            if (wire == m_node.wires.end()) continue;
            const Brought brought = m_c.follow(wire->second, m_node.id, m_node.id, key, m_shift);
            // Who takes finishes asks for them.
            if (brought.finish && port.finishes) continue;
            if (!brought.value) {
                if (brought.exists) reportNoNumbers(port, wire->second, brought, {{}, m_node.id, key});
                m_broken = true;
                continue;
            }
            const int width = b.width(brought.value);
            if (m_meaning == Meaning::Normal && brought.meaning == Meaning::Normal && (m_node.kind == "add" || m_node.kind == "multiply"))
                m_c.report(Severity::Caution, "normal.added", {{}, m_node.id, key},
                           fmt::format("{} joins two normals as if they were numbers, which flattens both. Combine their heights before "
                                       "Height to normal instead.",
                                       m_c.titleOf(m_node.id)));
            if (m_meaning == Meaning::EncodedNormal && brought.meaning == Meaning::EncodedNormal && !choosesOne()) {
                const Id master = m_c.m_master.id, node = m_node.id;
                m_c.report(Severity::Caution, "normal.mixed-encoded", {{}, m_node.id, key},
                           fmt::format("{} mixes two encoded normals as if they were numbers, which flattens both. Join normals keeps the "
                                       "slopes of either.",
                                       m_c.titleOf(m_node.id)),
                           {{"Put Join normals in its place",
                             [=](const Project& p) { return edit::replaceNode(p, master, node, makeNode("join_normals")); }}});
            }
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
            if (port.width == kAnyWidth && !port.apart && !m_node.wires.contains(std::string(port.key)))
                m_width = std::max(m_width, constantOf(m_node, port).width);
        // Three constant numbers that are mixed or chosen between are colors as a rule.
        if (m_width == 3 && m_meaning == Meaning::Any &&
            (m_node.kind == "mix" || m_node.kind == "if_greater" || m_node.kind == "if_equal" || m_node.kind == "switch"))
            m_meaning = Meaning::Color;
    }

    Val inAt(std::string_view portKey, int shift) {
        const PortDef& port = *m_def.input(portKey);
        const std::string key(portKey);
        const int width = port.apart ? constantOf(m_node, port).width : port.width == kAnyWidth ? m_width : port.width;
        if (auto it = m_node.wires.find(key); it != m_node.wires.end()) {
            const Place place = placeOf(key);
            const Brought brought = m_c.follow(it->second, m_node.id, place.node, place.port, shift);
            b.setOrigin(m_c.m_origins[m_node.id]);
            if (m_c.m_opened.inputs.contains(m_node.id)) m_handed = brought.meaning;
            if (brought.value) {
                if (shift == 0 && b.width(brought.value) == 3) checkMeaning(port, it->second, brought.meaning, place);
                // Numbers stay narrow at ports of any width; operations spread them.
                if (port.apart || (port.width == kAnyWidth && b.width(brought.value) == 1)) return brought.value;
                if (Val fitted =
                        m_c.fit(brought.value, width, place.node, place.port, fmt::format("{}'s input {}", titleAt(place), place.port)))
                    return fitted;
            } else if (brought.exists) {
                reportNoNumbers(port, it->second, brought, place);
            }
            m_broken = true;
        } else if (port.unwired == Unwired::Uv) {
            return uvAt(shift);
        } else if (port.unwired == Unwired::NormalWorld) {
            return b.attribute(Attribute::NormalWorld);
        } else if (port.unwired == Unwired::PositionObject) {
            return b.attribute(Attribute::PositionObject);
        } else if (port.unwired == Unwired::Sight) {
            return b.mul(b.attribute(Attribute::View), b.number(-1));
        }
        Value value = constantOf(m_node, port);
        if (value.width == 1 && width > 1 && port.width != kAnyWidth) value = {width, {value[0], value[0], value[0], value[0]}};
        else if (value.width != 1 || port.width != kAnyWidth) value.width = width;
        if (m_c.m_constants == Constants::Live)
            return b.spread(
                b.parameter(liveConstantName(placeOf(key).node, placeOf(key).port), constantOf(m_node, port).width == 1 ? 1 : value.width),
                port.width == kAnyWidth ? 1 : width);
        return b.constant(value);
    }

    /// The first UVs: the mesh's, or what a Finish of card gives its cards instead.
    Val uvAt(int shift) {
        if (const OpenedSurface* around = surfaceAround(m_c.m_opened, m_node.id); around && around->uv) {
            const Brought given = m_c.follow(*around->uv, m_node.id, m_node.id, "uv", shift);
            b.setOrigin(m_c.m_origins[m_node.id]);
            if (given.value && b.width(given.value) <= 2) return b.spread(given.value, 2);
        }
        const Val plain = b.attribute(Attribute::Uv0);
        return shift ? b.add(plain, m_c.m_shifts[shift]) : plain;
    }

    void reportNoNumbers(const PortDef& port, const Source& wire, const Brought& brought, const Place& place) {
        const ChannelDef wanted{port.key, {}, port.width, port.meaning, {}, 0, 1, {}};
        m_c.reportNoNumbers(place, fmt::format("{}'s input {}", titleAt(place), place.port), wanted, brought, wire);
    }

    GraphCompiler& m_c;
    const Node& m_node;
    const NodeDef& m_def;
    const int m_shift;
    int m_width = 1;
    int m_slot = -1; ///< of the map that the node reads
    Meaning m_meaning = Meaning::Any;
    Meaning m_handed = Meaning::Any; ///< of the wire into an assembly, on the card that hands it in
    mutable bool m_broken = false;
};

int GraphCompiler::addShift(int base, Val offset) {
    m_shifts.push_back(base ? m_builder.add(m_shifts[base], offset) : offset);
    return int(m_shifts.size()) - 1;
}

void GraphCompiler::lowerNode(const Node& node, int shift) {
    if (std::exchange(m_lowered[{shift, node.id}], true)) return;
    const auto handing = m_opened.handing.find(node.id);
    const NodeDef* def = handing != m_opened.handing.end() ? handing->second : findNodeDef(node.kind);
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

} // namespace hue
