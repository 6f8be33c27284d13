#pragma once
// The document: plain values, shared between snapshots and never changed once shared (see edits.h for how to get the
// next one). Every struct keeps in `extra` the fields of its JSON object that this version does not know.
// Threads: many may read one that nobody writes.
#include "core/base/kept.h"
#include "core/base/result.h"
#include "core/base/value.h"
#include "core/document/lookup.h"
#include "core/document/recipe.h"
#include "core/images/map_kind.h"

#include <cstdint>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <tuple>
#include <vector>

namespace hue {

/// Where a wire starts. `take` picks components: "" (all), letters of rgba or xyzw ("r", "xy"), or "luma".
struct Source {
    Id node;
    std::string port;
    std::string take;
    std::string extra{};
    std::string underpass{}; ///< name under which it is drawn at its two ends alone; empty: with a line between
    bool perVertex = false;  ///< computed at the vertices of the mesh, and carried over the triangles; a map is not
    bool operator==(const Source&) const = default;
};

struct Point {
    float x = 0, y = 0;
    bool operator==(const Point&) const = default;
};

struct Node {
    Id id;
    std::string kind;  ///< key of its definition in the catalogue
    std::string title; ///< empty: the definition's name
    Point position;    ///< of the card's top left corner on the board, in board units
    bool muted = false;
    bool locked = false;                         ///< no saving that is found by itself changes it
    std::map<std::string, Value> constants;      ///< values of unwired ports that differ from the definition's default
    std::map<std::string, std::string> settings; ///< choices that are compiled in, such as a noise's octaves
    std::map<std::string, Source> wires;         ///< by input port
    std::string extra;
};
using NodePtr = std::shared_ptr<const Node>;

/// A named box around cards and other bays; its rectangle is always that of what it holds. A card lies in at most one bay.
struct Bay {
    Id id;
    std::string name;
    std::vector<Id> nodes; ///< cards that lie in it and in no bay within it
    std::string extra;
    Id inside{};          ///< the bay that it lies in, or empty
    bool folded = false;  ///< drawn as one box
    bool scratch = false; ///< for trying things: what lies in it is not mentioned among the problems
};

/// A board as lines of text (see core/master_text/master_text.h), and which name in them is which card.
struct BoardText {
    std::string text;
    std::map<std::string, Id> cards; ///< by name
    bool operator==(const BoardText&) const = default;
};

struct Graph {
    std::map<Id, NodePtr> nodes;
    std::vector<Bay> bays; ///< in no order
    std::map<std::string, Source> channelWires;
    std::map<std::string, Value> channelConstants;
    std::vector<std::string> mutedChannels;
    BoardText lines; ///< as somebody wrote them last, with remarks; they may lag behind. Empty: nobody has

    const Node* find(const Id& id) const {
        auto it = nodes.find(id);
        return it == nodes.end() ? nullptr : it->second.get();
    }
};

enum class ParameterType { Number, Vector2, Vector3, Color, Map, Integer, OnOff, Choice, Curve, Gradient, Finish, MapSet };

/// How the length of a slider is shared out among its values.
enum class SliderCurve {
    Even,
    FineBelow, ///< the square of the way: half of it is for the lowest quarter
    Decades,   ///< equal factors take equal ways; for ranges that begin above 0
};

/// A parameter is shown only while another one, a switch or a choice, has one of some values.
struct ShownWhen {
    Id parameter{};        ///< empty: always
    std::vector<int> is{}; ///< 0 off, 1 on; or places among the options
    bool operator==(const ShownWhen&) const = default;
};

/// What an input of an assembly reads while nothing is wired to it; of a master's parameters always Value.
enum class Follows { Value, Uv, Normal, Position };

/// The value of a parameter: `value` for numbers, vectors and colors; for others `map`, which is the id of a MapFile or empty for maps, the
/// text of a curve or gradient (drawn.h), the id of the master or instance that a finish is taken of, or the name of a map set.
struct ParameterValue {
    Value value;
    Id map;
    bool operator==(const ParameterValue&) const = default;
    /// Some order, for lookup.
    bool operator<(const ParameterValue& o) const {
        return std::tie(value.width, value.v, map) < std::tie(o.value.width, o.value.v, o.map);
    }
};

struct Parameter {
    Id id;
    std::string name;     ///< for people
    std::string codeName; ///< for code: letters, digits, underscore
    ParameterType type = ParameterType::Number;
    MapKind mapKind = MapKind::Color;
    ParameterValue standard;               ///< default
    float softMin = 0, softMax = 1;        ///< of the slider
    float hardMin = -1e9f, hardMax = 1e9f; ///< never left
    std::string unit, group, description;
    std::string extra;
    Follows follows = Follows::Value;      ///< Uv: of a Vector2; Normal (world space), Position (object space): of a Vector3
    std::vector<std::string> options = {}; ///< of a choice, two to kMostOptions; its values are their places, from 0
    bool build = false;                    ///< of a switch or a choice: resolved when compiling. Each combination in use is a build
    float step = 0;                        ///< from one value of the slider to the next, from its low end on; 0: all of them
    SliderCurve slider = SliderCurve::Even;
    ShownWhen shownWhen = {};
    Id shared = {};                           ///< of a SharedParameter whose value is the default, as long as there is one
    std::vector<std::string> components = {}; ///< names of the components of a vector; empty: without
    bool alpha = false;                       ///< of a color: it has a fourth component, 0..1
    float strongest = 1;                      ///< of a color: the largest component it is meant to have, 1..kStrongest; above 1 it glows
    int mostPixels = 0;                       ///< of a map: the longest side it is meant to have; 0: any
    int leastChannels = 0;                    ///< of a map: how many channels it is to have at least, 1..4; 0: any
    Id ofSet = {};                            ///< of a map: the map set parameter whose set gives it where nobody has an own one; or empty
    std::string setRole = {};                 ///< what it takes of that set: a role of the set's maps

