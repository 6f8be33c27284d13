// Every message that the core can give, each provoked by its cause. What is in the sources and not in the table is found by reading the
// sources, so that no new message stays unread.
#include "core/assemblies/equal_groups.h"
#include "core/assemblies/fold.h"
#include "core/base/csv.h"
#include "core/budget/history.h"
#include "core/budget/target.h"
#include "core/check/advice.h"
#include "core/check/check.h"
#include "core/compare/format_report.h"
#include "core/compress/block_file.h"
#include "core/decals/decal_box.h"
#include "core/decals/decal_problems.h"
#include "core/dispatch/dispatch.h"
#include "core/document/drawn.h"
#include "core/edits/edits.h"
#include "core/image_files/image_file.h"
#include "core/instances/instance_csv.h"
#include "core/instances/value_words.h"
#include "core/instances/variations.h"
#include "core/make/made_maps.h"
#include "core/maps/conversions.h"
#include "core/maps/lettering.h"
#include "core/maps/mask.h"
#include "core/maps/tiling.h"
#include "core/master_text/master_text.h"
#include "core/measure/driver.h"
#include "core/mesh/mesh.h"
#include "core/mesh/paint_data.h"
#include "core/mesh/placements.h"
#include "core/nodes/assembly_card.h"
#include "core/pack/pack.h"
#include "core/pack/recipe.h"
#include "core/paint/fill_rules.h"
#include "core/paint/finer_mesh.h"
#include "core/paint/live_rules.h"
#include "core/paint/paint_map.h"
#include "core/paint/paint_problems.h"
#include "core/paint/wire_values.h"
#include "core/picture/contact_sheet.h"
#include "core/picture/picture_cost.h"
#include "core/picture/picture_settings.h"
#include "core/project/assembly_file.h"
#include "core/project/assets.h"
#include "core/project/cards_text.h"
#include "core/project/map_index.h"
#include "core/project/store.h"
#include "core/surface/channels.h"
#include "core/surface/light_files.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"
#include "tests/test_maps.h"

#include <fmt/format.h>
#include <fstream>
#include <regex>
#include <set>
#include <sstream>

namespace hue {
namespace {

namespace fs = std::filesystem;
using namespace test;

/// What was said, by code.
using Said = std::vector<std::pair<std::string, std::string>>;

/// Titles of the fixes that were offered with a code.
std::map<std::string, std::set<std::string>>& fixesOf() {
    static std::map<std::string, std::set<std::string>> all;
    return all;
}

template <class T> Said of(const Result<T>& r) { return r ? Said{} : Said{{r.error().code, r.error().sentence}}; }
Said of(const std::vector<Diagnostic>& list) {
    Said out;
    for (const Diagnostic& d : list) {
        out.emplace_back(d.code, d.sentence);
        for (const Fix& fix : d.fixes) fixesOf()[d.code].insert(fix.label);
    }
    return out;
}
Said of(const std::vector<MapRemark>& list) {
    Said out;
    for (const MapRemark& r : list) out.emplace_back(r.code, r.sentence);
    return out;
}

/// The findings of a project whose master was built by `build`.
Said found(const std::function<void(Project&)>& build) {
    Project p = bareProject();
    build(p);
    return of(checkProject(p));
}
Said foundIn(const std::function<void(Project&, Master&)>& change) {
    return found([&](Project& p) {
        auto master = std::make_shared<Master>(*p.masters[0]);
        change(p, *master);
        p.masters[0] = master;
    });
}
/// The surface's settings and values alone.
Said advised(uint32_t layers, const std::map<std::string, Value>& values, AlphaMode mode = AlphaMode::Opaque) {
    return foundIn([&](Project&, Master& m) {
        m.surface.layers = layers;
        m.surface.alphaMode = mode;
        m.graph.channelConstants = values;
    });
}
/// A card, put into the graph as a file would bring it: unchecked.
void put(Master& m, const std::string& kind, const Id& id, const std::function<void(Node&)>& change = {}) {
    auto node = std::make_shared<Node>(makeNode(kind));
    node->id = id;
    if (change) change(*node);
    m.graph.nodes[id] = node;
}

Said read(const std::string& text) {
    const auto loaded = parseProject(text, "depot.huestack");
    return loaded ? of(loaded->report) : of(loaded);
}
std::string head(const std::string& rest) { return "{\"kind\": \"huestack project\", \"format\": 1, " + rest + "}"; }

/// What is said of decals on the top of a ball that wears "m".
Said ofDecal(const std::function<void(Decal&)>& change, int count = 1) {
    Project p = bareProject();
    const std::pair<const char*, const char*> others[] = {{"stencil", "Stencil"}, {"plain", "Plain"}};
    for (const auto& [id, name] : others) {
        Master m;
        m.id = id, m.name = name;
        m.surface.decal = m.id == "stencil";
        p.masters.push_back(std::make_shared<Master>(m));
    }
    Master beneath = masterOf(p);
    beneath.surface.decal = true;
    p.masters[0] = std::make_shared<Master>(beneath);
    Decal d;
    d.name = "Number", d.wears = "stencil", d.position = {0, 1, 0}, d.facing = {0, 1, 0};
    change(d);
    p.lineup.specimens = {Specimen{.mesh = "shape:sphere/1", .wears = {"m"}, .decals = std::vector<Decal>(size_t(count), d)}};
    Assets assets;
    return of(decalProblems(p, assets));
}

/// A master with the choice "livery".
Result<Project> withChoice(std::vector<std::string> options) {
    Parameter p;
    p.id = p.codeName = "livery", p.name = "Livery", p.type = ParameterType::Choice, p.options = std::move(options);
    return edit::addParameter(bareProject(), "m", p);
}

/// A master with one parameter of a kind: q, "Wear".
/// A map of the set Cobbles, a map parameter and one for a set.
Project withSet() {
    MapFile map;
    map.id = "stone", map.name = "Stone", map.path = "stone.png", map.set = "Cobbles", map.role = "base color";
    Project p = *edit::addMap(bareProject(), map);
    Parameter color, set;
    color.id = "map", color.name = "Color", color.type = ParameterType::Map;
    set.id = "set", set.name = "Stones", set.type = ParameterType::MapSet;
    p = *edit::addParameter(p, "m", color);
    return *edit::addParameter(p, "m", set);
}

Project withKind(ParameterType type) {
    Parameter q;
    q.id = "q", q.name = "Wear", q.codeName = "wear", q.type = type;
    return *edit::addParameter(bareProject(), "m", q);
}

/// What comes of measuring with a program that greets as a driver does, and then does this in a shell.
Said measuredWith(const std::string& then, const std::string& driver = {}) {
    const fs::path program = fs::temp_directory_path() / fmt::format("measuring-{}", newId('x'));
    {
        std::ofstream script(program);
        script << "#!/bin/sh\necho '{\"device\": \"none\", \"driver\": 1}'\n" << then;
    }
    fs::permissions(program, fs::perms::owner_all);
    const StagePair pair{{1, 2, 3}, {4}};
    const Result<Reading> r = compiledFor(families()[3], {&pair, 1}, {program, driver, 0.3})[0];
    fs::remove(program);
    return of(r);
}

/// A ball that is painted, under a master that reads that as rust, or does not.
Project withPaint(bool read) {
    Project p = bareProject();
    if (read) {
        const Id card = add(p, "painted");
        p = *edit::renameNode(p, "m", card, "rust");
        channel(p, {card, "out", ""}, "roughness");
    }
    p.lineup.specimens = {Specimen{.mesh = "shape:sphere/1", .wears = {"m"}}};
    const PaintData bare(shapeById("shape:sphere/1"));
    const auto paint = std::make_shared<PaintData>(bare.with(0, std::vector<float>(bare.vertices(), 0.5f)));
    p = *edit::addPaintwork(p, {"w", "Ball", "shape:sphere/1", {}, {}, paint});
    return *edit::wearPaintwork(p, 0, "w");
}

/// A project with two maps, a master that reads one through a parameter, an instance, a packing.
Project furnished() {
    Project p = bareProject();
    for (const char* id : {"a", "b"}) {
        MapFile m{id, id, std::string(id) + ".png", MapKind::Color, Wrap::Repeat, {}, {}};
        m.set = id;
        m.role = id == std::string("a") ? "base color" : "height";
        p.maps.push_back(std::make_shared<MapFile>(m));
    }
    Parameter q;
    q.id = "q";
    q.name = "Wear";
    q.codeName = "wear";
    p = *edit::addParameter(p, "m", q);
    p = *edit::addInstance(p, {"i", "First", "m", {}, {}, {}, {}, {}});
    Packing k;
    k.id = "k";
    k.recipe.name = "masks";
    p.packings.push_back(std::make_shared<Packing>(k));
    return p;
}

Image flat(int channels, float value, SampleType type = SampleType::U8, int side = 32) {
    std::vector<Plane> planes(size_t(channels), Plane(side, side));
    for (Plane& plane : planes)
        for (float& x : plane.values) x = value;
    return imageOf(planes, type);
}

struct Message {
    std::string code;
    std::string how; ///< what brings it about
    std::function<Said()> provoke;
    std::vector<std::string> holds = {}; ///< what its sentence must name
};

/// Of Noise 2D: between -1 and 1.
const std::map<std::string, Value> deep{{"amplitude", Value::number(1)}, {"pivot", Value::number(0)}};

class Messages : public InFolder {
  protected:
    std::string at(const std::string& name) const { return (folder / name).string(); }
    std::string write(const std::string& name, const std::string& content) const {
        std::ofstream(folder / name, std::ios::binary) << content;
        return at(name);
    }
    std::string picture(const std::string& name, const Image& image) const {
        EXPECT_TRUE(writeImage(folder / name, image, PixelEncoding::Data));
        return at(name);
    }

