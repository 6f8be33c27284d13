// Finishes as parameters; parameters split, merged and limited together; what instances and presets make of it.
#include "core/builds/builds.h"
#include "core/check/check.h"
#include "core/instances/affected.h"
#include "core/instances/instance_csv.h"
#include "core/instances/value_words.h"
#include "core/instances/variations.h"
#include "core/master_text/master_text.h"
#include "core/nodes/catalogue.h"
#include "core/nodes/finish.h"
#include "core/project/frame_inputs.h"
#include "core/project/store.h"
#include "tests/test_graphs.h"

#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

template <class T> T good(Result<T> made) {
    EXPECT_TRUE(made) << (made ? "" : made.error().sentence);
    return made ? std::move(*made) : T{};
}
std::string refusal(const Result<Project>& next) { return next ? "taken" : next.error().code; }

void instance(Project& p, const Id& id, const Id& parent, std::map<Id, ParameterValue> own = {}) {
    Instance i;
    i.id = id, i.name = id, i.name[0] = char(std::toupper(id[0])), i.parent = parent, i.own = std::move(own);
    p = good(edit::addInstance(p, i));
}
void parameter(Project& p, const Id& master, const Id& id, ParameterType type, Value standard = {}) {
    Parameter q;
    q.id = id, q.name = id, q.name[0] = char(std::toupper(id[0])), q.codeName = id, q.type = type, q.standard.value = standard;
    p = good(edit::addParameter(p, master, q));
}

constexpr int kSize = 12;
std::vector<float> seen(const Project& p, const Id& worn, const std::string& key, int width) {
    const Resolved resolved = resolve(p, worn);
    const Compilation c = compileSurface(p, *resolved.master);
    EXPECT_TRUE(c.ok) << (c.diagnostics.empty() ? "" : c.diagnostics[0].sentence);
    Assets assets;
    return overSquare(Evaluator(c.program), frameInputs(p, assets, resolved, 0), key, width, kSize);
}

/// Master m mixes over its color by a noise the finish that its parameter "paint" says; "lacquer" and "chrome" are masters with a color and
/// a roughness as parameters, with the instances "red" and "worn".
Project painted(const Id& named = "paint") {
    Project p = bareProject();
    for (const Id master : {"lacquer", "chrome"}) {
        Master m;
        m.id = master, m.name = master;
        p = good(edit::addMaster(p, m));
        const Id tint = "tint_" + master, rough = "rough_" + master;
        parameter(p, master, tint, ParameterType::Color,
                  master == "chrome" ? Value::vec3(0.7f, 0.7f, 0.7f) : Value::vec3(0.1f, 0.3f, 0.2f));
        parameter(p, master, rough, ParameterType::Number, Value::number(0.4f));
        for (const auto& [id, key] : {std::pair{tint, "base_color"}, std::pair{rough, "roughness"}}) {
            const Node card = parameterCard(*p.master(master)->parameter(id));
            p = good(edit::addNode(p, master, card));
            p = good(edit::connectChannel(p, master, {card.id, "out", {}}, key));
        }
    }
    instance(p, "red", "lacquer", {{"tint_lacquer", {Value::vec3(0.8f, 0.05f, 0.02f), {}}}});
    instance(p, "worn", "chrome", {{"rough_chrome", {Value::number(0.9f), {}}}});
    if (named == "paint") {
        Parameter paint;
        paint.id = "paint", paint.name = "Paint", paint.codeName = "paint", paint.type = ParameterType::Finish,
        paint.standard.map = "lacquer";
        p = good(edit::addParameter(p, "m", paint));
    }
    const Id worn = add(p, "finish_of", {}, {{"of", named}}), plain = add(p, "finish"), mix = add(p, "mix"), uv = add(p, "texcoord");
    wire(p, {plain, "out", ""}, mix, "bg");
    wire(p, {worn, "out", ""}, mix, "fg");
    wire(p, {uv, "out", "r"}, mix, "mix");
    channel(p, {mix, "out", ""}, std::string(kWholeSurface));
    instance(p, "cab", "m");
    instance(p, "door", "m", named == "paint" ? std::map<Id, ParameterValue>{{"paint", {{}, "red"}}} : std::map<Id, ParameterValue>{});
    instance(p, "lock", "door", named == "paint" ? std::map<Id, ParameterValue>{{"paint", {{}, "worn"}}} : std::map<Id, ParameterValue>{});
    return p;
}