    static constexpr int kMostOptions = 8;
    static constexpr float kStrongest = 1000;
    int width() const; ///< components of its value; 0 where it is ParameterValue::map
    /// Its card's wire leads something that is read at a place.
    bool leadsMap() const { return type == ParameterType::Map || type == ParameterType::Curve || type == ParameterType::Gradient; }
    /// Has one of a few values that have names: off and on, or those of a choice.
    bool isNamed() const { return type == ParameterType::OnOff || type == ParameterType::Choice; }
    /// Resolved when compiling: each of its values is a build of its own.
    bool isBuildChoice() const { return type == ParameterType::Finish || (build && isNamed()); }
};

enum class AlphaMode { Opaque, Mask, Blend };

/// Parts of the surface beyond glTF's core; each brings channels. Bits of SurfaceSettings::layers.
enum class Layer : uint32_t {
    Reflection = 1 << 0,   ///< index of refraction, strength and tint of the dielectric reflection
    Coat = 1 << 1,         ///< a clear coat over everything
    Sheen = 1 << 2,        ///< the fuzz of cloth
    Film = 1 << 3,         ///< a thin film with its colors of interference
    Anisotropy = 1 << 4,   ///< highlights stretched along a direction
    Transmission = 1 << 5, ///< light passes through; alone: a thin wall
    Volume = 1 << 6,       ///< with transmission: solid, with refraction and absorption
};

struct SurfaceSettings {
    AlphaMode alphaMode = AlphaMode::Opaque;
    float alphaCutoff = 0.5f; ///< 0..1
    bool doubleSided = false;
    bool unlit = false;
    bool simpleDiffuse = false; ///< scatters light evenly and reflects none
    bool decal = false;         ///< worn by decals: its alpha says how much it covers of what lies beneath
    uint32_t layers = 0;        ///< of Layer
    bool highlightsFade = true; ///< with blend: whether reflections fade with alpha, or stay on what alpha makes clear
    bool has(Layer layer) const { return (layers & uint32_t(layer)) != 0; }
    bool operator==(const SurfaceSettings&) const = default;
};

/// Values of a master's parameters under a name, to be given to instances.
struct Preset {
    std::string name;
    std::map<Id, ParameterValue> values; ///< by parameter id
    std::string extra{};
    bool operator==(const Preset&) const = default;
};

struct Master {
    Id id;
    std::string name;
    Graph graph;
    std::vector<Parameter> parameters;
    SurfaceSettings surface;
    std::vector<std::string> otherLayers;    ///< of the file, which this version does not know
    std::vector<std::string> silencedAdvice; ///< codes of advice that stylised work does not want to hear
    std::string extra;
    std::vector<Preset> presets = {}; ///< with names that differ