    std::vector<Message> ofFiles() {
        return {
            {"project.missing",
             "a path where nothing is",
             [&] { return of(loadProject(at("no.huestack"))); },
             {"no.huestack", "not there"}},
            {"project.unreadable",
             "a folder given as a project",
             [&] {
                 fs::create_directories(folder / "depot");
                 write("depot/depot.huestack", "{}");
                 return of(loadProject(at("depot")));
             },
             {"is a folder", "depot/depot.huestack"}},
            {"project.truncated",
             "a file that ends in its middle",
             [] { return read("{\"kind\": \"huestack project\",\n \"masters\": ["); },
             {"line 2"}},
            {"project.not-json", "a letter", [] { return read("Dear depot,\nall is well. {}"); }, {"line 1"}},
            {"project.not-a-project", "JSON of another kind", [] { return read("{\"kind\": \"list\"}"); }},
            {"project.newer-format",
             "a file of a later version",
             [] { return read("{\"kind\": \"huestack project\", \"format\": 99}"); },
             {"99", "newer version"}},
            {"project.odd-field",
             "a word for alphaMode that is none of the three",
             [] { return read(head("\"masters\": [{\"name\": \"Ground\", \"alphaMode\": \"clip\"}]")); },
             {"master Ground", "alphaMode", "\"clip\"", "opaque, mask or blend"}},
            {"project.odd-entry", "a number in the list of masters", [] { return read(head("\"masters\": [7]")); }, {"masters"}},
            {"project.same-id",
             "two cards with one id",
             [] {
                 return read(head("\"masters\": [{\"name\": \"Ground\", \"cards\": [{\"id\": \"n\", \"kind\": \"add\"}, {\"id\": \"n\", "
                                  "\"kind\": \"mix\"}]}]"));
             },
             {"Ground", "id n"}},
            {"unknown.field",
             "a field that is spelled wrongly",
             [] { return read(head("\"masters\": [{\"name\": \"Ground\", \"alphaMod\": \"mask\"}]")); },
             {"master Ground", "alphaMod", "The nearest is alphaMode"}},
            {"instance.loop",
             "an instance that hangs on itself",
             [] { return read(head("\"instances\": [{\"id\": \"i\", \"name\": \"First\", \"parent\": \"i\"}]")); },
             {"First"}},
            {"parameter.out-of-limits",
             "a default beyond the limits",
             [] {
                 return read(
                     head("\"masters\": [{\"id\": \"m\", \"name\": \"Ground\", \"parameters\": [{\"id\": \"q\", \"name\": \"Wear\", "
                          "\"type\": \"number\", \"default\": 7, \"range\": [0, 1], \"limits\": [0, 1]}]}]"));
             },
             {"Wear", "Ground", "7", "0 to 1"}},
            {"file.not-ours",
             "saving over a list of another program",
             [&] { return of(saveProject(bareProject(), write("list.huestack", "{\"kind\": \"list\"}"))); },
             {"list.huestack", "another name"}},
            {"file.cannot-write",
             "a folder that is not there",
             [&] { return of(saveProject(bareProject(), folder / "no" / "a.huestack")); },
             {"folder"}},
            {"file.suffix",
             "a suffix that no writer knows",
             [&] { return of(writeImage(folder / "a.jpg", flat(3, 0.5f), PixelEncoding::Srgb)); },
             {"a.jpg", ".png, .tga or .tif"}},
            {"journal.cannot-write",
             "a journal where a file stands for its folder",
             [&] {
                 write("plain", "");
                 return of(writeJournal(bareProject(), folder / "plain" / "a.huestack"));
             },
             {"Unsaved changes"}},
            {"map.missing", "a map that is not there", [&] { return of(readImage(at("no.png"))); }, {"not there"}},
            {"map.empty", "a file of no bytes", [&] { return of(readImage(write("empty.png", ""))); }, {"0 bytes"}},
            {"map.unreadable",
             "a text with a picture's suffix",
             [&] { return of(readImage(write("text.png", "no picture at all"))); },
             {"text.png"}},
            {"map.wrong-suffix",
             "a PNG that is named as a TIFF",
             [&] {
                 picture("right.png", flat(3, 0.5f));
                 fs::copy_file(at("right.png"), at("wrong.tif"));
                 return of(readImage(at("wrong.tif")));
             },
             {".tif", "png"}},
            {"map.too-large",
             "a head that promises 65,535 pixels a side",
             [&] {
                 std::string head(18, '\0'); // of a TGA of 24 bits a pixel
                 head[2] = 2, head[16] = 24;
                 for (const size_t where : {size_t{12}, size_t{13}, size_t{14}, size_t{15}}) head[where] = '\xFF';
                 return of(readImage(write("huge.tga", head + std::string(3000, 'x'))));
             },
             {"65535 x 65535", "16384"}},
            {"map.short",
             "a TIFF of 40 KB that promises 16384 x 16384 pixels, packed by LZW",
             [&] {
                 std::string tiff("II*\0\x08\0\0\0\x09\0", 10);
                 const auto entry = [&](int tag, int type, uint32_t value) {
                     for (const uint32_t x : {uint32_t(tag) | uint32_t(type) << 16, 1u, value})
                         tiff.append(reinterpret_cast<const char*>(&x), 4);
                 };
                 // Width, length, bits, compression, photometric, offset, samples, rows of a strip, bytes of it (TIFF 6.0, 8).
                 entry(256, 4, 16384), entry(257, 4, 16384), entry(258, 3, 8), entry(259, 3, 5), entry(262, 3, 1), entry(273, 4, 200);
                 entry(277, 3, 1), entry(278, 4, 16384), entry(279, 4, 39800);
                 tiff.resize(40000);
                 return of(readImage(write("short.tif", tiff)));
             },
             {"16384 x 16384", "40000 bytes"}},
            {"map.animated",
             "a KTX2 file that holds a cube",
             [&] {
                 auto map = compressed({flat(3, 0.5f)}, BlockFormat::Bc1, {});
                 EXPECT_TRUE(writeBlockFile(folder / "one.ktx2", *map, {}));
                 std::ostringstream all;
                 all << std::ifstream(at("one.ktx2"), std::ios::binary).rdbuf();
                 std::string bytes = all.str();
                 bytes[36] = 6; // faces (KTX 2.0, 2.1)
                 return of(readImage(write("cube.ktx2", bytes)));
             },
             {"several pictures"}},
            {"mesh.missing", "a mesh that is not there", [&] { return of(readMesh(at("no.glb"))); }, {"not there"}},
            {"mesh.unreadable",
             "a text with a mesh's suffix",
             [&] { return of(readMesh(write("text.glb", "no mesh at all"))); },
             {"text.glb"}},
            {"mesh.empty",
             "a glTF without a mesh",
             [&] { return of(readMesh(write("none.gltf", "{\"asset\": {\"version\": \"2.0\"}}"))); },
             {"no triangles"}},
            {"mesh.too-many", "a sphere divided ten times", [] { return of(subdivided(makeSphere(), 10)); }},
            {"paint.rule", "a rule with a slip", [] { return of(fillRuleFromText("hieght")); }, {"hieght", "nearest is height"}},
            {"paint.no-border",
             "a border on a mesh with one slot",
             [] {
                 PaintChannel none(makePlane(2).vertices.size(), 0);
                 return of(fillByRules(makePlane(2), std::vector{*fillRuleFromText("border 0.1..0")}, none));
             },
             {"it has 1"}},
            {"paint.no-uvs",
             "a map of a mesh without UVs",
             [] {
                 Mesh mesh = makePlane(2);
                 for (Vertex& v : mesh.vertices) v.uv0 = {};
                 return of(mapOfPaint(mesh, PaintChannel(mesh.vertices.size(), 0), 8));
             },
             {"Unwrap"}},
            {"paint.unreadable",
             "a paintwork whose file is gone",
             [&] {
                 Assets assets;
                 assets.setFolder(folder);
                 Project q = withPaint(true);
                 auto gone = std::make_shared<Paintwork>(*q.paintworks[0]);
                 gone->paint = nullptr;
                 q.paintworks = {gone};
                 return of(paintProblems(q, assets));
             },
             {"ball.glb"}},
            {"paint.outside",
             "a paintwork whose file lies elsewhere",
             [&] {
                 Project q = withPaint(true);
                 auto out = std::make_shared<Paintwork>(*q.paintworks[0]);
                 out->path = "../ball.glb";
                 q.paintworks = {out};
                 return of(saveProject(q, folder / "p.huestack"));
             },
             {"Ball", "ball.glb"}},
            {"paint.finest",
             "a shape that is as fine as can be",
             [&] {
                 Assets assets;
                 Project q = withPaint(true);
                 q.lineup.specimens[0].mesh = "shape:sphere/5";
                 return of(finerMesh(q, assets, 0));
             },
             {"larger brush"}},
            {"paint.same-file",
             "two paintworks that name one file",
             [&] {
                 Project q = withPaint(true);
                 auto other = std::make_shared<Paintwork>(*q.paintworks[0]);
                 other->id = "v", other->name = "Other ball";
                 other->paint = std::make_shared<PaintData>(other->paint->surface());
                 q.paintworks.push_back(other);
                 return of(saveProject(q, folder / "p.huestack"));
             },
             {"Ball", "Other ball"}},
            {"decal.reaches-nothing",
             "a decal beside the mesh",
             [&] { return ofDecal([](Decal& d) {
                       d.position = {0, 5, 0};
                   }); },
             {"Number", "specimen 1"}},
            {"decal.inside",
             "a decal that looks into the mesh",
             [&] { return ofDecal([](Decal& d) {
                       d.facing = {0, -1, 0};
                   }); },
             {"Number"}},
            {"decal.stretched",
             "a decal along the surface",
             [&] { return ofDecal([](Decal& d) {
                       d.facing = {1, 0.05f, 0}, d.fadeFrom = d.fadeTo = 90;
                   }); },
             {"Number", "4:1"}},
            {"decal.wears-nothing", "a decal that wears nothing", [&] { return ofDecal([](Decal& d) { d.wears.clear(); }); }, {"Number"}},
            {"decal.other-kind",
             "a decal that wears a plain surface",
             [&] { return ofDecal([](Decal& d) { d.wears = "plain"; }); },
             {"Number", "Plain"}},
            {"decal.of-itself", "a decal that wears what it lies on", [&] { return ofDecal([](Decal& d) { d.wears = "m"; }); }, {"Number"}},
            {"decal.no-slot",
             "a decal kept off a slot that the mesh does not have",
             [&] { return ofDecal([](Decal& d) { d.keptOff = {"roof"}; }); },
             {"roof"}},
            {"decal.too-many", "forty decals on a specimen", [&] { return ofDecal([](Decal&) {}, 40); }, {"40", "32"}},
            {"decal.nothing-to-cut", "no decals to be cut", [] { return of(cutOutAll(makePlane(1), {}, 0)); }},
            {"decal.atlas-full",
             "a picture on a sheet that is too small",
             [&] {
                 Assets assets;
                 Project q = bareProject();
                 Specimen s{.mesh = "shape:plane/1", .wears = {"m"}};
                 Decal d;
                 d.wears = "m", d.facing = {0, 1, 0};
                 s.decals = {d};
                 return of(decalAtlas(q, assets, s, {.size = 16}));
             },
             {"16 x 16"}},
            {"csv.quotes", "a table with quotes that stay open", [&] { return of(csvFrom("instance,wear\nLine,\"0.5\n")); }, {"line 2"}},
            {"csv.column",
             "a table with a column that no parameter is for",
             [&] { return of(withInstanceCsv(bareProject(), masterOf(bareProject()), "instance,gloss\nLine,1\n")); },
             {"gloss"}},
            {"csv.value",
             "a table with a line that names no instance",
             [&] { return of(withInstanceCsv(bareProject(), masterOf(bareProject()), "instance,parent\n,Line\n")); },
             {"Line 2"}},
            {"value.words",
             "words that are no value",
             [&] {
                 Parameter p;
                 p.name = "Wear";
                 return of(valueFrom(bareProject(), p, "much"));
             },
             {"much", "Wear", "a number"}},
            {"instance.own-parent",
             "an instance that would derive from itself",
             [&] {
                 Project q = bareProject();
                 Instance i;
                 i.id = "i", i.name = "Line", i.parent = "m";
                 q = *edit::addInstance(q, i);
                 return of(edit::changeParent(q, "i", "i"));
             },
             {"M/Line"}},
            {"instance.inherits",
             "a value that is given to the parent but inherited from it",
             [&] {
                 Project q = bareProject();
                 Instance i;
                 i.id = "i", i.name = "Line", i.parent = "m";
                 q = *edit::addInstance(q, i);
                 return of(edit::pushUp(q, "i", "wear"));
             },
             {"M/Line"}},
            {"instance.locked",
             "a value of a locked instance",
             [&] {
                 Project q = bareProject();
                 Instance i;
                 i.id = "i", i.name = "Line", i.parent = "m", i.locked = true;
                 q = *edit::addInstance(q, i);
                 return of(edit::clearOwn(q, "i", "wear"));
             },
             {"M/Line", "Unlock"}},
            {"wearing.bare-master",
             "a specimen in a master that has instances",
             [&] {
                 Project q = bareProject();
                 Parameter p;
                 p.id = p.codeName = "wear", p.name = "Wear";
                 q = *edit::addParameter(q, "m", p);
                 Instance i;
                 i.id = "i", i.name = "Line", i.parent = "m";
                 q = *edit::addInstance(q, i);
                 return of(checkProject(q));
             },
             {"Specimen 1", "M itself"}},
            {"preset.gone", "a preset that is not there", [&] { return of(edit::usePreset(bareProject(), "m", "Rain")); }, {"M", "Rain"}},
            {"shared.gone",
             "a shared parameter that is not there",
             [&] { return of(edit::removeShared(bareProject(), "s")); },
             {"not in the project"}},
            {"shared.kind",
             "a choice that would follow a shared number",
             [&] {
                 SharedParameter s;
                 s.id = "s", s.name = "Wetness";
                 return of(edit::followShared(*edit::addShared(*withChoice({"plain", "stripes"}), s), "m", "livery", "s"));
             },
             {"Livery", "Wetness", "choice"}},
            {"vary.no-set", "a row for each map set where there is none", [&] { return of(withMapSets(bareProject(), "m")); }, {"M"}},
            {"target.unknown", "a target that does not come along", [&] { return of(findTarget("toaster")); }, {"toaster", "handheld"}},
            {"target.unreadable",
             "a target that is something else",
             [&] { return of(parseTarget("{}", "mine.json")); },
             {"mine.json", "kind"}},
            {"history.unreadable",
             "records that are a shopping list",
             [&] { return of(readHistory(write("depot.budget.jsonl", "milk\n"))); },
             {"line 1"}},
            {"measure.no-driver",
             "measuring without the driver's package",
             [&] { return measuredWith({}, "/nowhere/radeon_icd.json"); },
             {"mesa-vulkan-drivers", "counted"}},
            {"measure.no-program",
             "measuring without the program that asks",
             [&] {
                 return of(compiledFor(families()[0], std::vector<StagePair>(1), {"/nowhere/measure", {}, 1})[0]);
             },
             {"/nowhere/measure"}},
            {"measure.family", "a family that there is not", [&] { return of(findFamily("toaster")); }, {"toaster", "navi21"}},
            {"measure.died",
             "a compiler that crashes over a stage",
             [&] { return measuredWith("dd bs=24 count=1 iflag=fullblock of=/dev/null 2>/dev/null\nkill -9 $$\n"); },
             {"navi21", "counted"}},
            {"measure.slow", "a compiler that hangs", [&] { return measuredWith("sleep 60\n"); }, {"navi21", "0.3"}},
            {"measure.refused",
             "a compiler that refuses a stage",
             [&] { return measuredWith("echo '{\"error\": \"no such thing\"}'\nsleep 1\n"); },
             {"no such thing"}},
            {"measure.unreadable", "a cache of something else", [&] { return of(readingFrom("milk, eggs")); }},
            {"drawn.words", "a curve of words", [&] { return of(drawnFrom("curve smooth: up and down")); }, {"up and down", "0 to 1"}},
            {"drawn.kind",
             "a gradient for a curve",
             [&] {
                 return of(edit::setOwn(withKind(ParameterType::Curve), "m", "q", {{}, "gradient straight: 0 #000000"}));
             },
             {"Wear", "curve"}},
            {"finish.leads-back",
             "a finish of its own board",
             [&] {
                 return of(edit::setOwn(withKind(ParameterType::Finish), "m", "q", {{}, "m"}));
             },
             {"M"}},
            {"finish.kind",
             "a finish that becomes a map",
             [&] {
                 const Project p = withKind(ParameterType::Finish);
                 Parameter q = masterOf(p).parameters[0];
                 q.type = ParameterType::Map;
                 return of(edit::changeParameter(p, "m", q));
             },
             {"Wear"}},
            {"finish.of-assembly",
             "a finish as an input of an assembly",
             [&] {
                 Project p = bareProject();
                 Assembly a;
                 a.id = "a", a.name = "Part";
                 p = *edit::addAssembly(p, a);
                 Parameter q;
                 q.name = "Skin", q.type = ParameterType::Finish;
                 return of(edit::addParameter(p, "a", q));
             },
             {"Part"}},
            {"split.one-number",
             "a number that is taken apart",
             [&] { return of(edit::splitParameter(withKind(ParameterType::Number), "m", "q")); },
             {"Wear"}},
            {"split.assembly", "an input of an assembly that is taken apart",
             [&] { return of(edit::splitParameter(bareProject(), "a", "q")); }},
            {"merge.kinds",
             "a number and a color made one",
             [&] {
                 Project p = withKind(ParameterType::Number);
                 Parameter q;
                 q.id = "r", q.name = "Rust", q.type = ParameterType::Color;
                 p = *edit::addParameter(p, "m", q);
                 return of(edit::mergeParameters(p, "m", "q", "r"));
             },
             {"Wear", "Rust"}},
            {"map.not-as-meant",
             "a map with too few channels for its parameter",
             [&] {
                 Project p = withKind(ParameterType::Map);
                 Parameter q = masterOf(p).parameters[0];
                 q.leastChannels = 3, q.mostPixels = 4;
                 p = *edit::changeParameter(p, "m", q);
                 MapFile map;
                 map.id = "map", map.name = "Grey", map.path = picture("grey.png", flat(1, 0.5f));
                 p = *edit::addMap(p, map);
                 p = *edit::setOwn(p, "m", "q", {{}, "map"});
                 Assets assets;
                 MapIndex index{std::filesystem::path()};
                 index.look(map.path);
                 return of(mapFindings(p, assets, index, {}));
             },
             {"Grey", "Wear"}},
            {"choice.no-name",
             "an option of blanks",
             [&] {
                 return of(withChoice({"plain", " "}));
             },
             {"Livery"}},
            {"choice.twice",
             "the same option twice",
             [&] {
                 return of(withChoice({"plain", "plain"}));
             },
             {"Livery", "plain"}},
            {"choice.signs",
             "an option with a comma",
             [&] {
                 return of(withChoice({"plain", "red, white"}));
             },
             {"red, white"}},
            {"choice.count", "a choice of one", [&] { return of(withChoice({"plain"})); }, {"1", "2 to 8"}},
            {"choice.in-use",
             "an option that goes while an instance has it",
             [&] {
                 Project q = *withChoice({"plain", "stripes", "checks"});
                 Instance i;
                 i.id = "i", i.name = "Line", i.parent = "m", i.own["livery"] = {Value::number(2), {}};
                 q = *edit::addInstance(q, i);
                 Parameter less = *masterOf(q).parameter("livery");
                 less.options.pop_back();
                 return of(edit::changeParameter(q, "m", less));
             },
             {"M/Line"}},
            {"slider.decades",
             "a slider by equal factors that begins at 0",
             [&] {
                 Parameter p;
                 p.name = "Wear", p.slider = SliderCurve::Decades;
                 return of(edit::addParameter(bareProject(), "m", p));
             },
             {"Wear", "begins at 0"}},
            {"builds.many",
             "a master in more builds than are good",
             [&] {
                 Project q = bareProject();
                 for (int k = 0; k < 5; ++k) {
                     Parameter p;
                     p.id = p.name = p.codeName = fmt::format("s{}", k), p.type = ParameterType::OnOff, p.build = true;
                     q = *edit::addParameter(q, "m", p);
                 }
                 for (int k = 0; k < 20; ++k) {
                     Instance i;
                     i.id = i.name = fmt::format("i{}", k), i.parent = "m";
                     for (int s = 0; s < 5; ++s) i.own[fmt::format("s{}", s)] = {Value::number(float((k >> s) & 1)), {}};
                     q = *edit::addInstance(q, i);
                 }
                 return of(checkMaster(q, masterOf(q)));
             },
             {"32"}},
            {"vary.count",
             "too many variations",
             [&] {
                 return of(withVariations(bareProject(), {"m", {}, 5000, false, 1, {}}));
             },
             {"5000", "1000"}},
            {"vary.none-kept",
             "variations of which none is kept",
             [&] {
                 Project p = bareProject();
                 Parameter size;
                 size.id = "size", size.name = "Size";
                 p = *edit::addParameter(p, "m", size);
                 return of(withVariations(p, {"m", {}, 1, false, 1, {{"size", Value::number(0), Value::number(1)}}, {0}}));
             },
             {"None of them", "Keep one"}},
            {"set.gone",
             "a map set that is not there",
             [&] {
                 return of(edit::setOwn(withSet(), "m", "set", {{}, "Gravel"}));
             },
             {"Gravel"}},
            {"set.in-use",
             "dissolving a map set that is in use",
             [&] {
                 const Project p = *edit::setOwn(withSet(), "m", "set", {{}, "Cobbles"});
                 return of(edit::makeSet(p, "", {{"stone", ""}}));
             },
             {"M", "Cobbles", "another set"}},
            {"set.gives",
             "a default map beside its set",
             [&] {
                 Project p = *edit::setOwn(withSet(), "m", "set", {{}, "Cobbles"});
                 p = *edit::takeOfSet(p, "m", {"map"}, "set");
                 return of(edit::setOwn(p, "m", "map", {{}, "stone"}));
             },
             {"Color", "Cobbles", "Stones"}},
            {"set.kind",
             "a map of what is no set",
             [&] { return of(edit::takeOfSet(withSet(), "m", {"map"}, "map")); },
             {"Color", "no map set"}},
            {"set.own-kind",
             "a map set that becomes a map",
             [&] {
                 Parameter p = *masterOf(withSet()).parameter("set");
                 p.type = ParameterType::Map;
                 return of(edit::changeParameter(withSet(), "m", p));
             },
             {"Stones", "another parameter"}},
            {"set.of-assembly",
             "a map set as an input of an assembly",
             [&] {
                 Parameter p;
                 p.name = "Stones", p.type = ParameterType::MapSet;
                 return of(edit::addParameter(towerOf(1, 1), "a1", p));
             },
             {"a1", "master"}},
            {"picture.size", "a size of a picture that is none", [&] { return of(pictureSize("large")); }, {"large", "1920x1080"}},
            {"vary.nothing",
             "variations in which nothing varies",
             [&] {
                 return of(withVariations(bareProject(), {"m", {}, 3, false, 1, {}}));
             },
             {"at least one"}},
            {"vary.range",
             "a range with one end",
             [&] {
                 Parameter p;
                 p.name = "Wear";
                 return of(variedFrom(bareProject(), p, "0.5"));
             },
             {"0.5", "Wear", "two dots"}},
            {"sheet.too-large",
             "a contact sheet that is too large",
             [&] {
                 return of(SheetLayout{4000, 0, 2048}.fits());
             },
             {"4000", "16384"}},
            {"sheet.empty", "a contact sheet of nothing", [&] { return of(SheetLayout{}.fits()); }, {"nothing"}},
            {"decal.no-words",
             "words for a decal that shows a picture",
             [&] {
                 Project q = bareProject();
                 q.lineup.specimens = {Specimen{.mesh = "shape:plane/1", .wears = {"m"}}};
                 Decal d;
                 d.id = "d", d.name = "Route poster", d.wears = "m";
                 q = *edit::addDecal(q, 0, d);
                 return of(edit::rewordDecal(q, 0, "d", {}));
             },
             {"Route poster"}},
            {"decal.size",
             "a decal without a width",
             [&] {
                 Decal d;
                 d.name = "Number", d.width = 0;
                 return of(edit::addDecal(bareProject(), 0, d));
             },
             {"Number"}},
            {"paint.unread",
             "paint under a master that reads none",
             [&] {
                 Assets assets;
                 return of(paintProblems(withPaint(false), assets));
             },
             {"specimen 1", "Ball"}},
            {"paint.never-painted",
             "a channel that is read and bare",
             [&] {
                 Assets assets;
                 Project q = withPaint(true);
                 return of(paintProblems(*edit::setPaint(q, "w", std::make_shared<PaintData>(q.paintwork("w")->paint->surface())), assets));
             },
             {"rust", "Ball"}},
            {"paint.none",
             "a master that reads paint on a mesh without",
             [&] {
                 Assets assets;
                 return of(paintProblems(*edit::wearPaintwork(withPaint(true), 0, {}), assets));
             },
             {"rust", "specimen 1"}},
            {"paint.not-worn",
             "a paintwork that nobody wears",
             [&] {
                 Assets assets;
                 return of(paintProblems(*edit::wearPaintwork(withPaint(true), 0, {}), assets));
             },
             {"Ball"}},
            {"paint.mesh-changed",
             "a mesh that was made finer since it was painted",
             [&] {
                 Assets assets;
                 Project q = withPaint(true);
                 auto other = std::make_shared<Paintwork>(*q.paintworks[0]);
                 other->mesh = "shape:sphere/2";
                 q.paintworks = {other};
                 q.lineup.specimens[0].mesh = "shape:sphere/2";
                 return of(paintProblems(q, assets));
             },
             {"Ball", "vertices"}},
            {"paint.blur-too-wide",
             "paint that is to flow over a hundred kilometres",
             [] {
                 PaintChannel none(makePlane(2).vertices.size(), 0);
                 return of(fillByRules(makePlane(2), std::vector{*fillRuleFromText("blur 9000")}, none));
             },
             {"not 9000"}},
            {"paint.wire",
             "a wire of a card that is not there",
             [&] {
                 const Project p = bareProject();
                 Assets assets;
                 return of(wireAtVertices(p, assets, "m", {"gone", "out", {}}, makePlane(2), 0));
             },
             {"gone"}},
            {"paint.stale",
             "rules that were not reckoned",
             [] {
                 const Project p = *edit::setLiveRules(withPaint(true), "w", {0, {"constant 0.5"}, {}});
                 Assets assets;
                 return of(livePaintProblems(p, assets));
             },
             {"channel 1 of Ball", "hsk remake"}},
            {"placements.text", "copies in a heap", [] { return of(placementsFromText("heap:5")); }, {"heap", "ring:8"}},
            {"light.missing", "a light that is not there", [&] { return of(readLight(folder / "no.hdr")); }, {"not there"}},
            {"light.unreadable", "a text with a light's suffix", [&] { return of(readLight(write("text.hdr", "dark"))); }, {"text.hdr"}},
            {"light.not-a-panorama",
             "a square picture as a light",
             [&] { return of(readLight(picture("square.exr", flat(3, 0.5f, SampleType::F32)))); },
             {"32 x 32"}},
            {"light.unknown",
             "a light's name that there is not",
             [] {
                 RenderSettings s;
                 s.light = "moon";
                 return of(drawable(s));
             },
             {"moon"}},
            {"render.size",
             "a picture of no pixels",
             [] {
                 RenderSettings s;
                 s.width = 0;
                 return of(drawable(s));
             },
             {"0 x 252"}},
            {"recipe.unknown", "a recipe's name that there is not", [] { return of(findRecipe("everything")); }, {"everything"}},
            {"recipe.unreadable",
             "a text as a recipe",
             [&] { return of(findRecipe(write("text.huerecipe", "stir well"))); },
             {"text.huerecipe"}},
            {"recipe.problem", "a recipe without lanes", [] { return of(planPack({})); }},
            {"folder.missing",
             "sets of a folder that is not there",
             [&] { return of(setsInFolder(folder / "none", "*_{role}.png")); },
             {"none"}},
            {"alpha.map-has-none",
             "a cut-out by the alpha of a map with three channels",
             [&] {
                 picture("grille.png", flat(3, 0.5f));
                 Project p = bareProject();
                 p.maps.push_back(std::make_shared<MapFile>(MapFile{"t", "grille", "grille.png", MapKind::Color, Wrap::Repeat, {}, {}}));
                 channel(p, {add(p, "image", {}, {{"map", "t"}}), "alpha", ""}, "alpha");
                 p = *edit::setSurface(p, "m", {AlphaMode::Mask});
                 Assets assets;
                 assets.setFolder(folder);
                 return of(assets.problems(p));
             },
             {"M", "grille", "nothing is cut away"}},
            {"map.cannot-use",
             "a project whose map is gone",
             [&] {
                 Assets assets;
                 assets.setFolder(folder / "elsewhere");
                 return of(assets.problems(furnished()));
             },
             {"The map a"}},
            {"light.cannot-use",
             "a project whose light is gone",
             [&] {
                 Project p = bareProject();
                 p.lineup.light = "no.hdr";
                 Assets assets;
                 assets.setFolder(folder);
                 return of(assets.problems(p));
             },
             {"no.hdr", "not there"}},
            {"yardstick.cannot-use",
             "a yardstick whose picture is gone",
             [&] {
                 Project p = bareProject();
                 p.lineup.yardstick.what = Yardstick::What::Picture;
                 p.lineup.yardstick.picture = "no.png";
                 Assets assets;
                 assets.setFolder(folder);
                 return of(assets.problems(p));
             },
             {"no.png"}},
            {"project.cannot-be-kept",
             "saving what could not be opened again",
             [&] {
                 Project p = bareProject();
                 p.loopSeconds = INFINITY;
                 return of(saveProject(p, folder / "never.huestack"));
             },
             {"Undo"}},
            {"project.changed-elsewhere",
             "saving over what somebody else has saved",
             [&] {
                 EXPECT_TRUE(saveProject(bareProject(), folder / "ours.huestack"));
                 return of(saveProject(bareProject(), folder / "ours.huestack", {"another", nullptr}));
             },
             {"ours.huestack", "somebody else"}},
            {"project.busy",
             "a project that another program writes",
             [&] {
                 EXPECT_TRUE(saveProject(bareProject(), folder / "busy.huestack"));
                 const auto other = RewriteLock::take(folder / "busy.huestack");
                 return of(RewriteLock::take(folder / "busy.huestack", 0.02));
             },
             {"busy.huestack", "another program"}},
            {"mesh.cannot-use",
             "a project whose mesh is gone",
             [&] {
                 Project p = bareProject();
                 p.meshes.push_back(std::make_shared<MeshFile>(MeshFile{"w", "wall", "wall.glb", {}}));
                 Assets assets;
                 assets.setFolder(folder / "elsewhere");
                 return of(assets.problems(p));
             },
             {"The mesh wall"}},
        };
    }