TEST(FinishParameter, ShowsWhatACardThatNamesItShows) {
    const Project p = painted();
    for (const auto& [worn, names] : {std::pair<Id, Id>{"cab", "lacquer"}, {"door", "red"}, {"lock", "worn"}})
        for (const auto& [key, width] : {std::pair{"base_color", 3}, std::pair{"roughness", 1}})
            EXPECT_EQ(seen(p, worn, key, width), seen(painted(names), "cab", key, width)) << worn << " " << key;
    EXPECT_NE(seen(p, "cab", "base_color", 3), seen(p, "door", "base_color", 3));
    // What changes there shows here, without a new build.
    const Project darker = good(edit::setOwn(p, "red", "tint_lacquer", {Value::vec3(0.2f, 0, 0), {}}));
    EXPECT_NE(seen(darker, "door", "base_color", 3), seen(p, "door", "base_color", 3));
    EXPECT_EQ(structureKey(p, *resolve(p, "door").master), structureKey(darker, *resolve(darker, "door").master));
    EXPECT_NE(structureKey(p, *resolve(p, "door").master), structureKey(p, *resolve(p, "lock").master));
    EXPECT_EQ(affectedBy(p, darker), (std::vector<Id>{"red", "door"}));
}

TEST(FinishParameter, EachFinishIsABuild) {
    const Project p = painted();
    const std::vector<Build> builds = buildsOf(p, masterOf(p));
    ASSERT_EQ(builds.size(), 3u);
    EXPECT_EQ(buildWords(p, masterOf(p), builds[1].chosen), "Paint of lacquer/Red");
    EXPECT_EQ(builds[2].users, std::vector<Id>{"lock"});
    EXPECT_EQ(buildCountWords(masterOf(p), usedOf(builds)), "3 builds") << "a finish may be any, so there is no number of possible ones";
    EXPECT_EQ(buildsInUse(p), 5u) << "with one each of the other two";
}

TEST(FinishParameter, NeverLeadsBackToItself) {
    Project p = painted();
    EXPECT_EQ(refusal(edit::setOwn(p, "cab", "paint", {{}, "m"})), "finish.leads-back");
    EXPECT_EQ(refusal(edit::setOwn(p, "cab", "paint", {{}, "door"})), "finish.leads-back");
    EXPECT_EQ(refusal(edit::setOwn(p, "cab", "paint", {{}, "gone"})), "edit.no-master");
    // Not through another master either.
    Parameter back;
    back.id = "back", back.name = "Back", back.codeName = "back", back.type = ParameterType::Finish, back.standard.map = "m";
    EXPECT_EQ(refusal(edit::addParameter(p, "lacquer", back)), "finish.leads-back") << "m takes one of lacquer";
    // Chrome is taken by an instance alone, which m by itself does not tell.
    p = good(edit::addParameter(p, "chrome", back));
    Node card = makeNode("finish_of");
    card.settings["of"] = "back";
    p = good(edit::addNode(p, "chrome", card));
    p = good(edit::connectChannel(p, "chrome", {card.id, "out", {}}, std::string(kWholeSurface)));
    const Compilation c = compileSurface(p, *resolve(p, "lock").master);
    EXPECT_TRUE(holds(codesOf(c.diagnostics), "finish.of-itself")) << "told, and no end is waited for";
}

TEST(FinishParameter, OutlivesWhatItNames) {
    const Project p = painted();
    EXPECT_EQ(refusal(edit::removeMaster(p, "chrome")), "edit.master-taken") << "Lock wears it";
    const Project gone = good(edit::removeInstance(p, "red"));
    EXPECT_EQ(gone.instance("door")->own.at("paint").map, "lacquer") << "its parent takes its place";
    // A parameter that goes leaves its default with the cards.
    const Project plain = good(edit::removeParameter(p, "m", "paint"));
    EXPECT_EQ(seen(plain, "cab", "base_color", 3), seen(p, "cab", "base_color", 3));
    // And comes of a card that names one.
    Project named = painted("red");
    Id card;
    for (const auto& [id, node] : masterOf(named).graph.nodes)
        if (node->kind == "finish_of") card = id;
    const Project exposed = good(edit::exposeFinish(named, "m", card));
    ASSERT_EQ(masterOf(exposed).parameters.size(), 1u);
    EXPECT_EQ(masterOf(exposed).parameters[0].standard.map, "red");
    EXPECT_EQ(seen(exposed, "cab", "base_color", 3), seen(named, "cab", "base_color", 3));
    EXPECT_EQ(refusal(edit::exposeFinish(exposed, "m", card)), "expose.no-constant") << "it is one already";
}