    const Parameter* parameter(const Id& parameterId) const;
};
using MasterPtr = std::shared_ptr<const Master>;

struct AssemblyCard; // core/nodes/assembly_card.h

/// A reusable graph with ports of its own, used as a node. Its parameters are the inputs of its card, by their code names; its Output
/// cards are the outputs. It is edited as a master is, and has no surface.
struct Assembly : Master {
    std::string description; ///< one sentence
    int version = 1;         ///< raised when it is shared with changes
    Kept<AssemblyCard> card; ///< how it looks from outside
};
using AssemblyPtr = std::shared_ptr<const Assembly>;

struct Instance {
    Id id;
    std::string name;
    Id parent;                          ///< a master or another instance
    std::map<Id, ParameterValue> own;   ///< by parameter id; what is not here is inherited
    std::optional<AlphaMode> alphaMode; ///< own surface settings, where set
    std::optional<float> alphaCutoff;
    std::optional<bool> doubleSided;
    std::string extra;
    bool locked = false;                ///< its values do not change until it is unlocked
    std::vector<std::string> tags = {}; ///< words to find it by, in no order
    std::string note = {};              ///< for people
};
using InstancePtr = std::shared_ptr<const Instance>;

/// Where a map comes from that was made here. It is made again when what it comes from changes.
struct MapOrigin {
    enum class From { File, Wire, Packing, Words } from = From::File;
    Id worn;     ///< From::Wire: the master or instance whose wire it is
    Source wire; ///< of that master; From::Packing needs none, the packing names its map
    int width = 1024, height = 1024;
    SampleType type = SampleType::U8;
    bool seamless = false;   ///< its edges are made to meet
    std::string fingerprint; ///< of what it was made from
    std::string words{};     ///< From::Words: that stand on it; width and height are those of their picture
    std::string extra{};
    bool operator==(const MapOrigin&) const = default;
};

/// An image file of the project. `path` is relative to the project's folder, or absolute until the project is saved.
struct MapFile {
    Id id;
    std::string name;
    std::string path;
    MapKind kind = MapKind::Color;
    Wrap wrap = Wrap::Repeat;
    std::string hash; ///< of the file's content when it was last seen, 16 hexadecimal digits
    std::string extra;
    std::string set{};    ///< name of the map set it belongs to, or empty
    std::string role{};   ///< what it holds there: "base color", "normal", ... (see roles())
    std::string format{}; ///< key of the block format it is compressed to for the graphics card; empty: plain
    MapOrigin origin{};
};

/// A packed map of the project: a recipe, the maps it reads, and the map it makes.
struct Packing {
    Id id;
    Recipe recipe;
    std::map<std::string, Id> sources; ///< by role of the recipe
    Id map;                            ///< the packed map; empty until it was made
    std::string fingerprint;           ///< of recipe and sources when it was last made
    std::string extra;
};

struct MeshFile {
    Id id;
    std::string name;
    std::string path;
    std::string extra;
};

class PaintData; // core/mesh/paint_data.h

/// What is painted on one mesh, as one placement wears it. The paint lies in a GLB file of the project's folder, and in memory while the
/// project is open.
/// Rules of a channel that stay live below what the hand has painted there: reckoned again when what they read has changed.
struct LiveRules {
    int channel = 0;                ///< 0..7
    std::vector<std::string> rules; ///< as they are typed, the first below the others
    std::string fingerprint;        ///< of what they were reckoned from
    std::string extra{};
};

struct Paintwork {
    Id id;
    std::string name;
    Id mesh;                                  ///< as a specimen names it
    std::string path;                         ///< of the GLB, relative to the project's folder
    std::string fingerprint;                  ///< of the paint as the project's file names it; see PaintData
    std::shared_ptr<const PaintData> paint{}; ///< null where it could not be read; its file stays as it is then
    std::vector<LiveRules> live{};            ///< one for a channel at most
    const LiveRules* liveOf(int channel) const;
    std::string extra{};
};

/// Something that stands behind, inside or beneath a specimen; see core/mesh/things.h for the kinds.
struct Thing {
    std::string kind;
    std::array<float, 3> position{}; ///< metres, from the specimen's place
    float size = 1;
    bool castsShadow = true;
    std::string extra{};
    bool operator==(const Thing&) const = default;
};

/// From where a specimen is seen.
struct Orbit {
    float yaw = 30, pitch = 18; ///< degrees
    float standOff = 1;         ///< distance as a multiple of the one at which the mesh fits
    float panX = 0, panY = 0;   ///< in heights of the picture; positive moves the specimen right and up
    std::string extra{};
    bool operator==(const Orbit&) const = default;
};

/// How a specimen repeats its mesh. Turn, lift and size change evenly from the first copy to the last.
struct Placements {
    enum class Form { Row, Grid, Ring };
    static constexpr int kMost = 64;
    Form form = Form::Row;
    int count = 5;         ///< 2..64; across, of a grid
    int rows = 3;          ///< of a grid, 1..32; copies beyond kMost are left out
    float spacing = 1.25f; ///< from one to the next, as a multiple of the mesh's width; 0.1..10
    float turn = 0;        ///< degrees about Y by which the last is turned more than the first
    float lift = 0;        ///< metres by which the last stands higher; -100..100
    float size = 1;        ///< of the last as a multiple of the first; 0.1..10
    std::string extra{};
    bool operator==(const Placements&) const = default;
};

/// A box that lies on a specimen's mesh, and what is projected through it. Object space, metres. Higher ones lie over lower ones.
struct Decal {
    /// Channels that it can be kept off, or weighted, in the order of `weights`.
    static constexpr std::string_view kWeighted[] = {"base_color", "normal", "roughness", "metallic", "occlusion", "emissive"};
    Id id;
    std::string name;
    Id wears;                                       ///< an instance of a master of the kind decal, or such a master
    std::array<float, 3> position{};                ///< middle of the box
    std::array<float, 3> facing{0, 0, 1};           ///< out of the surface; any length above 0
    float turn = 0;                                 ///< degrees about `facing`, counter-clockwise seen from outside
    float width = 0.5f, height = 0.5f;              ///< 1e-4 to 1e4
    float depth = 0.2f;                             ///< half of it to either side; 1e-4 to 1e4
    bool mirrored = false;                          ///< left and right change places
    float fadeFrom = 60, fadeTo = 80;               ///< degrees that the surface looks away at which it begins to fade and is gone; 0..90
    float depthFade = 0.25f;                        ///< 0..1: the share of the depth, at either end, over which it fades
    std::array<float, 6> weights{1, 1, 1, 1, 1, 1}; ///< 0..1, of kWeighted
    std::vector<std::string> keptOff = {};          ///< names of slots that it is not seen on
    bool hidden = false;
    bool locked = false; ///< the mouse does not take hold of it
    std::string extra{};
    bool operator==(const Decal&) const = default;
};

/// One picture of the lineup. `mesh` is a MeshFile id or a shape ("shape:sphere", or "shape:sphere/3" with a density of
/// 1 to 5); `wears` one id per slot.
struct Specimen {
    Id mesh = "shape:sphere";
    std::vector<Id> wears = {};
    Id paintwork = {};              ///< painted on its vertices; empty: what the mesh brings along
    std::vector<Decal> decals = {}; ///< on its mesh, the lowest first
    std::vector<Thing> things = {};
    std::optional<Orbit> orbit = {};           ///< own; else the lineup's
    std::string light = {};                    ///< own; empty: the lineup's
    std::optional<Placements> placements = {}; ///< none: the mesh stands once, at the origin
    int subdivisions = 0;                      ///< each makes four triangles of one, for displacement; 0..5
    bool castsShadow = true;
    std::string extra{};
    bool operator==(const Specimen&) const = default;
};

/// What the specimens are compared against.
struct Yardstick {
    enum class What { None, Specimen, Worn, Maps, Picture, Original }; ///< Original: the same with its maps not compressed
    enum class Show { Beside, Split, Difference };
    What what = What::None;
    int specimen = 0;       ///< index, for Specimen
    Id worn;                ///< for Worn
    std::array<Id, 4> maps; ///< base color, occlusion-roughness-metallic, normal, height; for Maps
    std::string picture;    ///< path, for Picture; relative to the project's folder where it lies in it
    Show show = Show::Split;
    float split = 0.5f; ///< 0..1 from the left
    float gain = 4;     ///< of the difference
    std::string extra{};
    bool operator==(const Yardstick&) const = default;
};

struct Lineup {
    std::vector<Specimen> specimens;
    std::string view = "lit";
    Source wire; ///< what the view "wire" shows, on specimens that wear `wireMaster`
    Id wireMaster;
    float viewLow = 0, viewHigh = 1;   ///< range that unlit views show from black to white
    std::string light = "sodium-shed"; ///< of a light made by code, or the path of an HDR or EXR file
    float rotation = 0;                ///< of the light about Y, degrees
    float sun = 1;                     ///< strength of the light's sun
    float exposure = 0;                ///< in stops
    std::string tone = "neutral";
    float glare = 0.1f;                ///< 0..1
    std::string backdrop = "surround"; ///< "surround", "environment", "depot"
    Orbit orbit;                       ///< shared
    Yardstick yardstick;
    std::string extra{};
    bool operator==(const Lineup&) const = default;
};

/// One value for parameters of many masters, such as the time of day: those that follow it have it as their default.
struct SharedParameter {
    /// What its value does as time goes on.
    enum class Moves {
        Not,
        Swells, ///< from `value` to `until` and back, evenly as a sine
        Runs,   ///< from `value` to `until`, and begins anew
    };
    Id id;
    std::string name;
    ParameterType type = ParameterType::Number; ///< Number or Color
    Value value = Value::number(0), until = Value::number(1);
    float softMin = 0, softMax = 1; ///< of the slider
    std::string unit = {};
    Moves moves = Moves::Not;
    float period = 8; ///< seconds, above 0
    std::string extra{};
    bool operator==(const SharedParameter&) const = default;
    bool isMoving() const { return moves != Moves::Not; }
};

struct Project {
    std::string name;
    std::vector<MasterPtr> masters;
    std::vector<AssemblyPtr> assemblies;
    std::vector<InstancePtr> instances;
    std::vector<std::shared_ptr<const MapFile>> maps;
    std::vector<std::shared_ptr<const Packing>> packings;
    std::vector<std::shared_ptr<const MeshFile>> meshes;
    std::vector<std::shared_ptr<const Paintwork>> paintworks;
    Lineup lineup;
    std::vector<SharedParameter> shared = {};
    float loopSeconds = 8;
    std::string extra;
    Lookup masterPlaces = {}, instancePlaces = {}, mapPlaces = {};