    std::vector<Message> ofMaps() {
        return {
            {"compress.type",
             "a float map as BC7",
             [] { return of(encodeBlocks(flat(3, 2, SampleType::F32), BlockFormat::Bc7, {})); },
             {"half", "BC7"}},
            {"compress.short",
             "too few bytes for a picture",
             [] {
                 const std::byte few[8] = {};
                 return of(decodeBlocks(few, sizeof few, BlockFormat::Bc1, 64, 64, 3));
             },
             {"64 x 64", "BC1", "2048", "8"}},
            {"compress.cancelled", "a job that was cancelled",
             [] {
                 const std::atomic<bool> stop = true;
                 EncodeOptions o;
                 o.cancelled = &stop;
                 return of(encodeBlocks(flat(3, 0.5f), BlockFormat::Bc7, o));
             }},
            {"dds.format",
             "ASTC in a DDS file",
             [] { return of(ddsOf(*compressed({flat(3, 0.5f)}, BlockFormat::Astc6x6, {}))); },
             {"ASTC", "KTX2"}},
            {"convert.channels", "a grey map as normals", [] { return of(convert(Conversion::ToHeight, flat(1, 0.5f), {})); }},
            {"convert.other", "joining with nothing", [] { return of(convert(Conversion::Join, flat(3, 0.5f), {})); }},
            {"normals.sizes",
             "joining normals of two sizes",
             [] { return of(joinedNormals(flat(3, 0.5f), flat(3, 0.5f, SampleType::U8, 16))); },
             {"32", "16"}},
            {"gloss.sizes", "diffuse and specular of two sizes",
             [] { return of(fromSpecularGloss(flat(3, 0.5f), flat(3, 0.5f, SampleType::U8, 16), nullptr)); }},
            {"gloss.channels", "a specular map without gloss", [] { return of(fromSpecularGloss(flat(3, 0.5f), flat(3, 0.5f), nullptr)); }},
            {"seamless.sizes", "two maps of two sizes",
             [] {
                 return of(makeSeamless({flat(3, 0.5f), flat(3, 0.5f, SampleType::U8, 64)}, {}));
             }},
            {"seamless.small",
             "a map of eight pixels",
             [] { return of(makeSeamless({flat(3, 0.5f, SampleType::U8, 8)}, {})); },
             {"16 x 16"}},
            {"seamless.broken",
             "a map with a NaN",
             [] {
                 Image i = imageOf({sampleHeight(32, 32)}, SampleType::F32);
                 reinterpret_cast<float*>(i.samples.data())[5] = NAN;
                 return of(makeSeamless({i}, {}));
             },
             {"NaN"}},
            {"make.outside",
             "a made map whose file lies outside of the project's folder",
             [&] {
                 Project p = bareProject();
                 MapFile m{"t", "clouds", "../clouds.png", MapKind::Data, Wrap::Repeat, {}, {}};
                 m.origin.from = MapOrigin::From::Wire;
                 m.origin.worn = "m";
                 m.origin.wire = {add(p, "noise_2d"), "out", ""};
                 m.origin.width = m.origin.height = 16;
                 fs::create_directories(folder / "inside");
                 Assets assets;
                 assets.setFolder(folder / "inside");
                 return of(makeMap(p, assets, m, {}));
             },
             {"clouds", "outside of the project's folder"}},
            {"make.stale",
             "a made map whose wire has changed since",
             [&] {
                 Project p = bareProject();
                 MapFile m{"t", "clouds", "clouds.png", MapKind::Data, Wrap::Repeat, {}, {}};
                 m.origin.from = MapOrigin::From::Wire;
                 m.origin.worn = "m";
                 m.origin.wire = {add(p, "noise_2d"), "out", ""};
                 m.origin.width = m.origin.height = 16;
                 m.origin.fingerprint = "before";
                 p.maps.push_back(std::make_shared<MapFile>(m));
                 Assets assets;
                 return of(staleProblems(p, assets));
             },
             {"clouds", "hsk remake"}},
            {"mask.text", "a decal of blanks", [] { return of(lettering(" \n ")); }, {"Type a word"}},
            {"mask.size", "a mask without pixels",
             [] {
                 MaskDrawing d;
                 d.width = 0;
                 return of(drawMask(d));
             }},
            {"mask.shape",
             "a polygon of two points",
             [] {
                 MaskDrawing d;
                 d.shapes.emplace_back();
                 d.shapes[0].kind = MaskShape::Kind::Polygon;
                 d.shapes[0].points = {{0.f, 0.f}, {1.f, 1.f}};
                 return of(drawMask(d));
             },
             {"three points"}},
            {"levels.few",
             "a 16-bit map of 8-bit values",
             [] {
                 Image i(64, 64, 1, SampleType::U16);
                 for (size_t k = 0; k < i.samples.size(); ++k) i.samples[k] = std::byte(k / 2 % 200);
                 return of(remarksOn(factsOf(i), MapKind::Height));
             },
             {"8 bits"}},
            {"channel.constant",
             "a mask whose blue is the same everywhere",
             [] {
                 Image i = sampleMasks(32, 32);
                 for (size_t k = 2; k < i.samples.size(); k += 4) i.samples[k] = std::byte(76);
                 return of(remarksOn(factsOf(i), MapKind::Data));
             },
             {"Blue", "0.298"}},
            {"color.constant", "one color everywhere", [] { return of(remarksOn(factsOf(sampleFlatColor()), MapKind::Color)); }},
            {"grey.spread", "grey in three channels",
             [] {
                 const Plane h = sampleHeight(32, 32);
                 return of(remarksOn(factsOf(imageOf({h, h, h}, SampleType::U8)), MapKind::Color));
             }},
            {"alpha.full",
             "alpha that is 1 everywhere",
             [] {
                 Image i = sampleColors(32, 32, 4);
                 for (size_t k = 3; k < i.samples.size(); k += 4) i.samples[k] = std::byte(255);
                 return of(remarksOn(factsOf(i), MapKind::Color));
             },
             {"Alpha"}},
            {"value.broken",
             "a NaN among the pixels",
             [] {
                 Image i = imageOf({sampleHeight(32, 32)}, SampleType::F32);
                 reinterpret_cast<float*>(i.samples.data())[5] = NAN;
                 return of(remarksOn(factsOf(i), MapKind::Height));
             },
             {"1 values"}},
            {"normal.length", "normals of half their length", [] { return of(remarksOn(factsOf(normals(0.5f, false)), MapKind::Normal)); }},
            {"normal.away", "normals that look into the surface", [] { return of(remarksOn(factsOf(normals(1, true)), MapKind::Normal)); }},
            {"green.down", "normals whose green points down",
             [] {
                 Image n = normalsFromHeight(sampleHeight(64, 64), {1, 0.1f}, SampleType::U8);
                 for (size_t k = 1; k < n.samples.size(); k += 3) n.samples[k] = std::byte(255 - int(n.samples[k]));
                 return of(remarksOn(factsOf(n), MapKind::Normal));
             }},
            {"bake.nothing", "baking what is not there", [] { return baked(bareProject(), "x", 64); }},
            {"bake.size", "a bake of two pixels", [] { return baked(bareProject(), "m", 2); }, {"2", "4 to 8192"}},
            {"bake.broken-graph", "a graph with an error", [] { return baked(looped(), "m", 64); }, {"M", "depends on itself"}},
            {"bake.vertices",
             "the vertex offset as a flat map",
             [] {
                 Assets assets;
                 return of(evaluateChannel(bareProject(), assets, "m", "vertex_offset", 64, 0, {}));
             },
             {"vertices", "vertex_offset"}},
            {"bake.no-layer",
             "a channel of a layer that the surface does not have",
             [] {
                 Assets assets;
                 return of(evaluateChannel(bareProject(), assets, "m", "clearcoat", 64, 0, {}));
             },
             {"M", "layer"}},
            {"bake.cancelled",
             "a bake that was cancelled",
             [] {
                 Assets assets;
                 Work stopped;
                 const std::atomic<bool> stop = true;
                 stopped.cancelled = &stop;
                 return of(bake(bareProject(), assets, {"m", 64, 0, stopped}));
             },
             {"nothing was written"}},
            {"bake.no-uvs",
             "maps over a mesh without UVs",
             [] {
                 auto mesh = std::make_shared<Mesh>(makePlane(2));
                 for (Vertex& v : mesh->vertices) v.uv0 = {};
                 return of(UnwrappedMesh::of(mesh, mesh->slots[0], 8));
             },
             {"Unwrap"}},
            {"dispatch.suffix",
             "a GLB that is to be named .gltf",
             [&] {
                 Assets assets;
                 return of(dispatchGlb(bareProject(), assets, {"m", 64, 0, {}}, "shape:sphere", folder / "a.gltf"));
             },
             {".glb"}},
            {"make.nothing", "a map of a wire that is not there",
             [] {
                 Assets assets;
                 MapOrigin o;
                 o.worn = "m";
                 o.wire = {"gone", "out", ""};
                 return of(pictureOfWire(bareProject(), assets, o, {}));
             }},
            {"make.broken-graph",
             "a map of a graph with an error",
             [] {
                 Assets assets;
                 MapOrigin o;
                 o.worn = "m";
                 o.wire = {"x", "out", ""};
                 o.width = o.height = 16;
                 return of(pictureOfWire(looped(), assets, o, {}));
             },
             {"depends on itself"}},
            {"recipe.no-role",
             "a number for a role that a recipe does not read",
             [] { return of(withNumber(*findRecipe("orm"), "gloss", 0.5f)); },
             {"gloss", "occlusion, roughness, metallic"}},
            {"pack.no-source",
             "a packing without its maps",
             [] {
                 PackRequest r;
                 r.recipe.name = "masks";
                 r.recipe.lanes[0].from = Lane::From::Map;
                 r.recipe.lanes[0].source = "roughness";
                 return of(planPack(r));
             },
             {"roughness"}},
        };
    }