TEST(FinishParameter, IsWrittenByNames) {
    const Project p = painted();
    const Parameter& paint = masterOf(p).parameters[0];
    EXPECT_EQ(wordsOf(p, paint, {{}, "red"}), "lacquer/Red");
    EXPECT_EQ(good(valueFrom(p, paint, "lacquer/Red")).map, "red");
    EXPECT_EQ(good(valueFrom(p, paint, "none")).map, "");
    EXPECT_FALSE(valueFrom(p, paint, "Nobody"));
    // As lines, and back.
    const BoardText lines = boardText(p, masterOf(p));
    EXPECT_NE(lines.text.find("finish paint = \"lacquer\""), std::string::npos) << lines.text;
    std::string other = lines.text;
    other.replace(other.find("\"lacquer\""), 9, "\"chrome\"");
    EXPECT_EQ(masterOf(good(applyText(p, "m", other, lines))).parameters[0].standard.map, "chrome");
    EXPECT_EQ(good(parseProject(projectText(p), "it")).project.instance("lock")->own.at("paint").map, "worn");
}

/// A vector and a color with alpha that shift and tint; instances with own values; a preset.
Project tinted() {
    Project p = bareProject();
    parameter(p, "m", "tint", ParameterType::Color, Value::vec3(0.2f, 0.4f, 0.6f));
    parameter(p, "m", "shift", ParameterType::Vector2, Value::vec2(0.25f, 0.5f));
    parameter(p, "m", "wear", ParameterType::Number, Value::number(0.3f));
    parameter(p, "m", "dirt", ParameterType::Number, Value::number(0.6f));
    for (const auto& [id, take, key] : std::vector<std::tuple<Id, std::string, std::string>>{
             {"tint", "", "base_color"}, {"shift", "g", "metallic"}, {"wear", "", "roughness"}, {"dirt", "", "occlusion"}}) {
        const Id card = add(p, "parameter", {}, {{"parameter", id}});
        channel(p, {card, "out", take}, key);
    }
    instance(p, "line", "m",
             {{"tint", {Value::vec3(1, 0.5f, 0.1f), {}}}, {"shift", {Value::vec2(0.1f, 0.9f), {}}}, {"wear", {Value::number(0.8f), {}}}});
    instance(p, "ochre", "line", {{"dirt", {Value::number(0.1f), {}}}});
    instance(p, "both", "m", {{"wear", {Value::number(0.2f), {}}}, {"dirt", {Value::number(0.9f), {}}}});
    p = good(edit::keepPreset(p, "line", "Bright"));
    return p;
}

TEST(ManyParameters, SplitOnesShowTheSame) {
    const Project p = tinted();
    const Project split = good(edit::splitParameter(good(edit::splitParameter(p, "m", "tint")), "m", "shift"));
    ASSERT_EQ(masterOf(split).parameters.size(), 7u);
    EXPECT_EQ(masterOf(split).parameters[0].name, "Tint red");
    EXPECT_EQ(masterOf(split).parameters[4].codeName, "shift_y");
    for (const Id worn : {"m", "line", "ochre", "both"})
        for (const auto& [key, width] : {std::pair{"base_color", 3}, std::pair{"metallic", 1}})
            EXPECT_EQ(seen(split, worn, key, width), seen(p, worn, key, width)) << worn << key;
    // The preset gives the same as before, to whom it is given.
    EXPECT_EQ(seen(good(edit::usePreset(split, "both", "Bright")), "both", "base_color", 3), seen(p, "line", "base_color", 3));
    EXPECT_EQ(refusal(edit::splitParameter(p, "m", "wear")), "split.one-number");
    // Green can now be set by itself.
    const Project greener = good(edit::setOwn(split, "line", masterOf(split).parameters[1].id, {Value::number(0.75f), {}}));
    EXPECT_FLOAT_EQ(seen(greener, "line", "base_color", 3)[1], 0.75f);
    EXPECT_FLOAT_EQ(seen(greener, "line", "base_color", 3)[0], 1);
}

