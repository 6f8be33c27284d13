// Build choices: what is not chosen is not there, and all else is as it was.
#include "core/builds/builds.h"
#include "core/check/check.h"
#include "core/document/parameter_kinds.h"
#include "core/master_text/master_text.h"
#include "core/nodes/add_line.h"
#include "core/nodes/finish.h"
#include "core/nodes/port_title.h"
#include "core/project/store.h"
#include "tests/test_graphs.h"

#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;

constexpr int kSize = 16;

template <class T> T good(Result<T> made) {
    EXPECT_TRUE(made) << (made ? "" : made.error().sentence);
    return made ? std::move(*made) : T{};
}

Parameter choice(const Id& id, std::vector<std::string> options, bool build = true) {
    Parameter p;
    p.id = id, p.name = id, p.name[0] = char(std::toupper(id[0])), p.codeName = id;
    p.type = options.empty() ? ParameterType::OnOff : ParameterType::Choice;
    p.options = std::move(options);
    p.build = build;
    p.standard.value = Value::number(0);
    return p;
}

/// The card of a parameter.
Id cardOf(Project& p, const Id& parameter) { return add(p, "parameter", {}, {{"parameter", parameter}}); }

Id noise(Project& p, float scale) {
    const Id uv = add(p, "texcoord"), place = add(p, "multiply", {{"in2", Value::vec2(scale, scale * 0.6f)}}), out = add(p, "noise_2d");
    wire(p, {uv, "out", ""}, place, "in1");
    wire(p, {place, "out", ""}, out, "uv");
    return out;
}

/// Roughness is a plain number, a noise or a finer noise by the choice "livery"; metallic a noise while "moss" is on. Line has the
/// defaults, Ochre the second livery, Teal below it moss too.
Project liveries(bool build = true) {
    Project p = bareProject();
    p = good(edit::addParameter(p, "m", choice("livery", {"plain", "stripes", "checks"}, build)));
    p = good(edit::addParameter(p, "m", choice("moss", {}, build)));
    Parameter scale;
    scale.id = "scale", scale.name = "Scale", scale.codeName = "scale", scale.standard.value = Value::number(0.5f);
    p = good(edit::addParameter(p, "m", scale));
    const Id livery = cardOf(p, "livery"), moss = cardOf(p, "moss");
    const Id choose = add(p, "choose", {{"in1", Value::number(0.4f)}}, {{"values", "3"}});
    wire(p, {livery, "out", ""}, choose, "which");
    const Id first = noise(p, 3), fine = noise(p, 11), tuned = add(p, "multiply");
    wire(p, {first, "out", ""}, tuned, "in1");
    wire(p, {cardOf(p, "scale"), "out", ""}, tuned, "in2");
    wire(p, {tuned, "out", ""}, choose, "in2");
    wire(p, {fine, "out", ""}, choose, "in3");
    channel(p, {choose, "out", ""}, "roughness");
    const Id shown = add(p, "mix");
    wire(p, {noise(p, 5), "out", ""}, shown, "fg");
    wire(p, {moss, "out", ""}, shown, "mix");
    channel(p, {shown, "out", ""}, "metallic");
    const auto instance = [&](const Id& id, const Id& parent, std::map<Id, ParameterValue> own) {
        Instance i;
        i.id = id, i.name = id, i.name[0] = char(std::toupper(id[0])), i.parent = parent, i.own = std::move(own);
        p = good(edit::addInstance(p, i));
    };
    instance("line", "m", {});
    instance("ochre", "m", {{"livery", {Value::number(1), {}}}});
    instance("teal", "ochre", {{"moss", {Value::number(1), {}}}});
    p.lineup.specimens = {{"shape:sphere", {"line"}}};
    return p;
}

std::vector<float> seen(const Project& p, const Id& worn, const std::string& key, int* operations = nullptr, int* noises = nullptr) {
    const Resolved resolved = resolve(p, worn);
    const Compilation c = compileSurface(p, *resolved.master);
    EXPECT_TRUE(c.ok);
    FrameInputs inputs;
    inputs.parameter = [&](const Id& id) {
        const auto at = resolved.values.find(id);
        return at == resolved.values.end() ? Value{} : at->second.value.value;
    };
    if (operations) *operations = costOf(*c.program, nullptr, {}).operationsPerPixel();
    if (noises)
        *noises =
            int(std::count_if(c.program->code.begin(), c.program->code.end(), [](const Instruction& i) { return i.op == Op::Noise2; }));
    return overSquare(Evaluator(c.program), inputs, key, 1, kSize);
}

