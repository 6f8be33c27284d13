#include "core/nodes/finish.h"

#include "core/nodes/assembly_card.h"
#include "core/nodes/port_makers.h"

#include <algorithm>
#include <fmt/format.h>
#include <set>

namespace hue {
namespace {

constexpr uint32_t kAllLayers = ~0u;
constexpr std::string_view kAllKinds = "all layers";

/// What a part is where its layer is not there. Nothing: it describes the layer, and has no say where there is none.
std::optional<float> withoutLayer(std::string_view key) {
    static constexpr std::string_view amounts[] = {"clearcoat",    "sheen",     "iridescence", "anisotropy",
                                                   "transmission", "thickness", "dispersion"};
    if (std::find(std::begin(amounts), std::end(amounts), key) != std::end(amounts)) return 0.f;
    // The core reflects as these say by themselves.
    if (key == "ior") return 1.5f;
    if (key == "specular" || key == "specular_color") return 1.f;
    return std::nullopt;
}

bool isNormal(const ChannelDef& part) { return part.meaning == Meaning::Normal; }

/// How a normal leans away from the mesh's, as a vector in the plane of the surface; plus the mesh's normal.
Val leaning(Builder& b, Val normal, Val mesh) {
    if (b.isAttribute(normal, Attribute::NormalWorld)) return mesh;
    return b.op(Op::Div, normal, b.op(Op::Max, b.dot(normal, mesh), b.number(1e-3f)));
}

/// A value that is looked at only where the mask is below 1.
Val seenBelow1(Builder& b, Val value, Val mask, Hidden hidden) {
    return hidden == Hidden::Skipped ? b.op(Op::WhereBelow1, value, mask) : value;
}

Val mixedValues(Builder& b, Val back, Val front, Val mask, Hidden hidden) {
    return b.mix(seenBelow1(b, back, mask, hidden), seenAbove0(b, front, mask, hidden), mask);
}

const std::vector<std::string_view>& kinds() {
    static const std::vector<std::string_view> all = {"plain",      "coated",      "cloth", "brushed",
                                                      "thin glass", "solid glass", "film",  kAllKinds};
    return all;
}

SettingDef kindSetting() { return {"kind", kinds(), "plain", "Which layers it has beside the core"}; }

bool ofKind(const Node& node, std::string_view port) {
    const ChannelDef* part = findFinishPart(port);
    return !part || hasPart(layersOfFinishCard(node), *part);
}

PortDef finishIn(std::string_view key, std::string_view help) { return {key, kFinishPort, Meaning::Any, {}, 0, 1, help, {}}; }
PortDef finishOut() { return {"out", kFinishPort, Meaning::Any, {}, 0, 1, {}, {}}; }

PortDef portOf(const ChannelDef& part) {
    PortDef port{part.key,  part.width, part.meaning, part.standard, part.low, part.comfortable > 0 ? part.comfortable : part.high,
                 part.help, part.unit};
    if (isNormal(part)) port.unwired = Unwired::NormalWorld;
    return port;
}

constexpr int kMostFinishes = 5;

/// Of a file it may be any text.
int finishCount(std::string_view setting) { return setting.empty() ? 2 : std::clamp(setting[0] - '0', 2, kMostFinishes); }

/// One after the other, each with its share of the weight so far: the same as all at once.
void lowerWeights(Lowering& l) {
    Builder& b = l.b;
    const int count = finishCount(l.setting("count"));
    Finish all = l.finish("finish1");
    Val sum = b.op(Op::Max, l.in("weight1"), b.number(0));
    for (int k = 2; k <= count; ++k) {
        const Val weight = b.op(Op::Max, l.in(fmt::format("weight{}", k)), b.number(0));
        sum = b.add(sum, weight);
        // Where nothing weighs anything the first shows.
        const Val share = b.op(Op::Div, weight, b.op(Op::Max, sum, b.number(1e-6f)));
        all = mixed(b, all, l.finish(fmt::format("finish{}", k)), share, hiddenBy(l));
    }
    l.outFinish("out", std::move(all));
}

std::vector<std::string_view> partKeys() {
    std::vector<std::string_view> keys;
    for (const ChannelDef& part : finishParts()) keys.push_back(part.key);
    return keys;
}

void lowerWithChannel(Lowering& l) {
    Finish finish = l.finish("finish");
    const ChannelDef* part = findFinishPart(l.setting("channel"));
    if (!part) return l.fail("finish.no-part", "channel", "names a channel that finishes do not have. Choose another on the card.");
    Val value = l.in("value");
    const int width = l.b.width(value);
    if (isNormal(*part) && !l.wired("value")) value = l.b.attribute(Attribute::NormalWorld);
    else if (width != 1 && width != part->width)
        return l.fail("finish.width", "value",
                      fmt::format("sets {}, which has {}, and gets {}. Take the components that are wanted.", part->name,
                                  part->width == 1 ? "one number" : fmt::format("{} components", part->width), width));
    finish.parts[std::string(part->key)] = l.b.spread(value, part->width);
    finish.layers |= part->layer;
    l.outFinish("out", std::move(finish));
}

} // namespace

std::span<const ChannelDef> finishParts() {
    static const std::vector<ChannelDef> all = [] {
        std::vector<ChannelDef> out;
        for (const ChannelDef& c : channels())
            if (c.key != "vertex_offset") out.push_back(c);
        const auto at = std::find_if(out.begin(), out.end(), [](const ChannelDef& c) { return c.layer != 0; });
        out.insert(at, {"height", "Height", 1, Meaning::Number, Value::number(0.5f), 0, 1,
                        "How high it lies, from 0 to 1; Height blend of finishes goes by it, light does not"});
        return out;
    }();
    return all;
}

const ChannelDef* findFinishPart(std::string_view key) {
    for (const ChannelDef& part : finishParts())
        if (part.key == key) return &part;
    return nullptr;
}

Val Finish::part(std::string_view key) const {
    const auto it = parts.find(std::string(key));
    return it == parts.end() ? Val{} : it->second;
}

bool isOnRail(std::string_view key) { return key == kWholeSurface || findChannel(key); }

const std::vector<std::string>& railKeys() {
    static const std::vector<std::string> all = [] {
        std::vector<std::string> out{std::string(kWholeSurface)};
        for (const ChannelDef& c : channels()) out.emplace_back(c.key);
        return out;
    }();
    return all;
}

bool feedsWhole(const Graph& graph) {
    const std::string key(kWholeSurface);
    return graph.channelWires.contains(key) &&
           std::find(graph.mutedChannels.begin(), graph.mutedChannels.end(), key) == graph.mutedChannels.end();
}

bool hasPart(uint32_t has, const ChannelDef& part) { return part.layer == 0 || (has & part.layer) == part.layer; }

uint32_t layersOfFinishCard(const Node& node) {
    const auto it = node.settings.find("kind");
    if (it == node.settings.end()) return 0;
    if (it->second == kAllKinds) return kAllLayers;
    std::string key = it->second;
    std::replace(key.begin(), key.end(), ' ', '_');
    for (const SurfaceKind& kind : surfaceKinds())
        if (kind.key == key) return kind.layers;
    return 0;
}

std::string_view finishKindFor(const SurfaceSettings& surface) {
    for (const std::string_view kind : kinds()) {
        Node card;
        card.settings["kind"] = kind;
        if (layersOfFinishCard(card) == surface.layers) return kind;
    }
    return surface.layers ? kAllKinds : "plain";
}

Finish plainFinish(Builder& b, uint32_t has) {
    Finish out;
    out.layers = has;
    for (const ChannelDef& part : finishParts())
        if (hasPart(has, part))
            out.parts[std::string(part.key)] = isNormal(part) ? b.attribute(Attribute::NormalWorld) : b.constant(part.standard);
    return out;
}

SettingDef hiddenSetting(std::string_view standard) {
    return {"unseen",
            {"computed", "skipped"},
            standard,
            "What the mask hides: computed all the same, or skipped by a branch, which pays where masks are mostly 0 or 1",
            true};
}

Hidden hiddenBy(const Lowering& l) { return l.setting("unseen") == "skipped" ? Hidden::Skipped : Hidden::Computed; }

Val seenAbove0(Builder& b, Val value, Val mask, Hidden hidden) {
    return hidden == Hidden::Skipped ? b.op(Op::WhereAbove0, value, mask) : value;
}

Val mixedNormals(Builder& b, Val back, Val front, Val mask, Hidden hidden) {
    const Val mesh = b.attribute(Attribute::NormalWorld);
    if (b.isAttribute(back, Attribute::NormalWorld) && b.isAttribute(front, Attribute::NormalWorld)) return mesh;
    return b.normalize(mixedValues(b, leaning(b, back, mesh), leaning(b, front, mesh), mask, hidden));
}

Finish joined(const Finish& back, const Finish& front, Builder& b, const std::function<Val(const ChannelDef&, Val, Val)>& join) {
    Finish out;
    out.layers = back.layers | front.layers;
    for (const ChannelDef& part : finishParts()) {
        Val behind = back.part(part.key), before = front.part(part.key);
        if (!behind && !before) continue;
        if (!behind || !before) {
            const std::optional<float> none = withoutLayer(part.key);
            const Val stands = none ? b.spread(b.number(*none), part.width) : behind ? behind : before;
            (behind ? before : behind) = stands;
        }
        out.parts[std::string(part.key)] = behind.id == before.id ? behind : join(part, behind, before);
    }
    return out;
}

Finish mixed(Builder& b, const Finish& back, const Finish& front, Val mask, Hidden hidden) {
    if (const std::optional<Value> known = b.constantValue(mask)) {
        if ((*known)[0] <= 0) return back;
        if ((*known)[0] >= 1) return front;
    }
    const Val share = b.saturate(mask);
    return joined(back, front, b, [&](const ChannelDef& part, Val behind, Val before) {
        return isNormal(part) ? mixedNormals(b, behind, before, share, hidden) : mixedValues(b, behind, before, share, hidden);
    });
}

Val sharpenedByHeights(Builder& b, Val mask, Val back, Val front, Val edge) {
    edge = b.op(Op::Max, edge, b.number(1e-4f));
    // The mask lifts one surface over the other by a little more than heights and the edge can make up for.
    const Val lift = b.mul(b.sub(b.add(mask, mask), b.number(1)), b.add(edge, b.number(1.00001f)));
    const Val above = b.add(b.sub(front, back), lift);
    return b.saturate(b.add(b.op(Op::Div, above, b.add(edge, edge)), b.number(0.5f)));
}

Id finishOf(const Node& node) {
    if (node.kind != kFinishOfKind) return {};
    const auto it = node.settings.find(std::string(kFinishOfSetting));
    return it == node.settings.end() ? Id{} : it->second;
}

const Parameter* finishParameter(const Master& board, const Node& node) {
    const Id named = finishOf(node);
    const Parameter* p = named.empty() ? nullptr : board.parameter(named);
    return p && p->type == ParameterType::Finish ? p : nullptr;
}

Id finishOf(const Master& board, const Node& node) {
    const Parameter* p = finishParameter(board, node);
    return p ? p->standard.map : finishOf(node);
}

std::vector<Id> finishesWornOn(const Project& project, const Master& board) {
    std::vector<Id> out;
    std::set<Id> seen;
    std::vector<std::shared_ptr<const Master>> kept;
    std::vector<const Master*> open{&board};
    while (!open.empty()) {
        const Master& at = *open.back();
        open.pop_back();
        for (const auto& [id, node] : at.graph.nodes) {
            if (const Id inner = assemblyOf(*node); !inner.empty()) {
                const Assembly* assembly = project.assembly(inner);
                if (assembly && seen.insert(inner).second) open.push_back(assembly);
            }
            const Id worn = finishOf(at, *node);
            if (worn.empty() || !project.masterOf(worn) || !seen.insert(worn).second) continue;
            out.push_back(worn);
            const Resolved resolved = resolve(project, worn);
            kept.push_back(resolved.built);
            open.push_back(resolved.master);
        }
    }
    return out;
}

std::vector<const Master*> mastersWornOn(const Project& project, const Master& board) {
    std::vector<const Master*> out;
    for (const Id& worn : finishesWornOn(project, board))
        if (const Master* m = project.masterOf(worn); std::find(out.begin(), out.end(), m) == out.end()) out.push_back(m);
    return out;
}

bool leadsFinish(const Project& project, const Graph& graph, const Source& source) {
    std::set<std::pair<const Graph*, Id>> seen;
    std::vector<std::pair<const Graph*, Source>> open{{&graph, source}};
    while (!open.empty()) {
        const auto [at, from] = open.back();
        open.pop_back();
        const Node* node = at->find(from.node);
        const NodeDef* def = node && seen.insert({at, from.node + "." + from.port}).second ? nodeDefOf(project, *node) : nullptr;
        const PortDef* port = def ? def->output(from.port) : nullptr;
        if (!port) continue;
        if (port->width == kFinishPort) return true;
        if (const Assembly* inner = project.assembly(assemblyOf(*node)))
            for (const AssemblyOutput& o : cardOf(*inner).outputs) {
                const Node* card = o.key == from.port ? inner->graph.find(o.card) : nullptr;
                if (!card) continue;
                if (const auto wire = card->wires.find("in"); wire != card->wires.end()) open.emplace_back(&inner->graph, wire->second);
            }
        if (port->finishes)
            for (const PortDef& in : def->inputs)
                if (const auto wire = node->wires.find(std::string(in.key)); in.finishes && wire != node->wires.end())
                    open.emplace_back(at, wire->second);
    }
    return false;
}

std::vector<Id> wearableOn(const Project& project, const Id& board) {
    std::vector<Id> out;
    for (const MasterPtr& master : project.masters) {
        const std::vector<const Master*> within = mastersWornOn(project, *master);
        if (master->id == board || std::any_of(within.begin(), within.end(), [&](const Master* m) { return m->id == board; })) continue;
        out.push_back(master->id);
        for (const InstancePtr& instance : project.instances)
            if (project.masterOf(instance->id) == master.get()) out.push_back(instance->id);
    }
    return out;
}

void addFinishNodes(std::vector<NodeDef>& list) {
    const std::string_view family = "Finishes";
    NodeDef finish{"finish",
                   "Finish",
                   family,
                   "surface whole layer material bundle all channels",
                   "A complete surface on one wire: color, normal, roughness and the rest stay together.",
                   {},
                   {finishOut()},
                   {kindSetting()},
                   [](Lowering& l) {
                       Node card;
                       card.settings["kind"] = l.setting("kind");
                       Finish out;
                       out.layers = layersOfFinishCard(card);
                       for (const ChannelDef& part : finishParts())
                           if (hasPart(out.layers, part)) out.parts[std::string(part.key)] = l.in(part.key);
                       if (out.layers == kAllLayers) {
                           out.layers = 0;
                           for (const LayerDef& layer : layers()) out.layers |= uint32_t(layer.layer);
                       }
                       l.outFinish("out", std::move(out));
                   },
                   ofKind};
    for (const ChannelDef& part : finishParts()) finish.inputs.push_back(portOf(part));
    list.push_back(std::move(finish));

    list.push_back(
        {kFinishOfKind,
         "Finish of",
         family,
         "master instance reuse material whole surface layer",
         "Another master or instance of the project as a finish. Its graph is compiled in, and its values stay its own: what changes "
         "there changes here.",
         {uvIn("Where its maps and patterns lie; as there when nothing is wired")},
         {finishOut()},
         {{kFinishOfSetting, {}, "", "Which master or instance"}},
         [](Lowering& l) { l.outFinish("out", l.wornFinish()); }});

    list.push_back({"finish_height_blend",
                    "Height blend of finishes",
                    family,
                    "border interlock displacement blend moss sand joints",
                    "From one finish to another by a mask that their heights sharpen: the higher one wins where both meet.",
                    {finishIn("bg", "Finish shown where mix is 0"), finishIn("fg", "Finish shown where mix is 1"),
                     numberIn("mix", 0.5f, "The mask: 0 shows the background, 1 the foreground"),
                     numberIn("soft edge", 0.2f, "Range of heights over which both are seen", 0.01f, 1)},
                    {finishOut()},
                    {hiddenSetting()},
                    [](Lowering& l) {
                        const Finish back = l.finish("bg"), front = l.finish("fg");
                        const Val mask = sharpenedByHeights(l.b, l.in("mix"), back.part("height"), front.part("height"), l.in("soft edge"));
                        l.outFinish("out", mixed(l.b, back, front, mask, hiddenBy(l)));
                    }});

    NodeDef weights{
        "finish_weights",
        "Blend by weights",
        family,
        "several finishes painted channels normalize sum share vertex",
        "Two to five finishes, each as strongly as its weight among all. Weights need not add up to 1; where all are 0 the first "
        "shows.",
        {},
        {finishOut()},
        {{"count", {"2", "3", "4", "5"}, "2", "How many finishes"}, hiddenSetting()},
        lowerWeights,
        [](const Node& node, std::string_view port) {
            return port.back() - '0' <= finishCount(settingOf(node, *findNodeDef(node.kind), "count"));
        }};
    static constexpr std::string_view keys[kMostFinishes][2] = {
        {"finish1", "weight1"}, {"finish2", "weight2"}, {"finish3", "weight3"}, {"finish4", "weight4"}, {"finish5", "weight5"}};
    for (int k = 0; k < kMostFinishes; ++k) {
        weights.inputs.push_back(finishIn(keys[k][0], "A finish"));
        weights.inputs.push_back(numberIn(keys[k][1], k == 0 ? 1.f : 0.f, "How much it weighs; below 0 counts as 0"));
    }
    list.push_back(std::move(weights));

    list.push_back(
        {"with_channel",
         "With channel",
         family,
         "replace override set channel of finish",
         "A finish with one of its channels replaced.",
         {finishIn("finish", "The finish"),
          {"value", kAnyWidth, Meaning::Any, Value::number(0.5f), 0, 1, "What the channel becomes", {}, Unwired::Constant, true}},
         {finishOut()},
         {{"channel", partKeys(), "roughness", "Which channel"}},
         lowerWithChannel});

    NodeDef apart{"separate_finish",
                  "Separate finish",
                  family,
                  "split break apart channels of finish",
                  "The channels of a finish by themselves. What it does not have shows its default.",
                  {finishIn("in", "The finish")},
                  {},
                  {kindSetting()},
                  [](Lowering& l) {
                      const Finish in = l.finish("in"), plain = plainFinish(l.b, kAllLayers);
                      for (const ChannelDef& part : finishParts()) {
                          const Val own = in.part(part.key);
                          l.out(part.key, own ? own : plain.part(part.key));
                      }
                  }};
    apart.showsOutput = ofKind;
    for (const ChannelDef& part : finishParts()) apart.outputs.push_back({part.key, part.width, part.meaning, {}, 0, 1, part.help, {}});
    list.push_back(std::move(apart));
}

} // namespace hue