TEST(ManyParameters, MergedOnesKeepWhatWasTunedAndSayWhatMoves) {
    const Project p = tinted(), merged = good(edit::mergeParameters(p, "m", "wear", "dirt"));
    EXPECT_FALSE(masterOf(merged).parameter("dirt"));
    const auto now = [&](const Id& worn, const char* key) { return seen(merged, worn, key, 1)[0]; };
    EXPECT_FLOAT_EQ(now("m", "occlusion"), 0.3f);
    EXPECT_FLOAT_EQ(now("line", "occlusion"), 0.8f);
    EXPECT_FLOAT_EQ(now("ochre", "roughness"), 0.1f) << "its one own value goes along";
    EXPECT_FLOAT_EQ(now("both", "roughness"), 0.2f) << "of two, that of the one that stays";
    EXPECT_EQ(merged.instance("both")->own.at("dirt").value[0], 0.9f) << "and the other is kept aside";
    EXPECT_EQ(changedByMerge(p, merged, "wear", "dirt"),
              (std::vector<std::string>{"M: Dirt was 0.6 and is 0.3", "Line: Dirt was 0.6 and is 0.8", "Ochre: Wear was 0.8 and is 0.1",
                                        "Both: Dirt was 0.9 and is 0.2"}));
    EXPECT_EQ(refusal(edit::mergeParameters(p, "m", "wear", "tint")), "merge.kinds");
    EXPECT_EQ(refusal(edit::mergeParameters(p, "m", "wear", "wear")), "edit.no-parameter");
}

TEST(ManyParameters, LimitsAreSetTogether) {
    const Project p = tinted();
    const Project limited = good(edit::setLimits(p, "m", {"wear", "tint", "dirt"}, std::pair{0.f, 0.5f}, std::pair{0.25f, 0.5f}));
    for (const Id id : {"wear", "dirt"}) {
        EXPECT_EQ(masterOf(limited).parameter(id)->softMax, 0.5f);
        EXPECT_EQ(masterOf(limited).parameter(id)->hardMin, 0.25f);
    }
    EXPECT_EQ(masterOf(limited).parameter("tint")->softMax, masterOf(p).parameter("tint")->softMax) << "a color has no range";
    EXPECT_EQ(limited.instance("line")->own.at("wear").value[0], 0.5f);
    EXPECT_EQ(limited.instance("ochre")->own.at("dirt").value[0], 0.25f);
    EXPECT_EQ(changedValues(p, limited, "wear"), (std::vector<std::string>{"Line: 0.8 becomes 0.5", "Both: 0.2 becomes 0.25"}));
}

TEST(ManyParameters, ColorsMayCoverInPart) {
    Project p = bareProject();
    Parameter tint;
    tint.id = "tint", tint.name = "Tint", tint.codeName = "tint", tint.type = ParameterType::Color, tint.alpha = true;
    tint.standard.value = Value::vec3(0.2f, 0.4f, 0.6f);
    p = good(edit::addParameter(p, "m", tint));
    EXPECT_EQ(masterOf(p).parameters[0].standard.value, Value::vec4(0.2f, 0.4f, 0.6f, 1)) << "what had no alpha covers all";
    const Id card = add(p, "parameter", {}, {{"parameter", "tint"}});
    channel(p, {card, "out", "rgb"}, "base_color");
    channel(p, {card, "out", "a"}, "metallic");
    instance(p, "glass", "m");
    const Parameter& q = masterOf(p).parameters[0];
    p = good(edit::setOwn(p, "glass", "tint", good(valueFrom(p, q, "#FFFFFF 0.25"))));
    EXPECT_FLOAT_EQ(seen(p, "glass", "metallic", 1)[0], 0.25f);
    EXPECT_FLOAT_EQ(seen(p, "glass", "base_color", 3)[2], 1);
    EXPECT_EQ(wordsOf(p, q, p.instance("glass")->own.at("tint")), "#FFFFFF 0.25");
    for (const Value v : {Value::vec4(0.1f, 2, 3, 0.5f), Value::vec4(1, 1, 1, 1), Value::vec4(0, 0, 0, 0)})
        EXPECT_EQ(good(valueFrom(p, q, wordsOf(p, q, {v, {}}))).value, v);
    // A table brings it in as it wrote it.
    const std::string table = instanceCsv(p, masterOf(p));
    EXPECT_EQ(good(withInstanceCsv(p, masterOf(p), table)).project.instance("glass")->own, p.instance("glass")->own);
    EXPECT_EQ(good(withInstanceCsv(p, masterOf(p), "instance,parent,tint\nGlass,M,#000000 0.5\n"))
                  .project.instance("glass")
                  ->own.at("tint")
                  .value,
              Value::vec4(0, 0, 0, 0.5f));
}