TEST(Builds, ShowWhatTheLiveParameterShows) {
    const Project built = liveries(), live = liveries(false);
    for (const Id worn : {"m", "line", "ochre", "teal"})
        for (const char* key : {"roughness", "metallic"}) {
            const auto a = seen(built, worn, key), b = seen(live, worn, key);
            ASSERT_EQ(a.size(), b.size());
            for (size_t k = 0; k < a.size(); ++k) ASSERT_NEAR(a[k], b[k], 1e-6f) << worn << " " << key;
        }
    EXPECT_NE(seen(built, "line", "roughness"), seen(built, "ochre", "roughness"));
    EXPECT_NE(seen(built, "ochre", "metallic"), seen(built, "teal", "metallic"));
}

TEST(Builds, HoldNothingOfWhatIsNotChosen) {
    int operations[4], noises[4], k = 0;
    const Project p = liveries();
    for (const Id worn : {"line", "ochre", "teal"}) seen(p, worn, "roughness", &operations[k], &noises[k]), ++k;
    seen(liveries(false), "line", "roughness", &operations[3], &noises[3]);
    EXPECT_EQ(noises[0], 0);
    EXPECT_EQ(noises[1], 1);
    EXPECT_EQ(noises[2], 2);
    EXPECT_EQ(noises[3], 3) << "live, all of it is computed";
    EXPECT_LT(operations[2], operations[3]);
    // The same as if the wire that is chosen led on without the card.
    Project direct = p;
    for (const auto& [id, node] : masterOf(p).graph.nodes)
        if (node->kind == "choose") direct = good(edit::connectChannel(direct, "m", node->wires.at("in2"), "roughness"));
    int directly = 0;
    seen(direct, "ochre", "roughness", &directly);
    EXPECT_EQ(operations[1], directly);
}

TEST(Builds, AreListedWithWhoUsesThem) {
    Project p = liveries();
    const Master& m = masterOf(p);
    EXPECT_EQ(possibleBuilds(m), 6u);
    const std::vector<Build> all = buildsOf(p, m);
    ASSERT_EQ(all.size(), 3u);
    EXPECT_EQ(all[0].users, std::vector<Id>{"line"});
    EXPECT_EQ(all[1].users, std::vector<Id>{"ochre"});
    EXPECT_EQ(all[2].users, std::vector<Id>{"teal"});
    EXPECT_EQ(buildWords(p, m, all[0].chosen), "Livery plain, Moss off");
    EXPECT_EQ(buildWords(p, m, all[2].chosen), "Livery stripes, Moss on");
    EXPECT_EQ(buildsInUse(p), 3u);
    // Without Line the defaults are used by nobody, until the master itself is worn.
    p.lineup.specimens = {{"shape:sphere", {"ochre"}}};
    p = good(edit::removeInstance(p, "line"));
    EXPECT_TRUE(buildsOf(p, masterOf(p))[0].users.empty());
    EXPECT_EQ(buildsInUse(p), 2u);
    p.lineup.specimens = {{"shape:sphere", {"m"}}};
    EXPECT_EQ(buildsOf(p, masterOf(p))[0].users, std::vector<Id>{"m"});
    EXPECT_EQ(buildsInUse(p), 3u);
    // Against each instance by itself.
    for (const Build& b : buildsOf(p, masterOf(p)))
        for (const Id& user : b.users) EXPECT_EQ(defaultsOf(*resolve(p, user).master), b.chosen) << user;
}

TEST(Builds, KeepTheMasterOfTheProjectWhereItsDefaultsHold) {
    const Project p = liveries();
    EXPECT_EQ(resolve(p, "line").master, p.master("m"));
    EXPECT_NE(resolve(p, "ochre").master, p.master("m"));
    EXPECT_EQ(resolve(p, "ochre").master->id, "m");
    EXPECT_EQ(resolve(p, "ochre").values.at("livery").value.value[0], 1);
    // Pictures tell builds apart, and values of live parameters not.
    EXPECT_NE(structureKey(p, *resolve(p, "ochre").master), structureKey(p, *resolve(p, "line").master));
    const Project tuned = good(edit::setOwn(p, "ochre", "scale", {Value::number(0.9f), {}}));
    EXPECT_EQ(structureKey(p, *resolve(p, "ochre").master), structureKey(tuned, *resolve(tuned, "ochre").master));
}