    static Image sampleFlatColor() {
        Image i(32, 32, 3, SampleType::U8);
        for (size_t k = 0; k < i.samples.size(); ++k) i.samples[k] = std::byte(60 + 40 * (k % 3));
        return i;
    }
    /// Unit normals that turn, made shorter, some of them away.
    static Image normals(float length, bool away) {
        std::vector<Plane> planes(3, Plane(32, 32));
        for (int y = 0; y < 32; ++y)
            for (int x = 0; x < 32; ++x) {
                const float a = 0.5f * std::sin(float(x)), b = 0.5f * std::cos(float(y)), c = std::sqrt(1 - a * a - b * b);
                planes[0].at(x, y) = a * length * 0.5f + 0.5f, planes[1].at(x, y) = b * length * 0.5f + 0.5f;
                planes[2].at(x, y) = (away && x == y ? -c : c) * length * 0.5f + 0.5f;
            }
        return imageOf(planes, SampleType::U16);
    }
    /// A master with a card that depends on itself, through the wire of base color.
    static Project looped() {
        Project p = bareProject();
        auto m = std::make_shared<Master>(*p.masters[0]);
        put(*m, "add", "x", [](Node& n) { n.wires["in1"] = {"y", "out", ""}; });
        put(*m, "add", "y", [](Node& n) { n.wires["in1"] = {"x", "out", ""}; });
        m->graph.channelWires["roughness"] = {"x", "out", ""};
        p.masters[0] = m;
        return p;
    }
    static Said baked(const Project& p, const Id& worn, int size) {
        Assets assets;
        return of(bake(p, assets, {worn, size, 0, {}}));
    }