TEST(ManyParameters, APresetGivesWhatIsLeftOfIt) {
    Project p = bareProject();
    MapFile map;
    map.id = "map", map.name = "Moss", map.path = "moss.png";
    p = good(edit::addMap(p, map));
    parameter(p, "m", "skin", ParameterType::Map);
    parameter(p, "m", "wear", ParameterType::Number, Value::number(0.3f));
    instance(p, "line", "m", {{"skin", {{}, "map"}}, {"wear", {Value::number(0.8f), {}}}});
    instance(p, "bare", "m");
    p = good(edit::keepPreset(p, "line", "Mossy"));
    p = good(edit::clearOwn(p, "line", "skin"));
    p = good(edit::removeMap(p, "map"));
    p = good(edit::usePreset(p, "bare", "Mossy"));
    EXPECT_FLOAT_EQ(p.instance("bare")->own.at("wear").value[0], 0.8f);
    EXPECT_FALSE(p.instance("bare")->own.contains("skin"));
}

TEST(FinishParameter, IsFollowedThroughFinishesOfFinishes) {
    // Roof takes a finish of m, in the build that an instance of m says; what that instance fills its finish with is seen.
    Project p = painted();
    Master roof;
    roof.id = "roof", roof.name = "Roof";
    p = good(edit::addMaster(p, roof));
    Node card = makeNode("finish_of");
    card.settings["of"] = "door";
    p = good(edit::addNode(p, "roof", card));
    p = good(edit::connectChannel(p, "roof", {card.id, "out", {}}, std::string(kWholeSurface)));
    EXPECT_EQ(seen(p, "roof", "base_color", 3), seen(p, "door", "base_color", 3));
    EXPECT_NE(seen(p, "roof", "base_color", 3), seen(p, "cab", "base_color", 3));
    // Another finish there is another Program here; another color there is not, and shows all the same.
    const Project worn = good(edit::setOwn(p, "door", "paint", {{}, "worn"}));
    EXPECT_EQ(seen(worn, "roof", "base_color", 3), seen(worn, "door", "base_color", 3));
    EXPECT_NE(structureKey(p, *p.master("roof")), structureKey(worn, *worn.master("roof")));
    const Project darker = good(edit::setOwn(p, "red", "tint_lacquer", {Value::vec3(0.2f, 0, 0), {}}));
    EXPECT_EQ(structureKey(p, *p.master("roof")), structureKey(darker, *darker.master("roof")));
    EXPECT_EQ(seen(darker, "roof", "base_color", 3), seen(darker, "door", "base_color", 3));
    // And m cannot take one of the roof.
    EXPECT_EQ(refusal(edit::setOwn(p, "cab", "paint", {{}, "roof"})), "finish.leads-back");
}