TEST(Builds, MarkWhatTheyLeaveIdle) {
    const Project p = liveries();
    EXPECT_EQ(idleParameters(p, *resolve(p, "line").master), std::set<Id>{"scale"});
    EXPECT_TRUE(idleParameters(p, *resolve(p, "ochre").master).empty());
    const Project live = liveries(false);
    EXPECT_TRUE(idleParameters(live, masterOf(live)).empty()) << "live, it is read";
}

TEST(Builds, TellWhatAChoiceCosts) {
    const Project p = liveries();
    const ChoiceCosts costs = choiceCosts(p, masterOf(p), "livery");
    ASSERT_EQ(costs.options.size(), 3u);
    EXPECT_LT(costs.options[0].operationsPerPixel(), costs.options[1].operationsPerPixel());
    EXPECT_GE(costs.live.operationsPerPixel(),
              costs.options[1].operationsPerPixel() + costs.options[2].operationsPerPixel() - costs.options[0].operationsPerPixel());
    // As counted on the instances that have these options.
    for (const auto& [worn, option] : {std::pair<Id, size_t>{"line", 0}, {"ochre", 1}}) {
        int operations = 0;
        seen(p, worn, "roughness", &operations);
        EXPECT_EQ(costs.options[option].operationsPerPixel(), operations) << worn;
    }
    EXPECT_NE(choiceCostWords(costs).find("in 3 builds; live"), std::string::npos) << choiceCostWords(costs);
}

TEST(Builds, OfFinishesThatAreWornOnACard) {
    Project p = liveries();
    Master other;
    other.id = "o", other.name = "Other";
    p.masters.push_back(std::make_shared<Master>(other));
    const auto wearing = [&](const Id& worn) {
        Project q = p;
        Node card = makeNode("finish_of");
        card.id = "worn";
        card.settings[std::string(kFinishOfSetting)] = worn;
        q = good(edit::addNode(q, "o", card));
        return good(edit::connectChannel(q, "o", {"worn", "out", ""}, "finish"));
    };
    for (const Constants constants : {Constants::Folded, Constants::Live})
        for (const auto& [worn, noises] : {std::pair<Id, int>{"line", 0}, {"ochre", 1}, {"teal", 2}}) {
            const Project q = wearing(worn);
            const Compilation c = compileSurface(q, *q.master("o"), constants);
            EXPECT_TRUE(c.ok);
            EXPECT_EQ(
                std::count_if(c.program->code.begin(), c.program->code.end(), [](const Instruction& i) { return i.op == Op::Noise2; }),
                noises)
                << worn;
        }
    EXPECT_NE(structureKey(wearing("line"), *wearing("line").master("o")), structureKey(wearing("ochre"), *wearing("ochre").master("o")));
}

TEST(Builds, ChooseAmongFinishes) {
    for (const bool build : {true, false}) {
        Project p = bareProject();
        p = good(edit::addParameter(p, "m", choice("wear", {"new", "old"}, build)));
        const Id choose = add(p, "choose"), fresh = add(p, "finish", {{"roughness", Value::number(0.2f)}}),
                 old = add(p, "finish", {{"roughness", Value::number(0.9f)}});
        wire(p, {cardOf(p, "wear"), "out", ""}, choose, "which");
        wire(p, {fresh, "out", ""}, choose, "in1");
        wire(p, {old, "out", ""}, choose, "in2");
        channel(p, {choose, "out", ""}, "finish");
        Instance worn;
        worn.id = "w", worn.name = "W", worn.parent = "m", worn.own["wear"] = {Value::number(1), {}};
        p = good(edit::addInstance(p, worn));
        EXPECT_NEAR(seen(p, "m", "roughness")[0], 0.2f, 1e-6f);
        EXPECT_NEAR(seen(p, "w", "roughness")[0], 0.9f, 1e-6f);
    }
}

TEST(Builds, AreManyWhenTheyAre) {
    Project p = bareProject();
    Source last;
    for (int k = 0; k < 5; ++k) {
        p = good(edit::addParameter(p, "m", choice("s" + std::to_string(k), {})));
        const Id card = cardOf(p, "s" + std::to_string(k)), sum = add(p, "add");
        if (!last.node.empty()) wire(p, last, sum, "in1");
        wire(p, {card, "out", ""}, sum, "in2");
        last = {sum, "out", ""};
    }
    channel(p, last, "roughness");
    for (int k = 0; k < int(kManyBuilds); ++k) {
        Instance i;
        i.id = "i" + std::to_string(k), i.name = i.id, i.parent = "m";
        for (int s = 0; s < 5; ++s) i.own["s" + std::to_string(s)] = {Value::number(float((k >> s) & 1)), {}};
        p = good(edit::addInstance(p, i));
    }
    p.lineup.specimens.clear();
    EXPECT_FALSE(holds(codesOf(checkMaster(p, masterOf(p))), "builds.many"));
    p = good(edit::setOwn(p, "i0", "s4", {Value::number(1), {}}));
    Instance one;
    one.id = "one", one.name = "One", one.parent = "m";
    p = good(edit::addInstance(p, one));
    EXPECT_TRUE(holds(codesOf(checkMaster(p, masterOf(p))), "builds.many"));
}