    static std::vector<Message> ofGraphs() {
        const auto bits = [](std::initializer_list<Layer> list) {
            uint32_t out = 0;
            for (Layer l : list) out |= uint32_t(l);
            return out;
        };
        const Value one = Value::number(1), grey = Value::vec3(0.5f, 0.5f, 0.5f);
        return {
            {"graph.cycle", "a card that depends on itself", [] { return of(checkProject(looped())); }, {"Cut one wire"}},
            {"graph.too-deep",
             "a noise under a hundred cards that read it elsewhere",
             [] {
                 return found([](Project& p) {
                     Id last = add(p, "noise_2d");
                     for (int k = 0; k < 100; ++k) {
                         const Id next = add(p, "nearby");
                         wire(p, {last, "out", ""}, next, "in");
                         last = next;
                     }
                     channel(p, {last, "out", ""}, "roughness");
                 });
             },
             {"too deep"}},
            {"graph.dead-end", "a card that leads nowhere", [] { return found([](Project& p) { add(p, "noise_2d"); }); }},
            {"node.unknown",
             "a card of a kind that there is not",
             [] {
                 return foundIn([](Project&, Master& m) { put(m, "noise9d", "n"), m.graph.channelWires["roughness"] = {"n", "out", ""}; });
             },
             {"noise9d"}},
            {"wire.no-source", "a wire from a card that is gone",
             [] { return foundIn([](Project&, Master& m) {
                      m.graph.channelWires["roughness"] = {"gone", "out", ""};
                  }); }},
            {"wire.no-port",
             "a wire from an output that there is not",
             [] {
                 return foundIn([](Project&, Master& m) {
                     put(m, "texcoord", "n"), m.graph.channelWires["roughness"] = {"n", "side", ""};
                 });
             },
             {"side"}},
            {"wire.take",
             "the third component of a UV",
             [] {
                 return foundIn([](Project&, Master& m) {
                     put(m, "texcoord", "n"), m.graph.channelWires["roughness"] = {"n", "out", "z"};
                 });
             },
             {".z"}},
            {"wire.needs-take",
             "a color into roughness",
             [] {
                 return foundIn([](Project&, Master& m) { put(m, "position", "n"), m.graph.channelWires["roughness"] = {"n", "out", ""}; });
             },
             {"one number"}},
            {"wire.width",
             "a UV into base color",
             [] {
                 return foundIn([](Project&, Master& m) {
                     put(m, "texcoord", "n"), m.graph.channelWires["base_color"] = {"n", "out", ""};
                 });
             },
             {"2 components"}},
            {"wire.map-to-number",
             "a map into roughness",
             [] {
                 return foundIn([](Project&, Master& m) {
                     mapParameter(m);
                     put(m, "add", "n", [](Node& n) { n.wires["in1"] = {"p", "out", ""}; });
                     m.graph.channelWires["roughness"] = {"n", "out", ""};
                 });
             },
             {"Image card"}},
            {"wire.finish-to-number",
             "a finish into a number",
             [] {
                 return found([](Project& p) {
                     const Id sum = add(p, "add");
                     wire(p, {add(p, "finish"), "out", ""}, sum, "in1");
                     channel(p, {sum, "out", ""}, "roughness");
                 });
             },
             {"Add", "Separate finish"}},
            {"wire.number-to-finish",
             "a number to the whole surface",
             [] { return found([](Project& p) {
                      channel(p, {add(p, "noise_2d"), "out", ""}, "finish");
                  }); },
             {"Finish card"}},
            {"finish.unwired",
             "a blend of finishes that has one of two",
             [] {
                 return found([](Project& p) {
                     const Id blend = add(p, "finish_height_blend");
                     wire(p, {add(p, "finish"), "out", ""}, blend, "fg");
                     channel(p, {blend, "out", ""}, "finish");
                 });
             },
             {"Height blend of finishes", "bg"}},
            {"finish.layer-off",
             "a finish of cloth on a plain surface",
             [] { return found([](Project& p) {
                      channel(p, {add(p, "finish", {}, {{"kind", "cloth"}}), "out", ""}, "finish");
                  }); },
             {"Sheen"}},
            {"finish.width",
             "a UV in the place of a finish's roughness",
             [] {
                 return found([](Project& p) {
                     const Id with = add(p, "with_channel");
                     wire(p, {add(p, "finish"), "out", ""}, with, "finish");
                     wire(p, {add(p, "texcoord"), "out", ""}, with, "value");
                     channel(p, {with, "out", ""}, "finish");
                 });
             },
             {"Roughness", "one number"}},
            {"finish.no-part",
             "a channel of a finish that there is not",
             [] {
                 return found([](Project& p) {
                     const Id with = add(p, "with_channel", {}, {{"channel", "gloss"}});
                     wire(p, {add(p, "finish"), "out", ""}, with, "finish");
                     channel(p, {with, "out", ""}, "finish");
                 });
             },
             {"With channel"}},
            {"finish.missing",
             "a finish of what is not in the project",
             [] { return found([](Project& p) {
                      channel(p, {add(p, "finish_of", {}, {{"of", "gone"}}), "out", ""}, "finish");
                  }); },
             {"Finish of"}},
            {"finish.of-itself",
             "a master that takes a finish of itself",
             [] { return found([](Project& p) {
                      channel(p, {add(p, "finish_of", {}, {{"of", "m"}}), "out", ""}, "finish");
                  }); },
             {"M, which takes a finish of M"}},
            {"finish.too-large",
             "masters that each take two finishes of the next, forty deep",
             [] {
                 Project p = bareProject();
                 p.masters.clear();
                 for (int k = 0; k <= 40; ++k) {
                     auto m = std::make_shared<Master>();
                     m->id = m->name = fmt::format("m{}", k);
                     for (const char* id : {"a", "b"})
                         if (k < 40) put(*m, "finish_of", id, [&](Node& n) { n.settings["of"] = fmt::format("m{}", k + 1); });
                     p.masters.push_back(std::move(m));
                 }
                 return of(compileTaps(p, *p.masters[0]).diagnostics);
             },
             {"5000"}},
            {"finish.no-channel",
             "mixing a ninth finish over by paint",
             [] {
                 Project p = bareProject();
                 for (int k = 0; k < 8; ++k) p = *edit::mixOver(p, "m", {});
                 return of(edit::mixOver(p, "m", {}));
             },
             {"eight painted channels"}},
            {"finish.too-deep",
             "201 masters that each take a finish of the next",
             [] {
                 Project p = bareProject();
                 p.masters.clear();
                 for (int k = 0; k <= 201; ++k) {
                     auto m = std::make_shared<Master>();
                     m->id = m->name = fmt::format("m{}", k);
                     put(*m, "finish_of", "n", [&](Node& n) { n.settings["of"] = fmt::format("m{}", k + 1); });
                     if (k == 201) m->graph.nodes.clear();
                     else m->graph.channelWires["finish"] = {"n", "out", ""};
                     p.masters.push_back(std::move(m));
                 }
                 return of(compileSurface(p, *p.masters[0]).diagnostics);
             },
             {"200"}},
            {"wire.number-to-map", "a number where a map goes",
             [] {
                 return foundIn([](Project&, Master& m) {
                     put(m, "texcoord", "u");
                     put(m, "image", "n", [](Node& n) { n.wires["map"] = {"u", "out", ""}; });
                     m.graph.channelWires["base_color"] = {"n", "color", ""};
                 });
             }},
            {"formula.problem",
             "a formula with a mistake",
             [] {
                 return found([](Project& p) { channel(p, {add(p, "formula", {}, {{"formula", "a +\n* 2"}}), "out", ""}, "roughness"); });
             },
             {"Formula", "line 2, column 1", "a value is missing"}},
            {"image.no-map",
             "an Image without a map",
             [] { return found([](Project& p) {
                      channel(p, {add(p, "image"), "color", ""}, "base_color");
                  }); },
             {"Image"}},
            {"parameter.missing", "a card of a parameter that is gone",
             [] {
                 return foundIn([](Project&, Master& m) {
                     put(m, "parameter", "n", [](Node& n) { n.settings["parameter"] = "gone"; });
                     m.graph.channelWires["roughness"] = {"n", "out", ""};
                 });
             }},
            {"parameter.no-effect", "a parameter that nothing reads", [] { return of(checkProject(furnished())); }, {"Wear"}},
            {"instance.no-parent",
             "an instance of a master that is gone",
             [] {
                 return found([](Project& p) {
                     p.instances.push_back(std::make_shared<Instance>(Instance{"i", "First", "gone", {}, {}, {}, {}, {}}));
                 });
             },
             {"First"}},
            {"instance.stray-value",
             "a value of a parameter that is gone",
             [] {
                 Instance i{"i", "First", "m", {}, {}, {}, {}, {}};
                 i.own["gone"] = {Value::number(1), {}};
                 return found([&](Project& p) { p.instances.push_back(std::make_shared<Instance>(i)); });
             },
             {"First"}},
            {"channel.inactive",
             "alpha wired on an opaque surface",
             [] { return found([](Project& p) {
                      channel(p, {add(p, "noise_2d"), "out", ""}, "alpha");
                  }); },
             {"Alpha"}},
            {"scene.not-see-through",
             "a depth gap on an opaque surface",
             [] { return found([](Project& p) {
                      channel(p, {add(p, "depth_gap"), "out", ""}, "roughness");
                  }); },
             {"Depth gap", "opaque"}},
            {"offset.limit",
             "a depth gap that moves vertices",
             [] {
                 return found([](Project& p) {
                     const Id gap = add(p, "depth_gap"), up = add(p, "combine", {}, {{"components", "3"}});
                     wire(p, {gap, "out", ""}, up, "g");
                     channel(p, {up, "out", ""}, "vertex_offset");
                 });
             },
             {"Depth gap", "1000 m"}},
            {"wire.per-vertex",
             "a wire that reads the eye, computed per vertex",
             [] {
                 return found([](Project& p) {
                     channel(p, {add(p, "view_direction"), "out", "x"}, "roughness");
                     p = *edit::setPerVertex(p, "m", {}, "roughness", true);
                 });
             },
             {"View direction", "the direction to the eye", "per pixel"}},
            {"wire.per-vertex-full",
             "more per vertex than triangles carry",
             [] {
                 return found([](Project& p) {
                     Id sum;
                     for (int k = 0; k < 5; ++k) {
                         const Id noise = add(p, "noise_2d", {{"scale", Value::number(3.f + float(k))}}),
                                  tinted = add(p, "multiply", {{"in2", Value::vec3(1, 0.5f, 0.25f)}}), next = add(p, "add");
                         wire(p, {noise, "out", ""}, tinted, "in1");
                         wire(p, {tinted, "out", ""}, next, "in1");
                         p = *edit::setPerVertex(p, "m", next, "in1", true);
                         if (k) wire(p, {sum, "out", ""}, next, "in2");
                         sum = next;
                     }
                     channel(p, {sum, "out", ""}, "base_color");
                 });
             },
             {"16 numbers", "per pixel"}},
            {"divide.by-zero", "a division by 0",
             [] { return found([](Project& p) {
                      channel(p, {add(p, "divide", {{"in2", Value::number(0)}}), "out", ""}, "roughness");
                  }); }},
            {"channel.may-leave-range",
             "a noise that falls below 0 as roughness",
             [] { return found([](Project& p) {
                      channel(p, {add(p, "noise_2d", deep), "out", ""}, "roughness");
                  }); },
             {"Roughness", "-1"}},
            {"mix.beyond",
             "a noise that falls below 0 as a weight",
             [] {
                 return found([](Project& p) {
                     const Id mix = add(p, "mix");
                     wire(p, {add(p, "noise_2d", deep), "out", ""}, mix, "mix");
                     channel(p, {mix, "out", ""}, "base_color");
                 });
             },
             {"Mix"}},
            {"root.may-be-negative",
             "the root of a noise that falls below 0",
             [] {
                 return found([](Project& p) {
                     const Id root = add(p, "square_root");
                     wire(p, {add(p, "noise_2d", deep), "out", ""}, root, "in");
                     channel(p, {root, "out", ""}, "roughness");
                 });
             },
             {"Square root", "-1"}},
            {"power.may-be-negative",
             "a power of a noise that falls below 0",
             [] {
                 return found([](Project& p) {
                     const Id power = add(p, "power", {{"in2", Value::number(2.2f)}});
                     wire(p, {add(p, "noise_2d", deep), "out", ""}, power, "in1");
                     channel(p, {power, "out", ""}, "roughness");
                 });
             },
             {"Power", "-1"}},
            {"smoothstep.no-width",
             "a Smoothstep whose edges are one",
             [] {
                 return found([](Project& p) {
                     const Id step = add(p, "smoothstep", {{"low", Value::number(0.5f)}, {"high", Value::number(0.5f)}});
                     wire(p, {add(p, "texcoord"), "out", "x"}, step, "in");
                     channel(p, {step, "out", ""}, "roughness");
                 });
             },
             {"0.5"}},
            {"smoothstep.may-have-no-width",
             "a Smoothstep whose edges are parameters with the same range",
             [] {
                 return found([](Project& p) {
                     const Id step = add(p, "smoothstep");
                     wire(p, {add(p, "texcoord"), "out", "x"}, step, "in");
                     for (const char* edge : {"low", "high"}) {
                         Parameter of;
                         of.id = of.name = of.codeName = edge;
                         p = *edit::addParameter(p, "m", of);
                         wire(p, {add(p, "parameter", {}, {{"parameter", edge}}), "out", ""}, step, edge);
                     }
                     channel(p, {step, "out", ""}, "roughness");
                 });
             },
             {"as high as 1", "as low as 0"}},
            {"divide.may-be-zero",
             "a division by a parameter from 0 to 1",
             [] {
                 return found([](Project& p) {
                     Parameter q;
                     q.id = "q";
                     q.name = "Wear";
                     p = *edit::addParameter(p, "m", q);
                     const Id card = add(p, "parameter", {}, {{"parameter", "q"}}), divide = add(p, "divide", {{"in1", Value::number(1)}});
                     wire(p, {card, "out", ""}, divide, "in2");
                     channel(p, {divide, "out", ""}, "roughness");
                 });
             },
             {"Wear"}},
            {"normal.not-a-normal",
             "a noise into the normal",
             [] {
                 return found([](Project& p) {
                     const Id color = add(p, "combine", {}, {{"components", "3"}});
                     channel(p, {color, "out", ""}, "normal");
                 });
             },
             {"Normal map"}},
            {"normal.mixed-encoded",
             "two encoded normals mixed",
             [] {
                 Project p = bareProject();
                 const Id a = add(p, "height_to_normal"), b = add(p, "height_to_normal"), mix = add(p, "mix");
                 wire(p, {a, "out", ""}, mix, "bg");
                 wire(p, {b, "out", ""}, mix, "fg");
                 return of(checkProject(p));
             },
             {"Mix"}},
            {"normal.from-color",
             "a color where an encoded normal is wanted",
             [] {
                 Project p = bareProject();
                 const Id c = add(p, "constant", {{"value", Value::vec3(1, 0, 0)}}), normal = add(p, "normal_map");
                 wire(p, {c, "out", ""}, normal, "in");
                 return of(checkProject(p));
             },
             {"Normal map", "Constant"}},
            {"normal.encoded",
             "an encoded normal where one of the world is wanted",
             [] {
                 Project p = bareProject();
                 const Id h = add(p, "height_to_normal"), facing = add(p, "facing_ratio");
                 wire(p, {h, "out", ""}, facing, "normal");
                 return of(checkProject(p));
             },
             {"Facing ratio", "Height to normal"}},
            {"text.wrong",
             "lines with a slip of the hand",
             [] { return of(applyText(bareProject(), "m", "grain = nois_2d()", {})); },
             {"line 1", "noise_2d"}},
            {"normal.of-itself",
             "a card that asks for the mapped normal and feeds it",
             [] {
                 Project p = bareProject();
                 const Id mapped = add(p, "normal", {}, {{"of", "mapped"}}), turned = add(p, "rotate_3d");
                 wire(p, {mapped, "out", ""}, turned, "in");
                 channel(p, {turned, "out", ""}, "normal");
                 return of(checkProject(p));
             },
             {"normal of the mesh"}},
            {"wire.not-a-position",
             "a direction where a position is wanted",
             [] {
                 Project p = bareProject();
                 const Id t = add(p, "tangent"), noise = add(p, "noise_3d");
                 wire(p, {t, "out", ""}, noise, "position");
                 return of(checkProject(p));
             },
             {"Noise 3D", "Tangent"}},
            {"normal.added", "two normals added",
             [] {
                 return found([](Project& p) {
                     const Id a = add(p, "normal"), b = add(p, "normal"), sum = add(p, "add");
                     wire(p, {a, "out", ""}, sum, "in1");
                     wire(p, {b, "out", ""}, sum, "in2");
                     channel(p, {sum, "out", ""}, "normal");
                 });
             }},
            {"advice.no-return",
             "a wave that is elsewhere when the loop ends",
             [] {
                 Project p = bareProject();
                 add(p, "wave", {{"frequency", Value::number(0.3f)}});
                 return of(adviceFor(p, masterOf(p)));
             },
             {"Wave", "8 s", "0.25"}},
            {"advice.dark-base",
             "a base color darker than charcoal",
             [=] {
                 return advised(0, {{"base_color", Value::vec3(0.01f, 0.01f, 0.01f)}});
             },
             {"charcoal"}},
            {"advice.bright-base",
             "a base color brighter than snow",
             [=] {
                 return advised(0, {{"base_color", Value::vec3(1, 1, 1)}});
             },
             {"snow"}},
            {"advice.dark-metal", "a dark metal",
             [=] {
                 return advised(0, {{"base_color", Value::vec3(0.1f, 0.1f, 0.1f)}, {"metallic", one}});
             }},
            {"advice.half-metal",
             "half a metal",
             [=] {
                 return advised(0, {{"base_color", grey}, {"metallic", Value::number(0.5f)}});
             },
             {"0.50"}},
            {"advice.no-glow", "a glow of strength 0",
             [=] {
                 return advised(0, {{"emissive", grey}, {"emissive_strength", Value::number(0)}});
             }},
            {"advice.mask-without-alpha", "a mask without alpha", [=] { return advised(0, {}, AlphaMode::Mask); }, {"nothing is cut away"}},
            {"advice.glass-by-alpha",
             "a smooth surface with an index of refraction that blends",
             [=] {
                 return advised(bits({Layer::Reflection}), {{"roughness", Value::number(0.1f)}}, AlphaMode::Blend);
             },
             {"0.10"}},
            {"advice.metal-glass", "a metal that light passes through",
             [=] {
                 return advised(bits({Layer::Transmission}), {{"transmission", one}, {"metallic", one}});
             }},
            {"advice.blend-and-transmission", "glass with blend",
             [=] {
                 return advised(bits({Layer::Transmission}), {{"transmission", one}}, AlphaMode::Blend);
             }},
            {"advice.no-thickness", "a solid of no thickness",
             [=] {
                 return advised(bits({Layer::Transmission, Layer::Volume}), {{"transmission", one}, {"thickness", Value::number(0)}});
             }},
            {"advice.coated-cloth", "a coat over cloth",
             [=] {
                 return advised(bits({Layer::Sheen, Layer::Coat}), {{"clearcoat", one}, {"sheen_color", grey}});
             }},
            {"advice.smooth-brush", "a stretch on a mirror",
             [=] {
                 return advised(bits({Layer::Anisotropy}), {{"anisotropy", one}, {"roughness", Value::number(0.02f)}});
             }},
            {"advice.odd-index",
             "an index of refraction of 4",
             [=] {
                 return advised(bits({Layer::Reflection}), {{"ior", Value::number(4)}});
             },
             {"4.00"}},
            {"advice.one-sided-glass", "one-sided glass on a sheet",
             [=] {
                 return foundIn([=](Project& p, Master& m) {
                     m.surface.layers = uint32_t(Layer::Transmission);
                     p.lineup.specimens[0].mesh = "shape:sheet";
                 });
             }},
        };
    }
    static void mapParameter(Master& m) {
        Parameter q;
        q.id = "q";
        q.name = "Cloth";
        q.type = ParameterType::Map;
        m.parameters.push_back(q);
        put(m, "parameter", "p", [](Node& n) { n.settings["parameter"] = "q"; });
    }