    const Master* master(const Id& id) const;
    const Assembly* assembly(const Id& id) const;
    /// What has a board: the master or assembly with that id.
    const Master* board(const Id& id) const;
    /// All of them, the masters first.
    std::vector<const Master*> boards() const;
    const Instance* instance(const Id& id) const;
    const MapFile* map(const Id& id) const;
    const Packing* packing(const Id& id) const;
    /// The map of a set that holds a role; null when there is none.
    const MapFile* mapOfSet(const std::string& set, const std::string& role) const;
    /// Names of the sets, in the order of their first map.
    std::vector<std::string> mapSets() const;
    const SharedParameter* sharedParameter(const Id& id) const;
    const MeshFile* mesh(const Id& id) const;
    const Paintwork* paintwork(const Id& id) const;
    /// The master at the end of the chain of parents of a master or instance id; nullptr when there is none.
    const Master* masterOf(const Id& worn) const;
    /// The instances from `worn` up to its master, the nearest first; empty for a master, and where the parents lead nowhere or in a
    /// circle.
    std::vector<const Instance*> chainOf(const Id& worn) const;
    /// "Bodywork" or "Bodywork/Line Ochre"; empty for an unknown id.
    std::string nameOf(const Id& worn) const;
    /// The id behind a name as nameOf gives it; empty when there is none.
    Id findByName(const std::string& name) const;
};
/// One state of the document, safe to read from any thread.
using Snapshot = std::shared_ptr<const Project>;

/// A new random id that starts with the given letter.
Id newId(char letter);

/// What an instance or master shows once inheritance is resolved.
struct Resolved {
    const Master* master = nullptr;           ///< with its build choices as they are made; of the project where these are the defaults
    std::shared_ptr<const Master> built = {}; ///< keeps `master` where it is not of the project
    struct Entry {
        ParameterValue value;
        Id origin;  ///< the instance that owns the value, the master, or the shared parameter
        Id bySet{}; ///< of a map: the map set parameter that gave it; then `origin` is who owns that one's value
    };
    std::map<Id, Entry> values; ///< every parameter of the master
    SurfaceSettings surface;
};
/// Follows the parents of `worn`: nearer own values go before others, and of one level an own map before that of an own set. An assembly by
/// itself has the defaults of its inputs. `master` is null when the chain ends nowhere.
Resolved resolve(const Project& project, const Id& worn);

/// Slots of specimens that wear `worn`, as "specimen 2, slot 1" texts for people.
std::vector<std::string> wearersOf(const Project& project, const Id& worn);

} // namespace hue