TEST(Choices, FollowTheirOptionsWhereTheyGo) {
    Project p = liveries();
    Parameter now = *masterOf(p).parameter("livery");
    now.options = {"checks", "bands", "plain", "ladder"}; // two moved, stripes is called bands, one is new
    // What stood at the place of the renamed one was stripes.
    const Project next = good(edit::changeParameter(p, "m", now));
    EXPECT_EQ(masterOf(next).parameter("livery")->standard.value[0], 2) << "the default is plain still";
    EXPECT_EQ(resolve(next, "ochre").values.at("livery").value.value[0], 1);
    for (const Id worn : {"line", "ochre", "teal"}) EXPECT_EQ(seen(next, worn, "roughness"), seen(p, worn, "roughness")) << worn;
    for (const auto& [id, node] : masterOf(next).graph.nodes)
        if (node->kind == "choose") {
            EXPECT_EQ(node->settings.at("values"), "4");
            EXPECT_EQ(portTitle(masterOf(next), *node, "in1"), "checks");
            EXPECT_EQ(portTitle(masterOf(next), *node, "which"), "which");
        }
    // One that is in use does not go.
    now.options = {"plain", "checks"};
    const Result<Project> refused = edit::changeParameter(p, "m", now);
    ASSERT_FALSE(refused);
    EXPECT_EQ(refused.error().code, "choice.in-use");
    EXPECT_NE(refused.error().sentence.find("Ochre"), std::string::npos);
    for (const auto& [options, code] : {std::pair<std::vector<std::string>, const char*>{{"plain"}, "choice.count"},
                                        {{"plain", "stripes", "plain"}, "choice.twice"},
                                        {{"plain", " "}, "choice.no-name"},
                                        {{"plain", "a,b"}, "choice.signs"}}) {
        Parameter bad = choice("other", options);
        const Result<Project> made = edit::addParameter(p, "m", bad);
        ASSERT_FALSE(made) << code;
        EXPECT_EQ(made.error().code, code);
    }
}

TEST(Choices, GoThroughFilesAndLines) {
    Project p = liveries();
    Parameter moss = *masterOf(p).parameter("moss");
    moss.shownWhen = {"livery", {1, 2}};
    p = good(edit::changeParameter(p, "m", moss));
    Parameter count;
    count.id = "count", count.name = "Count", count.codeName = "count", count.type = ParameterType::Integer;
    count.softMin = 1, count.softMax = 100, count.step = 5, count.slider = SliderCurve::Decades, count.standard.value = Value::number(3.4f);
    p = good(edit::addParameter(p, "m", count));
    EXPECT_EQ(masterOf(p).parameter("count")->standard.value[0], 3) << "whole numbers alone";
    p = good(edit::setLocked(p, {"ochre"}, true));
    p = good(edit::setTags(p, {"ochre"}, {" fleet ", "", "old", "fleet"}));
    p = good(edit::setNote(p, "ochre", "as on the drawings of 1962"));
    const Result<Loaded> loaded = parseProject(projectText(p), "liveries");
    ASSERT_TRUE(loaded) << loaded.error().sentence;
    EXPECT_TRUE(loaded->report.empty());
    const Project* back = &loaded->project;
    const Master& m = masterOf(*back);
    EXPECT_EQ(m.parameter("livery")->options, (std::vector<std::string>{"plain", "stripes", "checks"}));
    EXPECT_TRUE(m.parameter("livery")->isBuildChoice());
    EXPECT_EQ(m.parameter("moss")->type, ParameterType::OnOff);
    EXPECT_EQ(m.parameter("moss")->shownWhen, moss.shownWhen);
    EXPECT_EQ(m.parameter("count")->type, ParameterType::Integer);
    EXPECT_EQ(m.parameter("count")->step, 5);
    EXPECT_EQ(m.parameter("count")->slider, SliderCurve::Decades);
    EXPECT_TRUE(back->instance("ochre")->locked);
    EXPECT_EQ(back->instance("ochre")->tags, (std::vector<std::string>{"fleet", "old"}));
    EXPECT_EQ(back->instance("ochre")->note, "as on the drawings of 1962");
    EXPECT_EQ(projectText(*back), projectText(p));

    const BoardText was = boardText(p, masterOf(p));
    const std::string& lines = was.text;
    EXPECT_NE(lines.find("build choice livery = \"plain\" of \"plain\", \"stripes\", \"checks\"\n"), std::string::npos) << lines;
    EXPECT_NE(lines.find("build on_off moss = off\n"), std::string::npos) << lines;
    EXPECT_NE(lines.find("integer count = 3"), std::string::npos) << lines;
    std::string changed = lines;
    changed.replace(changed.find("= \"plain\" of"), 12, "= \"checks\" of");
    changed.replace(changed.find("moss = off"), 10, "moss = on ");
    const ReadText read = readText(p, "m", changed, was);
    ASSERT_TRUE(read.problems.empty()) << read.problems[0].sentence;
    EXPECT_EQ(masterOf(*read.project).parameter("livery")->standard.value[0], 2);
    EXPECT_EQ(masterOf(*read.project).parameter("moss")->standard.value[0], 1);
    EXPECT_TRUE(masterOf(*read.project).parameter("moss")->isBuildChoice());
    for (const char* wrong : {"build number a = 1\n", "on_off a = 1\n", "choice a = \"x\"\n", "choice a = \"x\" of \"y\", \"z\"\n"})
        EXPECT_FALSE(readText(p, "m", lines + wrong, was).problems.empty()) << wrong;
}

