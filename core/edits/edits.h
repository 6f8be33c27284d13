#pragma once
// Every edit of the document: a function from one snapshot to the next. The given project is never changed; what an
// edit does not touch is shared. An edit that makes no sense returns an Error and nothing happens.
// Threads: any. Nothing is kept between calls.
#include "core/document/copied_cards.h"
#include "core/document/names.h"
#include "core/document/project.h"

#include <functional>
#include <optional>
#include <span>

namespace hue {
struct SurfaceKind;
}

namespace hue::edit {

using Edit = std::function<Result<Project>(const Project&)>;
/// One after the other; the first error ends it.
Result<Project> chain(const Project& project, std::initializer_list<Edit> edits);

// Every edit that takes a master takes an assembly as well, unless it is one of the surface. Cards that stand for the assembly follow when
// its inputs and outputs are renamed.

// Masters
Result<Project> addMaster(const Project&, Master master);
Result<Project> renameMaster(const Project&, const Id& master, const std::string& name);
/// Also removes its instances.
Result<Project> removeMaster(const Project&, const Id& master);
Result<Project> setSurface(const Project&, const Id& master, const SurfaceSettings& settings);
/// Sets layers and values of a kind. Values that the artist has set, and wires, stay.
Result<Project> applyKind(const Project&, const Id& master, const SurfaceKind& kind);
/// Advice with this code is no longer (or again) given for the master.
Result<Project> silenceAdvice(const Project&, const Id& master, const std::string& code, bool silent);

// Assemblies (made from cards: core/assemblies/fold.h)
Result<Project> addAssembly(const Project&, Assembly assembly);
Result<Project> renameAssembly(const Project&, const Id& assembly, const std::string& name);
Result<Project> describeAssembly(const Project&, const Id& assembly, const std::string& description);
/// Raises its version by one.
Result<Project> raiseVersion(const Project&, const Id& assembly);
/// Refused while a card stands for it: assembly.in-use, with the first places.
Result<Project> removeAssembly(const Project&, const Id& assembly);

// Cards
/// A graph in the place of a board's; for what makes one as a whole. Bays that hold nothing go.
Result<Project> setGraph(const Project&, const Id& master, Graph graph);
Result<Project> addNode(const Project&, const Id& master, Node node);
Result<Project> removeNodes(const Project&, const Id& master, const std::vector<Id>& nodes);
Result<Project> moveNodes(const Project&, const Id& master, const std::map<Id, Point>& positions);
Result<Project> renameNode(const Project&, const Id& master, const Id& node, const std::string& title);
Result<Project> muteNodes(const Project&, const Id& master, const std::vector<Id>& nodes, bool muted);
/// Whether savings that are found leave cards alone.
Result<Project> lockNodes(const Project&, const Id& master, const std::vector<Id>& nodes, bool locked);
Result<Project> setConstant(const Project&, const Id& master, const Id& node, const std::string& port, const Value& value);
Result<Project> setSetting(const Project&, const Id& master, const Id& node, const std::string& key, const std::string& value);
/// Another node in the card's place: its wires, values and choices stay where the new one has a port or choice of that name, then where
/// it has a free port of the same kind, in order. `lost` receives what found no place: "input mix" and the like.
/// `by`: its kind and choices.
Result<Project> replaceNode(const Project&, const Id& master, const Id& node, const Node& by, std::vector<std::string>* lost = nullptr);

// Copies (the clipboard's text: core/project/cards_text.h)
/// Copies of cards, with the wires among them and those that come from outside. `made` receives old id -> new id.
Result<Project> duplicateNodes(const Project&, const Id& master, const std::vector<Id>& nodes, Point offset,
                               std::map<Id, Id>* made = nullptr);
/// Cards with the parameters and maps that they read, and bays of which all cards are among them. `folder`: of the project, for the paths.
CopiedCards copyCards(const Project&, const Id& master, const std::vector<Id>& nodes, const std::string& folder = {});
/// Cards put on a board. Wires among them come along, those from outside where the card that they start at is on this board. A parameter
/// is the one with the same id or the same name and type, else it is added; a map the one with the same content, else it is added.
Result<Project> pasteCards(const Project&, const Id& master, const CopiedCards& cards, Point offset, std::map<Id, Id>* made = nullptr);

/// Maps from elsewhere: one with the same content is the same, others are added. `now` receives old id -> id here.
Result<Project> bringMaps(const Project&, const std::vector<MapFile>& maps, std::map<Id, Id>* now);
/// Assemblies from elsewhere, that read those maps. One with the same id stays as it is here, or is replaced; its cards stand for the new
/// one then. Refused where one would come to lie within itself: assembly.holds-itself.
Result<Project> bringAssemblies(const Project&, const std::vector<AssemblyPtr>& assemblies, const std::map<Id, Id>& maps, bool replace);

// Wires. A wire into a port replaces the one that was there. One that would close a loop is refused.
Result<Project> connect(const Project&, const Id& master, const Source& source, const Id& node, const std::string& port);
Result<Project> disconnect(const Project&, const Id& master, const Id& node, const std::string& port);
Result<Project> connectChannel(const Project&, const Id& master, const Source& source, const std::string& channel);
/// A new card of that kind in a wire on its way to `to` (a channel, or the whole, when that names no card): the wire goes on to its input
/// `in`, and what its output `out` gives goes to where the wire went.
Result<Project> putBetween(const Project&, const Id& master, const Source& wire, const std::string& kind, const std::string& in,
                           const std::string& out, const Place& to);
/// What the surface shows becomes a finish, and another is mixed over it by a painted channel that no card of the board reads yet; the rail
/// takes the mix as a whole. `worn`: the master or instance that lies over it; empty for a Finish card of its own. Channels that are muted
/// stay where they are. Layers of the other are added to the surface. Errors: finish.of-itself; finish.no-channel.
Result<Project> mixOver(const Project&, const Id& master, const Id& worn);
Result<Project> disconnectChannel(const Project&, const Id& master, const std::string& channel);
/// Of the wire into a port; into a channel when `node` is empty.
Result<Project> setTake(const Project&, const Id& master, const Id& node, const std::string& port, const std::string& take);
Result<Project> setChannelConstant(const Project&, const Id& master, const std::string& channel, const Value& value);
Result<Project> muteChannel(const Project&, const Id& master, const std::string& channel, bool muted);

/// Every wire that starts at one output starts at another; takes stay where they fit. Refused when one of them would close a loop.
Result<Project> moveWires(const Project&, const Id& master, const Source& from, const Source& to);
/// What two inputs of a card bring, wire or value, changes places.
Result<Project> swapInputs(const Project&, const Id& master, const Id& node, const std::string& a, const std::string& b);
/// Has the wire into a port (a channel when `node` is empty) computed at the vertices, or per pixel again.
Result<Project> setPerVertex(const Project&, const Id& master, const Id& node, const std::string& port, bool perVertex);
/// Draws the wire into a port (a channel when `node` is empty) at its ends alone, under a name; an empty name draws it whole again.
Result<Project> setUnderpass(const Project&, const Id& master, const Id& node, const std::string& port, const std::string& name);

// Bays
/// Around cards, and around the bays all of whose cards are among them. It lies in the innermost bay that held all of them.
Result<Project> addBay(const Project&, const Id& master, const std::string& name, const std::vector<Id>& nodes);
/// Puts cards into a bay, out of the one in which they lie; an empty id: out of any.
Result<Project> putInBay(const Project&, const Id& master, const Id& bay, const std::vector<Id>& nodes);
Result<Project> foldBay(const Project&, const Id& master, const Id& bay, bool folded);
/// For trying things: what lies in it is not mentioned among the problems.
Result<Project> setScratch(const Project&, const Id& master, const Id& bay, bool scratch);
Result<Project> renameBay(const Project&, const Id& master, const Id& bay, const std::string& name);
/// Its cards stay; bays within it come to lie in the one around it.
Result<Project> removeBay(const Project&, const Id& master, const Id& bay);

// Parameters
Result<Project> addParameter(const Project&, const Id& master, Parameter parameter);
/// Replaces the one with the same id. Values of instances are brought inside the hard limits.
Result<Project> changeParameter(const Project&, const Id& master, const Parameter& parameter);
/// Its cards become constants with the default; a map, curve or gradient goes to the cards that read it, a finish to those that take it.
/// Own values of instances are kept (strays.h).
Result<Project> removeParameter(const Project&, const Id& master, const Id& parameter);
/// A vector or color becomes numbers, one for each component, named after them; its cards put them together. Values of instances and
/// presets go along. Errors: split.one-number, split.assembly, name.taken.
Result<Project> splitParameter(const Project&, const Id& master, const Id& parameter);
/// What read `gone` reads `kept`, which is of the same kind. An instance that has its own value of `gone` alone takes it along; of two own
/// values that of `kept` counts, and the other is kept aside. Errors: merge.kinds, edit.no-parameter.
Result<Project> mergeParameters(const Project&, const Id& master, const Id& kept, const Id& gone);
/// Ranges of many at once: of the slider, and what is never left. Those without a range are left alone. Errors: as changeParameter.
Result<Project> setLimits(const Project&, const Id& master, const std::vector<Id>& parameters,
                          const std::optional<std::pair<float, float>>& slider, const std::optional<std::pair<float, float>>& hard);
/// What a Finish of card takes becomes the default of a new finish parameter, which the card names then. Error: expose.no-constant.
Result<Project> exposeFinish(const Project&, const Id& master, const Id& node);
/// The values of what is worn, of all its parameters, as a preset of its master; one of the same name is replaced. Errors: name.empty.
Result<Project> keepPreset(const Project&, const Id& worn, const std::string& name);
/// Its values become own values of an instance, or defaults of a master. Errors: preset.gone, instance.locked.
Result<Project> usePreset(const Project&, const Id& worn, const std::string& name);
Result<Project> removePreset(const Project&, const Id& master, const std::string& name);
/// Errors: name.empty, name.taken, value.not-finite.
Result<Project> addShared(const Project&, SharedParameter shared);
Result<Project> changeShared(const Project&, const SharedParameter& shared);
/// Parameters that followed it keep its value as their default.
Result<Project> removeShared(const Project&, const Id& shared);
/// A number or a color takes its default from a shared parameter of the same kind; empty: from itself again. Error: shared.kind.
Result<Project> followShared(const Project&, const Id& master, const Id& parameter, const Id& shared);
/// Before the parameter at `index` of the resulting list.
Result<Project> moveParameter(const Project&, const Id& master, const Id& parameter, size_t index, const std::string& group);
/// A Constant card becomes the card of a new parameter with its value; or an unwired port gets such a card.
/// Unit and help are those of the port, where the parameter has none.
Result<Project> expose(const Project&, const Id& master, const Id& node, const std::string& port, Parameter parameter);
/// The values of a card that can be exposed; none that is better left to the mesh, such as a UV.
std::vector<std::string> exposablePorts(const Project&, const Graph& graph, const Id& node);
/// Each (card, port) becomes a parameter of its own, called after what it is.
Result<Project> exposeSeveral(const Project&, const Id& master, const std::vector<std::pair<Id, std::string>>& values);
/// A channel that nothing is wired to gets the card of a new parameter, which takes name, range, limits, unit and help from the channel.
Result<Project> exposeChannel(const Project&, const Id& master, const std::string& channel, Point at);

// Instances
Result<Project> addInstance(const Project&, Instance instance);
/// A child of a master or instance, named after it, with nothing of its own. Where the first specimen wears that master it wears the
/// child instead, so that tuning is seen.
Result<Project> deriveInstance(const Project&, const Id& parent, const Id& id);
Result<Project> renameInstance(const Project&, const Id& instance, const std::string& name);
/// Its children become children of its parent, with the values that they inherited from it as their own.
Result<Project> removeInstance(const Project&, const Id& instance);
/// For a number the hard limits hold. For a master or assembly the default changes.
Result<Project> setOwn(const Project&, const Id& instance, const Id& parameter, const ParameterValue& value);
Result<Project> clearOwn(const Project&, const Id& instance, const Id& parameter);
/// Refuses where an instance is locked: instance.locked. What it inherits goes on changing.
Outcome unlocked(const Project&, const Instance& instance);
Result<Project> setLocked(const Project&, const std::vector<Id>& instances, bool locked);
/// Words to find instances by; blanks around them, empty ones and doubles go.
Result<Project> setTags(const Project&, const std::vector<Id>& instances, std::vector<std::string> tags);
Result<Project> setNote(const Project&, const Id& instance, const std::string& note);
/// What becomes of an instance's values under another parent: ids of parameters.
struct ParentChange {
    std::vector<Id> kept;    ///< own values that stay its own; of the new master, as are those below
    std::vector<Id> changed; ///< what it inherits and becomes another value
    std::vector<Id> fresh;   ///< what its old master does not have
    std::vector<Id> lost;    ///< of the old master: own values that the new one has no place for; they stay with the instance, idle
};
/// Errors as those of changeParent().
Result<ParentChange> parentChange(const Project&, const Id& instance, const Id& parent);
/// A master or an instance, of another master too: own values go to parameters of the same kind and name, and so do those of its children.
/// Errors: instance.own-parent, where it would derive from itself; instance.no-parent.
Result<Project> changeParent(const Project&, const Id& instance, const Id& parent);
/// The parent takes an own value of an instance, which inherits it from then on. Error: instance.inherits.
Result<Project> pushUp(const Project&, const Id& instance, const Id& parameter);
/// Everything that derives from a master or an instance inherits its value again. Error: instance.inherits.
Result<Project> pullDown(const Project&, const Id& worn, const Id& parameter);
/// A child of `parent` that looks as `like` does, with own values only where the two differ. `instance` gives id and name.
Result<Project> instanceOfDifferences(const Project&, const Id& like, const Id& parent, Instance instance);
struct OwnSurface {
    std::optional<AlphaMode> alphaMode;
    std::optional<float> alphaCutoff;
    std::optional<bool> doubleSided;
};
Result<Project> setOwnSurface(const Project&, const Id& instance, const OwnSurface& own);

// Files
Result<Project> addMap(const Project&, MapFile map);
Result<Project> changeMap(const Project&, const MapFile& map);
/// Refused while something reads it: map.in-use, with the first places.
Result<Project> removeMap(const Project&, const Id& map);
/// Where a map is read: "Bodywork: Image" and the like, for people.
std::vector<std::string> readersOf(const Project&, const Id& map);
struct SetMember {
    Id map;
    std::string role;
};
/// Makes maps a set; each leaves the one it was in. An empty name dissolves it. Where nothing is left of a set that parameters name, those
/// name the new one; a dissolved one that is named is refused: set.in-use.
Result<Project> makeSet(const Project&, const std::string& name, const std::vector<SetMember>& members);
/// The maps of a set become own values of an instance (or defaults of a master), each at the map parameter for its role.
/// Refused when none fits: set.no-parameter. Where the master has map set parameters, those that fit take the set, and maps that are of
/// them lose their own values.
Result<Project> wearSet(const Project&, const Id& worn, const std::string& set);
/// Cards for a set's maps on a master's board: each read through a map parameter, tiled together, wired to the channel for its role (a
/// packed map by its recipe; one packed elsewhere as glTF has it: occlusion, roughness, metallic). Replaces the wires of those channels.
/// `left` receives the names of maps that no channel reads, such as heights. Refused when that is all of them: set.nothing-to-place.
Result<Project> placeSet(const Project&, const Id& master, const std::string& set, std::vector<std::string>* left = nullptr);
/// Wherever a map of one set is read, that of the other set with the same role is read instead. `worn`: only by this instance
/// or master; empty: by all.
Result<Project> swapSets(const Project&, const std::string& from, const std::string& to, const Id& worn = {});
/// Map parameters take their maps of the set that a map set parameter names, each what its name and kind ask for; `set` empty: of
/// themselves again. Errors: edit.no-parameter, set.kind.
Result<Project> takeOfSet(const Project&, const Id& master, const std::vector<Id>& parameters, const Id& set);
/// The role that a map parameter asks for, by its name and kind.
std::string roleOf(const Parameter&);
/// Everything that read the wire reads the map instead, through a new Image card. `width`: components of the wire.
Result<Project> replaceByMap(const Project&, const Id& master, const Source& wire, int width, const Id& map);
Result<Project> addPacking(const Project&, Packing packing);
Result<Project> changePacking(const Project&, const Packing& packing);
Result<Project> removePacking(const Project&, const Id& packing);
/// Cards of all masters that read the packing's sources read the packed map instead, with takes; inverted and remapped lanes are
/// turned back by cards. Map parameters are replaced by one for the packed map where no instance sets them.
/// Refused with the reason and the place: packed.not-made, packed.read-otherwise, packed.instance, packed.unread.
Result<Project> usePacked(const Project&, const Id& packing);
Result<Project> addMesh(const Project&, MeshFile mesh);
Result<Project> changeMesh(const Project&, const MeshFile& mesh);

// Paint
/// A file of its own in the folder paint, by its name, where it has none. Without paint: edit.no-paint.
Result<Project> addPaintwork(const Project&, Paintwork paintwork);
Result<Project> renamePaintwork(const Project&, const Id& paintwork, const std::string& name);
/// Specimens that wear it go without; its file stays on the disk.
Result<Project> removePaintwork(const Project&, const Id& paintwork);
Result<Project> setPaint(const Project&, const Id& paintwork, const std::shared_ptr<const PaintData>& paint);
/// Rules of a channel, in the place of those that it has; none where there are no rules. What they give is reckoned by reckonLive().
/// Errors: edit.no-paintwork, edit.no-channel.
Result<Project> setLiveRules(const Project&, const Id& paintwork, LiveRules rules);
/// `paintwork` empty: what the mesh brings along. Refused where it is of another mesh: lineup.other-mesh.
Result<Project> wearPaintwork(const Project&, size_t specimen, const Id& paintwork);

// Decals of a specimen
/// On top of the others, with an id where it has none and a name that is free. What is no number, and sizes that are not above 0:
/// edit.not-a-number, decal.size.
Result<Project> addDecal(const Project&, size_t specimen, Decal decal);
/// The decal with that id becomes this one; values are brought inside of their ranges.
Result<Project> changeDecal(const Project&, size_t specimen, const Decal& decal);
Result<Project> removeDecal(const Project&, size_t specimen, const Id& decal);
/// To another place in the order, 0 the lowest.
Result<Project> orderDecal(const Project&, size_t specimen, const Id& decal, size_t place);
/// The map of words that a decal shows; null where it shows something else.
const MapFile* wordsOn(const Project&, const Decal& decal);
/// Another map of words takes the place of the one that the decal shows; letters stay as large as they are. Others that wear the same keep
/// theirs. What nobody reads any more goes. Error: decal.no-words.
Result<Project> rewordDecal(const Project&, size_t specimen, const Id& decal, const MapFile& words);
/// Whether a decal can lie on what is worn: its master is there and does not lead to the other's board.
bool canLieOn(const Project&, const Decal& decal, const Master& beneath);
/// A master with decals laid over what it shows, as cards of its board; the first lies lowest, those that cannot lie on it are passed over.
/// The same decals give the same cards.
Result<Project> layDecals(const Project&, const Id& master, std::span<const Decal> decals);

// Lineup
Result<Project> setLineup(const Project&, const Lineup& lineup);
Result<Project> wear(const Project&, size_t specimen, size_t slot, const Id& worn);

} // namespace hue::edit