TEST(ManyParameters, AreLinesOfText) {
    Project p = bareProject();
    const auto with = [&](const Id& id, ParameterType type, const std::string& words, Value v = {}) {
        Parameter q;
        q.id = id, q.name = id, q.codeName = id, q.type = type, q.standard = {v, words};
        q.alpha = v.width == 4;
        p = good(edit::addParameter(p, "m", q));
    };
    with("fall", ParameterType::Curve, "curve smooth: 0 0, 0.4 0.25, 1 1");
    with("tint", ParameterType::Gradient, "gradient straight: 0 #102030, 1 #DCA54A 0.5");
    with("glass", ParameterType::Color, {}, Value::vec4(0.25f, 0.5f, 1, 0.125f));
    const BoardText lines = boardText(p, masterOf(p));
    EXPECT_NE(lines.text.find("curve fall = \"curve smooth: 0 0, 0.4 0.25, 1 1\""), std::string::npos) << lines.text;
    EXPECT_NE(lines.text.find("color glass = (0.25, 0.5, 1, 0.125)"), std::string::npos) << lines.text;
    const Project again = good(applyText(p, "m", lines.text, lines));
    for (size_t k = 0; k < 3; ++k) EXPECT_EQ(masterOf(again).parameters[k].standard, masterOf(p).parameters[k].standard);
    // Into an empty board the same parameters come.
    const Project fresh = good(applyText(bareProject(), "m", lines.text, {}));
    ASSERT_EQ(masterOf(fresh).parameters.size(), 3u);
    EXPECT_EQ(masterOf(fresh).parameters[0].standard.map, "curve smooth: 0 0, 0.4 0.25, 1 1");
    EXPECT_TRUE(masterOf(fresh).parameters[2].alpha);
    // A point that cannot be is refused, with its line.
    std::string wrong = lines.text;
    wrong.replace(wrong.find("0.4 0.25"), 8, "1.4 0.25");
    const Result<Project> refused = applyText(p, "m", wrong, lines);
    ASSERT_FALSE(refused);
    EXPECT_NE(refused.error().sentence.find("line 1"), std::string::npos) << refused.error().sentence;
}

TEST(ManyParameters, GoAlongWithCopiedCards) {
    Project p = bareProject();
    Master other;
    other.id = "o", other.name = "Other";
    p = good(edit::addMaster(p, other));
    Parameter q;
    q.id = "fall", q.name = "Fall", q.codeName = "fall", q.type = ParameterType::Curve, q.standard.map = "curve steps: 0 0.5";
    p = good(edit::addParameter(p, "m", q));
    const Id card = add(p, "parameter", {}, {{"parameter", "fall"}}), read = add(p, "read_along");
    wire(p, {card, "out", ""}, read, "map");
    std::map<Id, Id> made;
    p = good(edit::pasteCards(p, "o", edit::copyCards(p, "m", {card, read}), {}, &made));
    p = good(edit::connectChannel(p, "o", {made.at(read), "value", {}}, "roughness"));
    ASSERT_EQ(p.master("o")->parameters.size(), 1u);
    EXPECT_EQ(p.master("o")->parameters[0].standard.map, "curve steps: 0 0.5");
    for (const float x : seen(p, "o", "roughness", 1)) ASSERT_FLOAT_EQ(x, 0.5f);
    // Gone, the card reads the same curve by itself.
    const Project plain = good(edit::removeParameter(p, "o", p.master("o")->parameters[0].id));
    for (const float x : seen(plain, "o", "roughness", 1)) ASSERT_FLOAT_EQ(x, 0.5f);
}

TEST(ManyParameters, CurvesVaryAmongThoseThatAreNamed) {
    Project p = bareProject();
    Parameter q;
    q.id = "fall", q.name = "Fall", q.codeName = "fall", q.type = ParameterType::Curve;
    p = good(edit::addParameter(p, "m", q));
    Variations v;
    v.parent = "m", v.count = 4;
    v.varied = {good(variedFrom(p, masterOf(p).parameters[0], "curve steps: 0 0.25; curve steps: 0 0.75"))};
    std::vector<Id> made;
    const Project next = good(withVariations(p, v, &made));
    std::map<std::string, int> taken;
    for (const Id& id : made) ++taken[next.instance(id)->own.at("fall").map];
    EXPECT_EQ(taken, (std::map<std::string, int>{{"curve steps: 0 0.25", 2}, {"curve steps: 0 0.75", 2}}));
    EXPECT_FALSE(variedFrom(p, masterOf(p).parameters[0], "curve steps: 0 0.25; often"));
}

} // namespace
} // namespace hue
