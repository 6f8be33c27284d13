#pragma once
// A finish: a complete surface that travels as one wire, so that its color, normal, roughness and all else come from one place.
// Threads: any. Nothing is kept between calls.
#include "core/nodes/catalogue.h"
#include "core/surface/channels.h"

#include <functional>
#include <map>
#include <optional>

namespace hue {

inline constexpr std::string_view kFinishOfKind = "finish_of", kFinishOfSetting = "of";
/// The whole of the rail, among a graph's channel wires: what brings a finish there feeds every channel that has no wire of its own.
inline constexpr std::string_view kWholeSurface = "finish";

/// Whether a name is that of a channel, or of the whole.
bool isOnRail(std::string_view key);
/// The whole, then the channels in their order.
const std::vector<std::string>& railKeys();

/// What a finish consists of: the channels of surfaces, but for the offset of vertices, which belongs to the mesh; and its height (0..1,
/// the middle where nothing is known of it), which decides where finishes meet and is not lit.
std::span<const ChannelDef> finishParts();
const ChannelDef* findFinishPart(std::string_view key);

/// A finish under construction.
struct Finish {
    uint32_t layers = 0;              ///< of Layer
    std::map<std::string, Val> parts; ///< by key: those of the core and of its layers

    Val part(std::string_view key) const;
};

/// Whether a finish is wired to the whole of the rail, and not muted.
bool feedsWhole(const Graph& graph);

/// Whether a finish with these layers has the part.
bool hasPart(uint32_t layers, const ChannelDef& part);
/// The layers that a Finish card has by its kind.
uint32_t layersOfFinishCard(const Node& node);
/// The name that a Finish card's kind has for a surface.
std::string_view finishKindFor(const SurfaceSettings& surface);

/// All defaults, and the mesh's normal.
Finish plainFinish(Builder& b, uint32_t layers = 0);
/// Whether what a mask hides is computed all the same, or skipped by a branch; see core/program/unseen.h.
enum class Hidden { Computed, Skipped };
/// The setting that says so on cards that join finishes.
SettingDef hiddenSetting(std::string_view standard = "computed");
Hidden hiddenBy(const Lowering& l);
/// A value that is looked at only where the mask is above 0.
Val seenAbove0(Builder& b, Val value, Val mask, Hidden hidden);

/// Two finishes as one: each part that both bring differently as `join` says; it gets what stands behind and before, spread to the width of
/// the part. A layer that only one side has counts as not there on the other; what only describes such a layer stays as that side has it.
Finish joined(const Finish& back, const Finish& front, Builder& b, const std::function<Val(const ChannelDef&, Val, Val)>& join);
/// Normals of the world from `back` (mask 0) to `front` (mask 1): as slopes against the mesh's, of unit length.
Val mixedNormals(Builder& b, Val back, Val front, Val mask, Hidden hidden = Hidden::Computed);
/// From `back` (mask 0) to `front` (mask 1, limited to that range). A layer that only one side has fades with
/// that side. A constant mask of 0 or 1 leaves nothing of the other side.
Finish mixed(Builder& b, const Finish& back, const Finish& front, Val mask, Hidden hidden = Hidden::Computed);
/// A mask sharpened by two heights of 0..1: the higher surface wins where both meet, within `edge` (range of heights over which both are
/// seen, above 0). 0 and 1 stay.
Val sharpenedByHeights(Builder& b, Val mask, Val back, Val front, Val edge);

/// What a Finish of card names: the id of a master or instance, or of a parameter of its board that says which; empty for other cards.
Id finishOf(const Node& node);
/// The finish parameter that a Finish of card names; null for others.
const Parameter* finishParameter(const Master& board, const Node& node);
/// Id of the master or instance that a Finish of card takes, by the default of the parameter where it names one; empty for other cards.
Id finishOf(const Master& board, const Node& node);
/// Whether a wire that starts there leads a finish, as the cards of the board and of its assemblies are wired.
bool leadsFinish(const Project& project, const Graph& graph, const Source& source);

/// Masters and instances that a Finish of card on a board can name without leading back to that board, each master before its instances.
std::vector<Id> wearableOn(const Project& project, const Id& board);
/// Masters and instances whose graphs a board compiles in, through assemblies and through each other, by what their finish parameters are;
/// each once.
std::vector<Id> finishesWornOn(const Project& project, const Master& board);
/// Masters of these; each once.
std::vector<const Master*> mastersWornOn(const Project& project, const Master& board);

} // namespace hue