    static std::vector<Message> ofEdits() {
        const Project p = furnished();
        const Value one = Value::number(1);
        return {
            {"edit.no-master", "an edit of a master that is gone", [=] { return of(edit::renameMaster(p, "x", "New")); }},
            {"master.unknown", "a kind for a master that is gone", [=] { return of(edit::applyKind(p, "x", surfaceKinds()[0])); }},
            {"edit.no-card", "an edit of a card that is gone", [=] { return of(edit::setConstant(p, "m", "x", "in1", one)); }},
            {"edit.no-port",
             "a value for an input that there is not",
             [=] {
                 Project q = p;
                 return of(edit::setConstant(q, "m", add(q, "add"), "in9", one));
             },
             {"in9"}},
            {"edit.no-setting",
             "a setting that there is not",
             [=] {
                 Project q = p;
                 return of(edit::setSetting(q, "m", add(q, "add"), "mode", "a"));
             },
             {"mode"}},
            {"edit.no-choice",
             "a choice that there is not",
             [=] {
                 Project q = p;
                 return of(edit::setSetting(q, "m", add(q, "wave"), "shape", "star"));
             },
             {"star", "shape"}},
            {"value.not-finite", "an infinite value",
             [=] {
                 Project q = p;
                 return of(edit::setConstant(q, "m", add(q, "add"), "in1", Value::number(INFINITY)));
             }},
            {"edit.no-channel",
             "a channel that there is not",
             [=] { return of(edit::setChannelConstant(p, "m", "shine", one)); },
             {"shine"}},
            {"edit.no-wire",
             "a take of a wire that is gone",
             [=] {
                 Project q = p;
                 return of(edit::setTake(q, "m", add(q, "add"), "in1", "x"));
             },
             {"in1"}},
            {"wire.take",
             "a take of letters that are none",
             [=] {
                 Project q = p;
                 const Id uv = add(q, "texcoord"), sum = add(q, "add");
                 wire(q, {uv, "out", ""}, sum, "in1");
                 return of(edit::setTake(q, "m", sum, "in1", "q"));
             },
             {".q"}},
            {"edit.no-instance", "a value for an instance that is gone", [=] { return of(edit::renameInstance(p, "x", "Second")); }},
            {"edit.no-parameter", "a parameter that is gone", [=] { return of(edit::removeParameter(p, "m", "x")); }},
            {"edit.no-file", "a map that is gone", [=] { return of(edit::removeMap(p, "x")); }},
            {"edit.no-map", "an own map that is gone",
             [=] {
                 Project q = p;
                 Parameter map;
                 map.id = "c";
                 map.name = "Cloth";
                 map.type = ParameterType::Map;
                 q = *edit::addParameter(q, "m", map);
                 return of(edit::setOwn(q, "i", "c", {{}, "gone"}));
             }},
            {"edit.no-bay", "a bay that is gone", [=] { return of(edit::removeBay(p, "m", "x")); }},
            {"edit.no-packing", "a packing that is gone", [=] { return of(edit::removePacking(p, "x")); }},
            {"bay.empty", "a bay around nothing", [=] { return of(edit::addBay(p, "m", "Rust", {})); }},
            {"name.empty", "a master without a name", [=] { return of(edit::renameMaster(p, "m", "  ")); }},
            {"name.slash", "a slash in a name", [=] { return of(edit::renameInstance(p, "i", "a/b")); }, {"slash"}},
            {"name.taken",
             "a parameter's name twice",
             [=] {
                 Parameter q;
                 q.id = "z";
                 q.name = "Wear";
                 return of(edit::addParameter(p, "m", q));
             },
             {"Wear"}},
            {"instance.no-parent", "an instance without a parent",
             [=] {
                 return of(edit::addInstance(p, {"j", "Second", "x", {}, {}, {}, {}, {}}));
             }},
            {"expose.no-constant", "exposing an input that there is not",
             [=] {
                 Project q = p;
                 return of(edit::expose(q, "m", add(q, "image", {}, {{"map", "a"}}), "map", {}));
             }},
            {"expose.follows-mesh", "exposing the UV of a noise",
             [=] {
                 Project q = p;
                 return of(edit::expose(q, "m", add(q, "noise_2d"), "uv", {}));
             }},
            {"expose.channel-wired", "exposing a channel that is wired",
             [=] {
                 Project q = p;
                 channel(q, {add(q, "constant"), "out", ""}, "roughness");
                 return of(edit::exposeChannel(q, "m", "roughness", {}));
             }},
            {"expose.nothing", "exposing cards without values of their own", [=] { return of(edit::exposeSeveral(p, "m", {})); }},
            {"edit.nothing-copied", "pasting what nobody copied", [=] { return of(edit::pasteCards(p, "m", {}, {})); }},
            {"cards.unreadable", "pasting a shopping list", [=] { return of(parseCards("milk, eggs")); }, {"not JSON"}},
            {"cards.newer-format",
             "pasting cards from a newer version",
             [=] { return of(parseCards(R"({"kind": "huestack cards", "format": 99, "cards": []})")); },
             {"99"}},
            {"wire.kind", "what reads maps led to numbers",
             [=] {
                 Project q = p;
                 const Id map = add(q, "image", {}, {{"map", "a"}});
                 return of(edit::swapInputs(q, "m", map, "map", "uv"));
             }},
            {"graph.cycle", "a wire that would close a loop",
             [=] {
                 Project q = p;
                 const Id a = add(q, "add"), b = add(q, "add");
                 wire(q, {a, "out", ""}, b, "in1");
                 return of(edit::connect(q, "m", {b, "out", ""}, a, "in1"));
             }},
            {"map.in-use",
             "removing a map that is read",
             [=] {
                 Project q = p;
                 add(q, "image", {}, {{"map", "a"}});
                 return of(edit::removeMap(q, "a"));
             },
             {"a is read by"}},
            {"map.unread", "a map in the place of a wire that nothing reads",
             [=] {
                 Project q = p;
                 return of(edit::replaceByMap(q, "m", {add(q, "noise_2d"), "out", ""}, 1, "a"));
             }},
            {"map.four", "a map in the place of four components",
             [=] {
                 Project q = p;
                 const Id four = add(q, "combine", {}, {{"components", "4"}}), sum = add(q, "add");
                 wire(q, {four, "out", ""}, sum, "in1");
                 return of(edit::replaceByMap(q, "m", {four, "out", ""}, 4, "a"));
             }},
            {"set.role-twice",
             "a set with two heights",
             [=] {
                 return of(edit::makeSet(p, "c", {{"a", "height"}, {"b", "height"}}));
             },
             {"height"}},
            {"set.no-parameter", "wearing a set where no parameter takes it", [=] { return of(edit::wearSet(p, "i", "a")); }},
            {"set.nothing-alike", "swapping sets without a common role", [=] { return of(edit::swapSets(p, "a", "b")); }, {"a", "b"}},
            {"set.nothing-to-place", "placing a set that there is not", [=] { return of(edit::placeSet(p, "m", "none")); }},
            {"packed.not-made", "using a packing before it was made", [=] { return of(edit::usePacked(p, "k")); }},
            {"packed.unread", "using a packing whose maps nothing reads",
             [=] {
                 Project q = p;
                 auto k = std::make_shared<Packing>(*q.packings[0]);
                 k->map = "a";
                 q.packings[0] = k;
                 return of(edit::usePacked(q, "k"));
             }},
            {"lineup.nothing-worn", "wearing what is not there", [=] { return of(edit::wear(p, 0, 0, "x")); }},
            {"lineup.no-specimen", "a specimen that there is not", [=] { return of(edit::wear(p, 9, 0, "m")); }},
            {"edit.master-taken",
             "removing a master that another takes as a finish",
             [] {
                 Project q = bareProject();
                 Master tar;
                 tar.id = "tar", tar.name = "Tar";
                 q = *edit::addMaster(q, tar);
                 add(q, "finish_of", {}, {{"of", "tar"}});
                 return of(edit::removeMaster(q, "tar"));
             },
             {"Tar", "by M"}},
            {"edit.no-decal", "a decal that is gone", [=] { return of(edit::removeDecal(p, 0, "d")); }},
            {"edit.no-paint", "a paintwork without paint", [=] { return of(edit::addPaintwork(p, {})); }},
            {"edit.no-paintwork", "a paintwork that is gone", [=] { return of(edit::removePaintwork(p, "w")); }},
            {"lineup.other-mesh",
             "paint of a ball on a cube",
             [=] {
                 Project q = withPaint(true);
                 q.lineup.specimens[0].mesh = "shape:cube";
                 return of(edit::wearPaintwork(q, 0, "w"));
             },
             {"Ball", "specimen 1"}},
        };
    }