TEST(Choices, AreTypedOnTheBoard) {
    const Project p = bareProject();
    const auto typed = [&](const char* words) { return propose(p, masterOf(p), words); };
    const auto moss = typed("moss = on");
    ASSERT_FALSE(moss.empty());
    EXPECT_EQ(moss[0].parameter.type, ParameterType::OnOff);
    EXPECT_EQ(moss[0].parameter.standard.value[0], 1);
    EXPECT_FALSE(moss[0].parameter.build);
    const auto livery = typed("livery = plain / stripes, build");
    ASSERT_FALSE(livery.empty());
    EXPECT_EQ(livery[0].parameter.options, (std::vector<std::string>{"plain", "stripes"}));
    EXPECT_TRUE(livery[0].parameter.isBuildChoice());
    const auto number = typed("grout = 6 mm, 0 to 20");
    ASSERT_FALSE(number.empty());
    EXPECT_EQ(number[0].parameter.type, ParameterType::Number);
}

TEST(Locks, KeepValuesUntilTheyAreTakenOff) {
    Project p = liveries();
    p = good(edit::setLocked(p, {"ochre"}, true));
    const std::string before = projectText(p);
    const auto code = [](const Result<Project>& r) { return r ? std::string("done") : r.error().code; };
    EXPECT_EQ(code(edit::setOwn(p, "ochre", "scale", {Value::number(1), {}})), "instance.locked");
    EXPECT_EQ(code(edit::clearOwn(p, "ochre", "livery")), "instance.locked");
    EXPECT_EQ(code(edit::setOwnSurface(p, "ochre", {AlphaMode::Mask, {}, {}})), "instance.locked");
    EXPECT_EQ(code(edit::removeInstance(p, "ochre")), "instance.locked");
    EXPECT_EQ(code(edit::changeParent(p, "ochre", "line")), "instance.locked");
    EXPECT_EQ(code(edit::pushUp(p, "teal", "moss")), "instance.locked") << "its parent would change";
    EXPECT_EQ(code(edit::pullDown(p, "m", "livery")), "instance.locked");
    EXPECT_EQ(projectText(p), before);
    // What it inherits goes on changing, and a child has values of its own.
    const Project next = good(edit::setOwn(p, "m", "scale", {Value::number(0.75f), {}}));
    EXPECT_EQ(resolve(next, "ochre").values.at("scale").value.value[0], 0.75f);
    EXPECT_EQ(code(edit::setOwn(p, "teal", "scale", {Value::number(1), {}})), "done");
    EXPECT_EQ(code(edit::setOwn(good(edit::setLocked(p, {"ochre"}, false)), "ochre", "scale", {Value::number(1), {}})), "done");
}

} // namespace
} // namespace hue
