#include "tests/random_edits.h"

#include "core/assemblies/fold.h"
#include "core/document/bays.h"
#include "core/document/drawn.h"
#include "core/nodes/assembly_card.h"
#include "core/surface/channels.h"

#include <set>

namespace hue::test {
namespace {

class Chance {
  public:
    Chance(const Project& project, std::mt19937& random) : p(project), m_random(random) {}

    size_t upTo(size_t n) { return n ? m_random() % n : 0; }
    bool coin() { return upTo(2) != 0; }
    float number() { return float(upTo(4001)) / 1000 - 2; }
    std::string word() { return "n" + std::to_string(upTo(1000)); }
    template <class List> Id idOf(const List& list) { return list.empty() || upTo(30) == 0 ? Id("nobody") : list[upTo(list.size())]->id; }
    Id master() { return idOf(p.masters); }
    Id assembly() { return idOf(p.assemblies); }
    /// A master, or now and then an assembly.
    Id board() { return !p.assemblies.empty() && upTo(3) == 0 ? assembly() : master(); }
    Id instance() { return idOf(p.instances); }
    Id worn() { return coin() ? master() : instance(); }
    Id map() { return idOf(p.maps); }
    Id node(const Id& masterId) {
        const Master* m = p.board(masterId);
        if (!m || m->graph.nodes.empty()) return "nobody";
        return std::next(m->graph.nodes.begin(), long(upTo(m->graph.nodes.size())))->first;
    }
    const NodeDef* defOf(const Id& masterId, const Id& nodeId) const {
        const Master* m = p.board(masterId);
        const Node* n = m ? m->graph.find(nodeId) : nullptr;
        return n ? nodeDefOf(p, *n) : nullptr;
    }
    std::string input(const Id& m, const Id& n) {
        const NodeDef* def = defOf(m, n);
        return def && !def->inputs.empty() ? std::string(def->inputs[upTo(def->inputs.size())].key) : "in";
    }
    Source source(const Id& m) {
        const Id n = node(m);
        const NodeDef* def = defOf(m, n);
        static constexpr const char* takes[] = {"", "", "r", "xy", "luma"};
        return {n, def && !def->outputs.empty() ? std::string(def->outputs[upTo(def->outputs.size())].key) : "out", takes[upTo(5)]};
    }
    Id bay(const Id& masterId) {
        const Master* m = p.board(masterId);
        return m && !m->graph.bays.empty() ? m->graph.bays[upTo(m->graph.bays.size())].id : Id("nowhere");
    }
    std::string channel() { return std::string(channels()[upTo(channels().size())].key); }
    Value value() { return Value{1 + int(upTo(4)), {number(), number(), number(), number()}}; }
    Id parameter(const Id& wornId) {
        const Master* m = p.board(wornId) ? p.board(wornId) : p.masterOf(wornId);
        return m && !m->parameters.empty() ? m->parameters[upTo(m->parameters.size())].id : Id("nobody");
    }
    std::string set() {
        const auto sets = p.mapSets();
        return sets.empty() ? "none" : sets[upTo(sets.size())];
    }

    AnyEdit next();

  private:
    AnyEdit ofGraph();
    AnyEdit ofParameters();
    AnyEdit ofInstances();
    AnyEdit ofMaps();
    AnyEdit ofAssemblies();
    AnyEdit ofLineup();