    /// Two chains of the same cards.
    static Project twice() {
        Project p = bareProject();
        for (const char* to : {"roughness", "metallic"}) {
            Id last = add(p, "noise_2d", {{"pivot", Value::number(to[0] == 'r' ? 0.2f : 0.1f)}});
            for (const char* kind : {"invert", "sine", "clamp", "absolute_value", "cosine"}) {
                const Id next = add(p, kind);
                wire(p, {last, "out", ""}, next, "in");
                last = next;
            }
            channel(p, {last, "out", ""}, to);
        }
        return p;
    }

    static std::vector<Message> ofAssemblies() {
        const auto card = [](const Project& p) {
            for (const auto& [id, node] : masterOf(p).graph.nodes)
                if (isAssembly(*node)) return id;
            return Id{};
        };
        const auto fold = [](std::string_view kind, std::map<std::string, std::string> settings = {}) {
            Project p = bareProject();
            const Id four = add(p, "combine", {}, {{"components", "4"}}), id = add(p, kind, {}, std::move(settings));
            if (kind == "separate") wire(p, {four, "out", ""}, id, "in");
            return of(foldCards(p, "m", {id}, "Part"));
        };
        return {
            {"assembly.missing", "a card for an assembly that is gone",
             [] {
                 Project p = towerOf(1, 1);
                 p.assemblies.clear();
                 return of(checkProject(p));
             }},
            {"assembly.missing", "unfolding a card for an assembly that is gone",
             [=] {
                 Project p = towerOf(1, 1);
                 p.assemblies.clear();
                 return of(unfoldCard(p, "m", card(p)));
             }},
            {"assembly.holds-itself",
             "an assembly on its own board",
             [] { return of(edit::addNode(towerOf(1, 1), "a1", makeAssemblyNode("a1"))); },
             {"a1"}},
            {"assembly.holds-itself",
             "a file in which an assembly holds itself",
             [] {
                 Project p = towerOf(1, 1);
                 auto a = std::make_shared<Assembly>(*p.assemblies[0]);
                 const Node self = makeAssemblyNode("a1");
                 a->graph.nodes[self.id] = std::make_shared<Node>(self);
                 p.assemblies[0] = a;
                 return of(checkProject(p));
             },
             {"contains itself"}},
            {"assembly.too-deep", "201 assemblies within each other", [] { return of(checkProject(towerOf(201, 1))); }, {"200"}},
            {"assembly.too-large",
             "assemblies that hold two of the next, forty deep",
             [] {
                 const Project p = towerOf(40, 2);
                 return of(compileSurface(p, masterOf(p)).diagnostics);
             },
             {"5000"}},
            {"assembly.nothing-selected", "folding nothing", [] { return of(foldCards(bareProject(), "m", {}, "Part")); }},
            {"assembly.no-output", "folding a note", [=] { return fold("note"); }},
            {"assembly.four-components", "folding what reads four components", [=] { return fold("separate"); }, {"Combine", "Separate"}},
            {"assembly.takes-finish",
             "folding a card that reads a finish",
             [] {
                 Project p = bareProject();
                 const Id with = add(p, "with_channel");
                 wire(p, {add(p, "finish"), "out", ""}, with, "finish");
                 return of(foldCards(p, "m", {with}, "Part"));
             },
             {"Finish", "With channel"}},
            {"assembly.around",
             "folding cards around another",
             [] {
                 Project p = bareProject();
                 const Id a = add(p, "noise_2d"), b = add(p, "invert"), c = add(p, "sine");
                 wire(p, {a, "out", ""}, b, "in");
                 wire(p, {b, "out", ""}, c, "in");
                 return of(foldCards(p, "m", {a, c}, "Part"));
             },
             {"Invert"}},
            {"assembly.muted",
             "unfolding a muted card",
             [=] {
                 const Project p = towerOf(1, 1);
                 return of(unfoldCard(*edit::muteNodes(p, "m", {card(p)}, true), "m", card(p)));
             },
             {"a1"}},
            {"assembly.in-use",
             "removing an assembly that has a card",
             [] { return of(edit::removeAssembly(towerOf(1, 1), "a1")); },
             {"a1", "M"}},
            {"assembly.no-surface", "a channel of an assembly",
             [] {
                 const Project p = towerOf(1, 1);
                 return of(edit::connectChannel(p, "a1", {p.assemblies[0]->graph.nodes.begin()->first, "out", ""}, "roughness"));
             }},
            {"assembly.no-outputs",
             "an assembly without an Output card",
             [] {
                 Project p = towerOf(1, 1);
                 return of(checkProject(*edit::removeNodes(p, "a1", {cardOf(*p.assembly("a1")).outputs[0].card})));
             },
             {"a1"}},
            {"assembly.output-outside",
             "an Output card on a master's board",
             [] {
                 Project p = bareProject();
                 add(p, "output");
                 return of(checkProject(p));
             },
             {"Output"}},
            {"graph.too-large",
             "a board of 5001 cards",
             [] {
                 Project p = bareProject();
                 auto m = std::make_shared<Master>(*p.masters[0]);
                 for (int k = 0; k < 5001; ++k) {
                     const Node n = makeNode("constant");
                     m->graph.nodes[n.id] = std::make_shared<Node>(n);
                 }
                 p.masters[0] = m;
                 return of(compileSurface(p, *m).diagnostics);
             },
             {"5001", "5000"}},
            {"graph.equal-groups", "the same five cards twice", [] { return of(checkProject(twice())); }, {"5 cards", "Cosine"}},
            {"assembly.not-equal", "folding groups that have changed", [] { return of(foldEqual(twice(), "m", {}, "Part")); }},
            {"assembly.unreadable",
             "bringing in a shopping list",
             [] { return of(parseAssembly("milk, eggs", "list.hueassembly")); },
             {"list.hueassembly", "not JSON"}},
            {"assembly.newer-format",
             "an assembly shared by a newer version",
             [] { return of(parseAssembly(R"({"kind": "huestack assembly", "format": 99, "assemblies": []})", "new.hueassembly")); },
             {"99"}},
            {"edit.no-assembly", "renaming an assembly that is gone", [] { return of(edit::renameAssembly(bareProject(), "a", "B")); }},
        };
    }

