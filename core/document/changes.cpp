#include "core/document/changes.h"

namespace hue {
namespace {

using Wires = std::map<std::string, Source>;
/// Of the wires that both have.
bool sameUnderpasses(const Wires& a, const Wires& b) {
    return std::all_of(a.begin(), a.end(), [&](const auto& wire) {
        const auto other = b.find(wire.first);
        return other == b.end() || other->second.underpass == wire.second.underpass;
    });
}
/// Apart from how they are drawn.
bool sameWires(const Wires& a, const Wires& b) {
    return std::equal(a.begin(), a.end(), b.begin(), b.end(), [](const auto& x, const auto& y) {
        Source as = y.second;
        as.underpass = x.second.underpass;
        return x.first == y.first && x.second == as;
    });
}

/// What a note says is how the board looks.
bool isNote(const Node& n) { return n.kind == "note"; }
bool sameDrawing(const Node& a, const Node& b) {
    return a.title == b.title && a.position == b.position && a.locked == b.locked && sameUnderpasses(a.wires, b.wires) &&
           (!isNote(a) || a.settings == b.settings);
}
bool sameWork(const Node& a, const Node& b) {
    return a.kind == b.kind && a.muted == b.muted && a.constants == b.constants && (isNote(a) || a.settings == b.settings) &&
           sameWires(a.wires, b.wires) && a.extra == b.extra;
}

bool sameBays(const std::vector<Bay>& a, const std::vector<Bay>& b) {
    return std::equal(a.begin(), a.end(), b.begin(), b.end(), [](const Bay& x, const Bay& y) {
        return x.id == y.id && x.name == y.name && x.nodes == y.nodes && x.extra == y.extra && x.inside == y.inside &&
               x.folded == y.folded && x.scratch == y.scratch;
    });
}

Changes between(const Graph& a, const Graph& b) {
    Changes out;
    if (!sameWires(a.channelWires, b.channelWires) || a.channelConstants != b.channelConstants || a.mutedChannels != b.mutedChannels ||
        a.nodes.size() != b.nodes.size())
        out |= Change::Graph;
    if (!(a.lines == b.lines) || !sameBays(a.bays, b.bays) || !sameUnderpasses(a.channelWires, b.channelWires)) out |= Change::Board;
    for (auto x = a.nodes.begin(), y = b.nodes.begin(); x != a.nodes.end() && y != b.nodes.end(); ++x, ++y) {
        if (x->first != y->first) return out | Change::Graph;
        if (x->second == y->second) continue;
        if (!sameWork(*x->second, *y->second)) out |= Change::Graph;
        if (!sameDrawing(*x->second, *y->second)) out |= Change::Board;
    }
    return out;
}

bool sameBut(const Parameter& a, const Parameter& b) {
    return a.id == b.id && a.name == b.name && a.codeName == b.codeName && a.type == b.type && a.mapKind == b.mapKind &&
           a.softMin == b.softMin && a.softMax == b.softMax && a.hardMin == b.hardMin && a.hardMax == b.hardMax && a.unit == b.unit &&
           a.group == b.group && a.description == b.description && a.extra == b.extra && a.follows == b.follows && a.options == b.options &&
           a.build == b.build && a.step == b.step && a.slider == b.slider && a.shownWhen == b.shownWhen && a.shared == b.shared &&
           a.components == b.components && a.alpha == b.alpha && a.strongest == b.strongest && a.mostPixels == b.mostPixels &&
           a.leastChannels == b.leastChannels && a.ofSet == b.ofSet && a.setRole == b.setRole;
}

Changes between(const Master& a, const Master& b) {
    Changes out = between(a.graph, b.graph);
    if (a.name != b.name || a.id != b.id) out |= Change::Names;
    if (!(a.surface == b.surface)) out |= Change::Surface;
    if (a.silencedAdvice != b.silencedAdvice || a.otherLayers != b.otherLayers || a.extra != b.extra) out |= Change::Graph;
    if (!std::equal(a.parameters.begin(), a.parameters.end(), b.parameters.begin(), b.parameters.end(), sameBut))
        return out | Change::Graph;
    if (a.presets != b.presets) out |= Change::Names;
    for (size_t i = 0; i < a.parameters.size(); ++i)
        if (!(a.parameters[i].standard == b.parameters[i].standard)) out |= Change::Values;
    return out;
}

Changes between(const Assembly& a, const Assembly& b) {
    Changes out = between(static_cast<const Master&>(a), static_cast<const Master&>(b));
    if (a.description != b.description || a.version != b.version) out |= Change::Names;
    // The cards that stand for it show another name.
    if (a.name != b.name) out |= Change::Board;
    return out;
}

Changes between(const Instance& a, const Instance& b) {
    Changes out;
    if (a.name != b.name || a.id != b.id || a.parent != b.parent) out |= Change::Names | Change::Values;
    if (a.locked != b.locked || a.tags != b.tags || a.note != b.note) out |= Change::Names;
    if (a.own != b.own || a.extra != b.extra) out |= Change::Values;
    if (a.alphaMode != b.alphaMode || a.alphaCutoff != b.alphaCutoff || a.doubleSided != b.doubleSided) out |= Change::Surface;
    return out;
}

/// Entries that are shared are the same; `whenListed` is what it means that there are others, or in another order.
template <class List> Changes betweenLists(const List& a, const List& b, Changes whenListed) {
    if (a.size() != b.size()) return whenListed;
    Changes out;
    for (size_t i = 0; i < a.size(); ++i)
        if (a[i] != b[i]) out |= a[i]->id == b[i]->id ? between(*a[i], *b[i]) : whenListed;
    return out;
}

} // namespace

Lineup withCameraOf(Lineup of, const Lineup& from) {
    of.view = from.view;
    of.wire = from.wire;
    of.wireMaster = from.wireMaster;
    of.viewLow = from.viewLow;
    of.viewHigh = from.viewHigh;
    of.orbit = from.orbit;
    of.yardstick.split = from.yardstick.split;
    of.yardstick.gain = from.yardstick.gain;
    for (size_t i = 0; i < of.specimens.size() && i < from.specimens.size(); ++i) of.specimens[i].orbit = from.specimens[i].orbit;
    return of;
}

bool keepMadeFiles(Project& of, const Project& from) {
    bool any = false;
    for (std::shared_ptr<const MapFile>& map : of.maps) {
        const MapFile* now = from.map(map->id);
        if (!now || now == map.get() || now->path != map->path || map->origin.from == MapOrigin::From::File) continue;
        if (now->hash == map->hash && now->origin.fingerprint == map->origin.fingerprint) continue;
        MapFile kept = *map;
        kept.hash = now->hash;
        kept.origin.fingerprint = now->origin.fingerprint;
        map = std::make_shared<const MapFile>(std::move(kept));
        any = true;
    }
    for (std::shared_ptr<const Packing>& packing : of.packings) {
        const Packing* now = from.packing(packing->id);
        if (!now || now == packing.get() || now->map != packing->map || now->fingerprint == packing->fingerprint) continue;
        Packing kept = *packing;
        kept.fingerprint = now->fingerprint;
        packing = std::make_shared<const Packing>(std::move(kept));
        any = true;
    }
    return any;
}

Changes changesBetween(const Project& a, const Project& b) {
    Changes out = betweenLists(a.masters, b.masters, Change::Graph | Change::Names | Change::Surface | Change::Values);
    out |= betweenLists(a.assemblies, b.assemblies, Change::Graph | Change::Names);
    out |= betweenLists(a.instances, b.instances, Change::Values | Change::Names | Change::Surface);
    if (a.maps != b.maps || a.packings != b.packings) out |= Change::Maps;
    if (a.meshes != b.meshes) out |= Change::Meshes;
    if (a.paintworks != b.paintworks) out |= Change::Paint;
    if (a.name != b.name || a.extra != b.extra) out |= Change::Names;
    if (a.shared != b.shared) out |= Change::Values | Change::Names;
    if (a.loopSeconds != b.loopSeconds) out |= Change::Values;
    if (!(a.lineup == b.lineup)) {
        const Lineup turned = withCameraOf(a.lineup, b.lineup);
        if (!(turned == a.lineup)) out |= Change::Camera;
        if (!(turned == b.lineup)) out |= Change::Lineup;
    }
    return out;
}

} // namespace hue
