// Edits that make a surface travel as a whole.
#include "core/edits/edit_parts.h"
#include "core/mesh/paint_data.h"
#include "core/nodes/finish.h"

namespace hue::edit {
namespace {

constexpr float kColumn = 222;

/// Puts cards to the right of all others.
class Adding {
  public:
    /// `named`: cards get ids that are counted behind it, instead of new ones.
    explicit Adding(Master& m, std::string named = {}) : m_master(m), m_named(std::move(named)) {
        bool any = false;
        for (const auto& [id, node] : m.graph.nodes) {
            m_at.x = any ? std::max(m_at.x, node->position.x) : node->position.x;
            m_at.y = any ? std::min(m_at.y, node->position.y) : node->position.y;
            any = true;
        }
        if (any) next();
    }

    void next() { m_at.x += kColumn; }
    Id put(Node node, float down) {
        node.position = {m_at.x, m_at.y + down};
        if (!m_named.empty()) node.id = fmt::format("{}-{}", m_named, ++m_count);
        const Id id = node.id;
        m_master.graph.nodes[id] = std::make_shared<Node>(std::move(node));
        return id;
    }

  private:
    Master& m_master;
    Point m_at{};
    std::string m_named;
    int m_count = 0;
};

/// What the rail shows, as one output: a Finish card that takes its wires and values, or the finish that is there with its single channels
/// put in place.
Source gathered(Master& m, Adding& cards) {
    const std::string whole(kWholeSurface);
    Graph& g = m.graph;
    const auto isMuted = [&](const std::string& key) {
        return std::find(g.mutedChannels.begin(), g.mutedChannels.end(), key) != g.mutedChannels.end();
    };
    const auto take = [&](const ChannelDef& part, const auto& wired, const auto& set) {
        const std::string key(part.key);
        if (isMuted(key)) return;
        if (const auto wire = g.channelWires.find(key); wire != g.channelWires.end()) {
            wired(key, wire->second);
            g.channelWires.erase(wire);
        } else if (const auto value = g.channelConstants.find(key); value != g.channelConstants.end() && part.meaning != Meaning::Normal) {
            set(key, value->second);
        }
    };
    if (feedsWhole(g)) {
        Source from = g.channelWires.at(whole);
        for (const ChannelDef& part : finishParts())
            take(
                part,
                [&](const std::string& key, const Source& wire) {
                    Node with = makeNode("with_channel");
                    with.settings["channel"] = key;
                    with.wires = {{"finish", from}, {"value", wire}};
                    from = {cards.put(with, 0), "out", {}};
                    cards.next();
                },
                [](const std::string&, const Value&) {});
        return from;
    }
    Node finish = makeNode("finish");
    if (const std::string kind(finishKindFor(m.surface)); kind != "plain") finish.settings["kind"] = kind;
    finish.title = m.name;
    for (const ChannelDef& part : finishParts())
        take(
            part, [&](const std::string& key, const Source& wire) { finish.wires[key] = wire; },
            [&](const std::string& key, const Value& value) { finish.constants[key] = value; });
    const Source out{cards.put(std::move(finish), 0), "out", {}};
    cards.next();
    return out;
}

/// The first channel of paint that no card of the board reads; 0 when all are read.
int freeChannel(const Graph& g) {
    for (int k = 1; k <= PaintData::kChannels; ++k) {
        const std::string channel = std::to_string(k);
        const bool read = std::any_of(g.nodes.begin(), g.nodes.end(), [&](const auto& entry) {
            const Node& n = *entry.second;
            const auto setting = n.settings.find("channel");
            return n.kind == "painted" && (setting == n.settings.end() ? "1" : setting->second) == channel;
        });
        if (!read) return k;
    }
    return 0;
}

} // namespace

Result<Project> mixOver(const Project& project, const Id& master, const Id& worn) {
    const Master* other = worn.empty() ? nullptr : project.masterOf(worn);
    if (!worn.empty()) {
        if (!other) return refuse("edit.no-master", "The master or instance is not in the project any more.", {master, {}, {}});
        const std::vector<Id> fitting = wearableOn(project, master);
        if (std::find(fitting.begin(), fitting.end(), worn) == fitting.end())
            return refuse("finish.of-itself",
                          fmt::format("{} takes a finish of this master, so this one cannot take a finish of it.", project.nameOf(worn)),
                          {master, {}, {}});
    }
    return withSurface(project, master, [&](Master& m) -> Outcome {
        const int channel = freeChannel(m.graph);
        if (!channel)
            return refuse("finish.no-channel",
                          "All eight painted channels are read on this board. Let a card go, or mix by a mask of another kind.",
                          {master, {}, {}});
        Adding cards(m);
        const Source beneath = gathered(m, cards);
        Node over = makeNode(other ? kFinishOfKind : "finish"), painted = makeNode("painted"), mix = makeNode("mix");
        if (other) {
            over.settings[std::string(kFinishOfSetting)] = worn;
            m.surface.layers |= other->surface.layers;
        } else {
            over.title = "Over";
            over.constants["base_color"] = Value::vec3(0.2f, 0.16f, 0.13f);
            over.constants["roughness"] = Value::number(0.8f);
        }
        painted.title = codeNameFrom(other ? other->name : "over");
        if (channel > 1) painted.settings["channel"] = std::to_string(channel);
        cards.next();
        const Id overId = cards.put(std::move(over), 160), paintedId = cards.put(std::move(painted), 260);
        cards.next();
        mix.wires = {{"bg", beneath}, {"fg", {overId, "out", {}}}, {"mix", {paintedId, "out", {}}}};
        m.graph.channelWires[std::string(kWholeSurface)] = {cards.put(std::move(mix), 0), "out", {}};
        return Done{};
    });
}

bool canLieOn(const Project& project, const Decal& decal, const Master& beneath) {
    const Master* master = project.masterOf(decal.wears);
    if (!master || master->id == beneath.id) return false;
    const std::vector<const Master*> within = mastersWornOn(project, *master);
    return std::none_of(within.begin(), within.end(), [&](const Master* m) { return m->id == beneath.id; });
}

Result<Project> layDecals(const Project& project, const Id& master, std::span<const Decal> decals) {
    return withSurface(project, master, [&](Master& m) -> Outcome {
        Adding cards(m, "decal");
        Source top = gathered(m, cards);
        for (const Decal& d : decals) {
            if (!canLieOn(project, d, m)) continue;
            Node box = makeNode("box_projection"), worn = makeNode(kFinishOfKind), over = makeNode("lay_over");
            box.title = worn.title = over.title = d.name;
            box.constants = {{"middle", Value::vec3(d.position[0], d.position[1], d.position[2])},
                             {"facing", Value::vec3(d.facing[0], d.facing[1], d.facing[2])},
                             {"turn", Value::number(d.turn)},
                             {"size", Value::vec2(d.mirrored ? -d.width : d.width, d.height)},
                             {"depth", Value::number(d.depth)},
                             {"fade from", Value::number(d.fadeFrom)},
                             {"fade to", Value::number(d.fadeTo)},
                             {"depth fade", Value::number(d.depthFade)}};
            const Id place = cards.put(std::move(box), 160);
            cards.next();
            worn.settings[std::string(kFinishOfSetting)] = d.wears;
            worn.wires["uv"] = {place, "uv", {}};
            const Id what = cards.put(std::move(worn), 160);
            cards.next();
            over.wires = {{"bg", top},
                          {"fg", {what, "out", {}}},
                          {"mix", {place, "cover", {}}},
                          {"across", {place, "across", {}}},
                          {"up", {place, "up", {}}}};
            for (size_t k = 0; k < d.weights.size(); ++k) over.constants[std::string(Decal::kWeighted[k])] = Value::number(d.weights[k]);
            top = {cards.put(std::move(over), 0), "out", {}};
            cards.next();
            m.surface.layers |= project.masterOf(d.wears)->surface.layers;
        }
        m.graph.channelWires[std::string(kWholeSurface)] = top;
        // What was muted is muted in the finish beneath.
        std::erase_if(m.graph.mutedChannels, [](const std::string& key) { return key != "vertex_offset"; });
        return Done{};
    });
}

} // namespace hue::edit