    std::vector<Message> all() {
        std::vector<Message> out;
        for (auto list : {ofFiles(), ofMaps(), ofGraphs(), ofEdits(), ofAssemblies()}) out.insert(out.end(), list.begin(), list.end());
        return out;
    }
};

TEST_F(Messages, AreGivenByTheirCausesAndNameThem) {
    for (const Message& m : all()) {
        const Said said = m.provoke();
        const auto its = std::find_if(said.begin(), said.end(), [&](const auto& s) { return s.first == m.code; });
        if (its == said.end()) {
            std::string others;
            for (const auto& [code, sentence] : said) others += code + " ";
            ADD_FAILURE() << m.how << " should give " << m.code << " and gave " << (others.empty() ? "nothing" : others);
            continue;
        }
        for (const auto& [code, sentence] : said) {
            EXPECT_TRUE(sentence.ends_with(".") || sentence.ends_with(".)")) << code << ": " << sentence;
            EXPECT_GT(sentence.size(), 20u) << code << ": " << sentence;
            for (const char* word : {"std::", "exception", "nullptr", "{}", " ,", "  ", ".."})
                EXPECT_EQ(sentence.find(word), std::string::npos) << code << " holds '" << word << "': " << sentence;
        }
        for (const std::string& word : m.holds)
            EXPECT_NE(its->second.find(word), std::string::npos) << m.code << " does not say '" << word << "': " << its->second;
    }
}

// Read from the sources: a code is a text such as "wire.take" that is given to an Error, refuse(), a Diagnostic or a remark.
TEST_F(Messages, AreAllInTheTable) {
    // These have tests of their own, where their causes take more to set up.
    const std::set<std::string> elsewhere{"map.channels",
                                          "map.cmyk",
                                          "map.equal",
                                          "map.unused",
                                          "map.wrong-kind",
                                          "packed.instance",
                                          "packed.read-otherwise",
                                          "make.cancelled",
                                          "make.size",
                                          "pack.cancelled",
                                          "pack.onto-source",
                                          "pack.take",
                                          "pattern.odd",
                                          "normal.no-slope",
                                          "work.cancelled",
                                          "advice.one-sided-plane"};
    // No messages, or such that no test can bring about: memory that runs out, a library that fails.
    const std::set<std::string> unprovoked{"node.port", "compress.memory", "animation.cannot-encode", "untitled.journal",
                                           "loop.webp", "channel.key",     "language.refused"};
    std::set<std::string> listed;
    for (const Message& m : all()) listed.insert(m.code);
    const std::regex code("\"([a-z0-9]+(?:-[a-z0-9]+)*\\.[a-z]+(?:-[a-z]+)*)\"");
    std::set<std::string> missing;
    for (const auto& entry : fs::recursive_directory_iterator(sourceFolder() + "/core")) {
        if (entry.path().extension() != ".cpp" && entry.path().extension() != ".h") continue;
        std::ostringstream text;
        text << std::ifstream(entry.path()).rdbuf();
        const std::string all = text.str();
        for (auto it = std::sregex_iterator(all.begin(), all.end(), code); it != std::sregex_iterator(); ++it) {
            const std::string c = (*it)[1];
            if (!listed.contains(c) && !elsewhere.contains(c) && !unprovoked.contains(c) && !c.starts_with("unknown."))
                missing.insert(c + " (" + entry.path().filename().string() + ")");
        }
    }
    std::string tests;
    for (const auto& entry : fs::recursive_directory_iterator(sourceFolder() + "/tests"))
        if (entry.path().extension() == ".cpp" && entry.path().filename() != "messages_test.cpp") {
            std::ostringstream text;
            text << std::ifstream(entry.path()).rdbuf();
            tests += text.str();
        }
    for (const std::string& c : elsewhere) EXPECT_NE(tests.find("\"" + c + "\""), std::string::npos) << c << " has no test of its own";
    for (const std::string& m : missing) ADD_FAILURE() << m << " is in no table of messages";
}

// A page for each code in docs/messages: what brings it about, what is said then, and the fixes that are offered.
TEST_F(Messages, HavePagesThatAreCurrent) {
    const fs::path pages = sourceFolder() + "/docs/messages";
    std::map<std::string, std::string> wanted;
    std::string index =
        "# Messages\n\nEverything that Hue Stack and `hsk` say when something is wrong or could be better; made from the tests that bring "
        "each about.\n`hsk check` prints the code before the place.\n\n| code | for example |\n|---|---|\n";
    std::map<std::string, std::string> rows;
    for (const Message& m : all()) {
        if (rows.contains(m.code)) continue;
        const Said said = m.provoke();
        const auto its = std::find_if(said.begin(), said.end(), [&](const auto& s) { return s.first == m.code; });
        ASSERT_NE(its, said.end()) << m.code;
        std::string sentence = its->second;
        for (size_t at; (at = sentence.find(folder.string())) != std::string::npos;) sentence.replace(at, folder.string().size(), "/depot");
        std::string page = fmt::format("# `{}`\n\nFor example: {}.\n\n> {}\n", m.code, m.how, sentence);
        if (const auto fixes = fixesOf().find(m.code); fixes != fixesOf().end()) {
            page += "\nFixes that the list of problems offers:\n\n";
            for (const std::string& title : fixes->second) page += "- " + title + "\n";
        }
        wanted[m.code + ".md"] = page;
        rows[m.code] = fmt::format("| [{}]({}.md) | {} |\n", m.code, m.code, m.how);
    }
    for (const auto& [code, row] : rows) index += row;
    wanted["README.md"] = index;
    if (std::getenv("HUE_WRITE_DOCS")) {
        fs::remove_all(pages);
        fs::create_directories(pages);
        for (const auto& [name, text] : wanted) std::ofstream(pages / name) << text;
    }
    for (const auto& [name, text] : wanted) EXPECT_EQ(contentOf(pages / name), text) << name << ": HUE_WRITE_DOCS=1 writes it anew";
    for (const auto& file : fs::directory_iterator(pages)) EXPECT_TRUE(wanted.contains(file.path().filename().string())) << file.path();
}

} // namespace
} // namespace hue