    const Project& p;
    std::mt19937& m_random;
};

AnyEdit Chance::ofGraph() {
    const Id m = board(), a = node(m), b = node(m);
    switch (upTo(23)) {
    case 0: return {"add card", edit::addNode(p, m, makeNode(catalogue()[upTo(catalogue().size())].key))};
    case 1: return {"connect", edit::connect(p, m, source(m), b, input(m, b))};
    case 2: return {"connect channel", edit::connectChannel(p, m, source(m), channel())};
    case 3: return {"disconnect", edit::disconnect(p, m, a, input(m, a))};
    case 4: return {"disconnect channel", edit::disconnectChannel(p, m, channel())};
    case 5: return {"remove cards", edit::removeNodes(p, m, {a, b})};
    case 6: return {"paste", edit::pasteCards(p, board(), edit::copyCards(p, m, {a, b}), {3, 4})};
    case 7: return {"constant", edit::setConstant(p, m, a, input(m, a), value())};
    case 8: return {"channel constant", edit::setChannelConstant(p, m, channel(), value())};
    case 9: return {"bay", edit::addBay(p, m, word(), {a, b})};
    case 10: return {"mute", edit::muteNodes(p, m, {a}, coin())};
    case 11: return {"mute channel", edit::muteChannel(p, m, channel(), coin())};
    case 12: return {"take", edit::setTake(p, m, a, input(m, a), coin() ? "g" : "")};
    case 13: {
        // Nobody is offered a card that stands for no parameter; a constant without its value is never made so.
        const std::string_view kind = catalogue()[upTo(catalogue().size())].key;
        return {"replace card", edit::replaceNode(p, m, a, makeNode(kind == "parameter" || kind == "constant" ? "add" : kind))};
    }
    case 14: return {"move wires", edit::moveWires(p, m, source(m), source(m))};
    case 15: return {"swap inputs", edit::swapInputs(p, m, a, input(m, a), input(m, a))};
    case 16: return {"underpass", edit::setUnderpass(p, m, a, input(m, a), coin() ? word() : "")};
    case 17: return {"fold bay", edit::foldBay(p, m, bay(m), coin())};
    case 18: return {"scratch bay", edit::setScratch(p, m, bay(m), coin())};
    case 19: return {"into bay", edit::putInBay(p, m, coin() ? bay(m) : Id{}, {a, b})};
    case 20: return {"remove bay", edit::removeBay(p, m, bay(m))};
    case 21: return {"per vertex", edit::setPerVertex(p, m, a, input(m, a), coin())};
    default: return {"move", edit::moveNodes(p, m, {{a, {number() * 100, number() * 100}}})};
    }
}

AnyEdit Chance::ofParameters() {
    const Id m = board(), id = parameter(m);
    const Master* found = p.board(m);
    const Parameter* there = found ? found->parameter(id) : nullptr;
    switch (upTo(6)) {
    case 0: {
        Parameter fresh;
        fresh.name = word();
        const Id n = node(m);
        return {"expose", edit::expose(p, m, n, input(m, n), fresh)};
    }
    case 1: return {"remove parameter", edit::removeParameter(p, m, id)};
    case 2: return {"move parameter", edit::moveParameter(p, m, id, upTo(5), coin() ? "group" : "")};
    case 3: {
        Parameter changed = there ? *there : Parameter{};
        changed.name = word();
        changed.codeName = coin() ? word() : changed.codeName;
        changed.hardMin = -1;
        changed.hardMax = 1;
        return {"change parameter", edit::changeParameter(p, m, changed)};
    }
    case 4: {
        SurfaceSettings s = found ? found->surface : SurfaceSettings{};
        s.layers = uint32_t(upTo(128));
        s.alphaMode = AlphaMode(upTo(3));
        s.alphaCutoff = std::fabs(number()) / 2;
        return {"surface", edit::setSurface(p, m, s)};
    }
    default: return {"kind", edit::applyKind(p, m, surfaceKinds()[upTo(surfaceKinds().size())])};
    }
}

AnyEdit Chance::ofInstances() {
    const Id i = instance();
    switch (upTo(8)) {
    case 0: return {"derive", edit::deriveInstance(p, worn(), newId('i'))};
    case 1: return {"remove instance", edit::removeInstance(p, i)};
    case 2: return {"rename instance", edit::renameInstance(p, i, word())};
    case 3: {
        const Id w = worn();
        return {"own value", edit::setOwn(p, w, parameter(w), {value(), coin() ? map() : Id{}})};
    }
    case 4: return {"clear own", edit::clearOwn(p, i, parameter(i))};
    case 5: return {"own surface", edit::setOwnSurface(p, i, {coin() ? std::optional(AlphaMode(upTo(3))) : std::nullopt, 0.3f, coin()})};
    case 6: {
        Master copy = p.masters.empty() ? Master{} : *p.masters[upTo(p.masters.size())];
        copy.id = newId('m');
        copy.name = word();
        return {"add master", edit::addMaster(p, copy)};
    }
    default:
        return upTo(4) == 0 ? AnyEdit{"remove master", edit::removeMaster(p, master())}
                            : AnyEdit{"rename master", edit::renameMaster(p, master(), word())};
    }
}

AnyEdit Chance::ofMaps() {
    const Id m = map();
    switch (upTo(11)) {
    case 0: {
        MapFile fresh;
        fresh.id = newId('t');
        fresh.name = word();
        fresh.path = "maps/" + fresh.name + ".png";
        fresh.kind = MapKind(upTo(3));
        return {"add map", edit::addMap(p, fresh)};
    }
    case 1: {
        MapFile changed = p.map(m) ? *p.map(m) : MapFile{};
        changed.name = word();
        changed.wrap = Wrap(upTo(3));
        changed.format = coin() ? "bc7" : "";
        return {"change map", edit::changeMap(p, changed)};
    }
    case 2: return {"remove map", edit::removeMap(p, m)};
    case 3: return {"make set", edit::makeSet(p, word(), {{m, "height"}, {map(), "normal"}})};
    case 4: return {"dissolve set", edit::makeSet(p, "", {{m, "height"}})};
    case 5: return {"wear set", edit::wearSet(p, worn(), set())};
    case 6: return {"place set", edit::placeSet(p, master(), set())};
    case 7: return {"swap sets", edit::swapSets(p, set(), set(), coin() ? worn() : Id{})};
    case 8: {
        const Id in = master();
        return {"replace by map", edit::replaceByMap(p, in, source(in), 1 + int(upTo(4)), m)};
    }
    case 9: {
        Packing k = p.packings.empty() ? Packing{} : *p.packings[upTo(p.packings.size())];
        if (coin()) k.id = newId('k');
        k.recipe.name = word();
        return p.packing(k.id) ? AnyEdit{"change packing", edit::changePacking(p, k)} : AnyEdit{"add packing", edit::addPacking(p, k)};
    }
    default:
        return coin() ? AnyEdit{"use packed", edit::usePacked(p, idOf(p.packings))}
                      : AnyEdit{"remove packing", edit::removePacking(p, idOf(p.packings))};
    }
}

AnyEdit Chance::ofAssemblies() {
    const Id m = board(), a = node(m), b = node(m);
    switch (upTo(8)) {
    case 0:
    case 1: {
        Result<Folded> folded = foldCards(p, m, {a, b}, word());
        return {"fold", folded ? Result<Project>(std::move(folded->project)) : Result<Project>(folded.error())};
    }
    case 2: {
        std::vector<AssemblyUse> uses;
        for (const AssemblyPtr& one : p.assemblies)
            for (const AssemblyUse& use : usesOf(p, one->id)) uses.push_back(use);
        const AssemblyUse use = uses.empty() ? AssemblyUse{m, a} : uses[upTo(uses.size())];
        Result<Unfolded> unfolded = unfoldCard(p, use.board, use.card);
        return {"unfold", unfolded ? Result<Project>(std::move(unfolded->project)) : Result<Project>(unfolded.error())};
    }
    case 3: return {"place assembly", edit::addNode(p, m, makeAssemblyNode(assembly()))};
    case 4: return {"rename assembly", edit::renameAssembly(p, assembly(), word())};
    case 5: {
        // One that stands nowhere, where there is one.
        Id of = assembly();
        for (const AssemblyPtr& one : p.assemblies)
            if (usesOf(p, one->id).empty()) of = one->id;
        return {"remove assembly", edit::removeAssembly(p, of)};
    }
    case 6: return {"describe assembly", edit::describeAssembly(p, assembly(), word())};
    default: {
        const Id of = assembly();
        const Assembly* there = p.assembly(of);
        const auto outputs = there ? cardOf(*there).outputs : std::vector<AssemblyOutput>{};
        return {"rename output", edit::renameNode(p, of, outputs.empty() ? Id("nobody") : outputs[upTo(outputs.size())].card, word())};
    }
    }
}

AnyEdit Chance::ofLineup() {
    Lineup l = p.lineup;
    switch (upTo(5)) {
    case 0:
        l.orbit.yaw = number() * 90;
        l.exposure = number();
        return {"camera", edit::setLineup(p, l)};
    case 1: l.specimens.push_back({coin() ? Id("shape:torus") : idOf(p.meshes), {worn()}}); return {"add specimen", edit::setLineup(p, l)};
    case 2:
        if (!l.specimens.empty()) l.specimens.erase(l.specimens.begin() + long(upTo(l.specimens.size())));
        return {"remove specimen", edit::setLineup(p, l)};
    case 3: {
        MeshFile mesh;
        mesh.id = newId('g');
        mesh.name = word();
        mesh.path = "meshes/" + mesh.name + ".glb";
        return {"add mesh", edit::addMesh(p, mesh)};
    }
    default: return {"wear", edit::wear(p, upTo(p.lineup.specimens.size() + 1), upTo(3), worn())};
    }
}

AnyEdit Chance::next() {
    switch (upTo(6)) {
    case 0: return ofGraph();
    case 1: return ofParameters();
    case 2: return ofInstances();
    case 3: return ofMaps();
    case 4: return ofAssemblies();
    default: return ofLineup();
    }
}

} // namespace

AnyEdit anyEdit(const Project& project, std::mt19937& random) { return Chance(project, random).next(); }

/// A map, a curve or gradient, what a finish is taken of, or the name of a map set.
static bool holdsThere(const Project& p, const Id& value) {
    const std::vector<std::string> sets = p.mapSets();
    return value.empty() || p.map(value) || p.masterOf(value) || drawnFrom(value) ||
           std::find(sets.begin(), sets.end(), value) != sets.end();
}

std::string brokenReference(const Project& p) {
    // What is worn is looked up among masters and instances together; the other lists stand for themselves.
    std::set<Id> worn, maps, packings, meshes;
    for (const auto& m : p.masters)
        if (!worn.insert(m->id).second) return "the id " + m->id + " stands twice";
    for (const auto& i : p.instances)
        if (!worn.insert(i->id).second) return "the id " + i->id + " stands twice";
    for (const auto& m : p.maps)
        if (!maps.insert(m->id).second) return "the map " + m->id + " stands twice";
    for (const auto& k : p.packings)
        if (!packings.insert(k->id).second) return "the packing " + k->id + " stands twice";
    for (const auto& m : p.meshes)
        if (!meshes.insert(m->id).second) return "the mesh " + m->id + " stands twice";
    for (const auto& a : p.assemblies)
        if (!worn.insert(a->id).second) return "the id " + a->id + " stands twice";
    for (const Master* m : p.boards()) {
        std::set<std::string> codes;
        for (const Parameter& parameter : m->parameters)
            if (!codes.insert(parameter.codeName).second) return m->name + ": two parameters are called " + parameter.codeName + " in code";
        const auto leads = [&](const Source& s) { return m->graph.find(s.node) != nullptr; };
        for (const auto& [key, wire] : m->graph.channelWires)
            if (!leads(wire)) return m->name + ": the wire of " + key + " comes from nowhere";
        for (const auto& [id, node] : m->graph.nodes) {
            if (node->id != id) return m->name + ": " + id + " does not know its id";
            if (!isAssembly(*node)) continue;
            if (!p.assembly(assemblyOf(*node))) return m->name + ": " + id + " stands for an assembly that is not there";
            if (wouldHoldItself(p, m->id, assemblyOf(*node))) return m->name + " contains itself";
        }
        for (const auto& [id, node] : m->graph.nodes) {
            for (const auto& [port, wire] : node->wires)
                if (!leads(wire)) return m->name + ": a wire of " + id + " comes from nowhere";
        }
        std::set<Id> lying;
        for (const Bay& bay : m->graph.bays) {
            if (!bay.inside.empty() && !findBay(m->graph, bay.inside)) return m->name + ": a bay lies in one that is not there";
            if (cardsWithin(m->graph, bay.id).empty()) return m->name + ": a bay holds nothing";
            for (const Id& in : bay.nodes) {
                if (!m->graph.find(in)) return m->name + ": a bay holds a card that is not there";
                if (!lying.insert(in).second) return m->name + ": a card lies in two bays";
            }
        }
        for (const Parameter& k : m->parameters)
            if (!holdsThere(p, k.standard.map)) return m->name + ": " + k.name + " has a map that is not there";
    }
    for (const auto& i : p.instances) {
        const Master* m = p.masterOf(i->id);
        if (!m) return i->name + " has no master";
        for (const auto& [id, own] : i->own) {
            // One of a parameter that is gone stays until it is dropped.
            if (!holdsThere(p, own.map)) return i->name + " wears a map that is not there";
        }
    }
    for (const auto& k : p.packings)
        if (!k->map.empty() && !p.map(k->map)) return "a packing made a map that is not there";
    for (const Specimen& s : p.lineup.specimens)
        for (const Id& id : s.wears)
            if (!id.empty() && !p.masterOf(id)) return "a specimen wears what is not there: " + id;
    return {};
}

} // namespace hue::test
