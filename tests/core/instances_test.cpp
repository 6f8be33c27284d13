// Values as words, instances as tables, and values that go up and down.
#include "core/base/csv.h"
#include "core/edits/edits.h"
#include "core/instances/instance_cells.h"
#include "core/instances/instance_csv.h"
#include "core/instances/value_words.h"
#include "core/project/store.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

#include <bit>
#include <cmath>
#include <gtest/gtest.h>
#include <random>

namespace hue {
namespace {

using namespace test;

Parameter parameter(const Id& id, const std::string& name, ParameterType type) {
    Parameter p;
    p.id = id, p.name = name, p.codeName = id, p.type = type;
    p.standard.value = Value{std::max(1, p.width()), {0.5f, 0.5f, 0.5f, 0}};
    for (int c = p.width(); c < 4; ++c) p.standard.value[c] = 0;
    return p;
}

Master masterOf(const Id& id, const std::string& name) {
    Master m;
    m.id = id, m.name = name;
    m.parameters = {parameter("wear", "Wear", ParameterType::Number), parameter("tile", "Tile size", ParameterType::Vector2),
                    parameter("tint", "Tint", ParameterType::Color), parameter("face", "Face", ParameterType::Map)};
    m.parameters[0].hardMin = 0, m.parameters[0].hardMax = 1;
    return m;
}

/// Bodywork with Line (wear 0.2), Line Ochre below it (a tint), and Fleet; and a second master.
Project depot() {
    Project p = bareProject();
    p.masters = {std::make_shared<Master>(masterOf("body", "Bodywork")), std::make_shared<Master>(masterOf("rails", "Rails"))};
    p.maps.push_back(std::make_shared<MapFile>(MapFile{"t", "Rust, fine", "rust.png", MapKind::Color, Wrap::Repeat, {}, {}}));
    const auto add = [&](const Id& id, const std::string& name, const Id& parent, std::map<Id, ParameterValue> own) {
        Instance i;
        i.id = id, i.name = name, i.parent = parent, i.own = std::move(own);
        p.instances.push_back(std::make_shared<Instance>(i));
    };
    add("line", "Line", "body", {{"wear", {Value::number(0.2f), {}}}});
    add("ochre", "Line Ochre", "line", {{"tint", {Value::vec3(0.5f, 0.25f, 0.1f), {}}}, {"face", {Value::number(0), "t"}}});
    add("fleet", "Fleet", "body", {});
    return p;
}
float wearOf(const Project& p, const Id& id) { return resolve(p, id).values.at("wear").value.value[0]; }

TEST(ValueWords, SayAllOfAValue) {
    const Project p = depot();
    const Master& m = *p.master("body");
    std::mt19937 random(5);
    for (int k = 0; k < 3000; ++k)
        for (size_t n = 0; n < 3; ++n) {
            const Parameter& its = m.parameters[n];
            ParameterValue v{Value{its.width(), {}}, {}};
            for (int c = 0; c < its.width(); ++c) do
                    v.value[c] = k % 2 ? float(int(random() % 2001) - 1000) / 1000 : std::bit_cast<float>(uint32_t(random()));
                while (!std::isfinite(v.value[c]));
            const std::string words = wordsOf(p, its, v);
            const Result<ParameterValue> back = valueFrom(p, its, words);
            ASSERT_TRUE(back) << words << ": " << back.error().sentence;
            ASSERT_EQ(back->value, v.value) << words;
        }
    // Colors that eight bits say are said so, others in full.
    Value screen;
    ASSERT_TRUE(colorFromHex("#dca54a", screen));
    EXPECT_EQ(wordsOf(p, m.parameters[2], {screen, {}}), hexFromColor(screen));
    EXPECT_EQ(wordsOf(p, m.parameters[2], {Value::vec3(2.5f, 0, 0), {}}), "2.5 0 0");
    EXPECT_EQ(wordsOf(p, m.parameters[3], {{}, "t"}), "Rust, fine");
    EXPECT_EQ(wordsOf(p, m.parameters[3], {}), "neutral");
    EXPECT_EQ(valueFrom(p, m.parameters[3], "Rust, fine")->map, "t");
    EXPECT_EQ(valueFrom(p, m.parameters[3], " neutral ")->map, "");
}

TEST(ValueWords, AreTakenAsPeopleWriteThemAndRefusedWithWhatFits) {
    const Project p = depot();
    const Master& m = *p.master("body");
    const auto number = [&](std::string_view words) { return valueFrom(p, m.parameters[0], words)->value[0]; };
    EXPECT_FLOAT_EQ(number(" 0,25 "), 0.25f);
    EXPECT_FLOAT_EQ(number("+0.5"), 0.5f) << "without a value that is there, a sign";
    EXPECT_FLOAT_EQ(number("-1e-3"), -0.001f);
    EXPECT_EQ(valueFrom(p, m.parameters[1], "2")->value, Value::vec2(2, 2));
    EXPECT_EQ(valueFrom(p, m.parameters[1], "2   3,5")->value, Value::vec2(2, 3.5f));
    for (const std::string_view words : {"", "a lot", "1 2", "0.5m", "nan", "inf", "1e99", "0x10", "--1", "#12345g", "1.000,5"}) {
        const Result<ParameterValue> v = valueFrom(p, m.parameters[0], words);
        ASSERT_FALSE(v) << words;
        EXPECT_EQ(v.error().code, "value.words");
        EXPECT_NE(v.error().sentence.find("Wear: it takes a number"), std::string::npos) << v.error().sentence;
    }
    EXPECT_NE(valueFrom(p, m.parameters[1], "1 2 3").error().sentence.find("2 numbers"), std::string::npos);
    EXPECT_NE(valueFrom(p, m.parameters[3], "gone").error().sentence.find("name of a map"), std::string::npos);
}

TEST(ValueWords, ReckonWithWhatIsThere) {
    const Project p = depot();
    const Master& m = *p.master("body");
    const ParameterValue half{Value::number(0.5f), {}}, pair{Value::vec2(1, 4), {}};
    const auto on = [&](const Parameter& its, const ParameterValue& now, std::string_view words) { return valueFrom(p, its, words, &now); };
    EXPECT_FLOAT_EQ(on(m.parameters[0], half, "*1.1")->value[0], 0.55f);
    EXPECT_FLOAT_EQ(on(m.parameters[0], half, "+0.05")->value[0], 0.55f);
    EXPECT_FLOAT_EQ(on(m.parameters[0], half, "+-0.05")->value[0], 0.45f);
    EXPECT_FLOAT_EQ(on(m.parameters[0], half, "/ 4")->value[0], 0.125f);
    EXPECT_FLOAT_EQ(on(m.parameters[0], half, "-0.05")->value[0], -0.05f) << "a value below 0, and no difference";
    EXPECT_EQ(on(m.parameters[1], pair, "*2")->value, Value::vec2(2, 8));
    // As on paper, and not as single precision has it.
    const ParameterValue wear{Value::number(0.18f), {}};
    EXPECT_EQ(wordsOf(p, m.parameters[0], *on(m.parameters[0], wear, "*1.1")), "0.198");
    EXPECT_EQ(wordsOf(p, m.parameters[0], *on(m.parameters[0], wear, "+0.02")), "0.2");
    EXPECT_EQ(on(m.parameters[1], pair, "*2 0.5")->value, Value::vec2(2, 2));
    EXPECT_EQ(on(m.parameters[0], half, "/0").error().code, "value.not-finite");
    EXPECT_EQ(on(m.parameters[0], half, "*").error().code, "value.words");
    EXPECT_EQ(on(m.parameters[3], {}, "*2").error().code, "value.words");
}

TEST(InstanceCsv, IsATableOfOwnValuesThatChangesNothingWhenItComesBack) {
    const Project p = depot();
    const Master& m = *p.master("body");
    EXPECT_EQ(instanceCsv(p, m), "instance,parent,wear,tile,tint,face\n"
                                 "Line,,0.2,,,\n"
                                 "Line Ochre,Line,,,0.5 0.25 0.1,\"Rust, fine\"\n"
                                 "Fleet,,,,,\n");
    EXPECT_NE(instanceCsv(p, m, true).find("Fleet,,~0.5,~0.5 0.5,~0.5 0.5 0.5,~neutral"), std::string::npos) << instanceCsv(p, m, true);
    for (const bool inherited : {false, true}) {
        const Result<CsvRead> back = withInstanceCsv(p, m, instanceCsv(p, m, inherited));
        ASSERT_TRUE(back) << back.error().sentence;
        EXPECT_EQ(back->values, 0u);
        EXPECT_TRUE(back->added.empty() && back->moved.empty() && back->cautions.empty());
        EXPECT_EQ(projectText(back->project), projectText(p));
    }
}

TEST(InstanceCsv, ChangesWhatItNamesAndNothingElse) {
    const Project p = depot();
    const Master& m = *p.master("body");
    const Result<CsvRead> read = withInstanceCsv(p, m,
                                                 "instance;Wear;tint\n"
                                                 "Bodywork/Line;0,75;\n"
                                                 "Line Ochre;;~#ffffff\n");
    ASSERT_TRUE(read) << read.error().sentence;
    EXPECT_EQ(read->values, 2u);
    EXPECT_FLOAT_EQ(wearOf(read->project, "line"), 0.75f);
    EXPECT_FLOAT_EQ(wearOf(read->project, "ochre"), 0.75f) << "it inherits";
    EXPECT_FALSE(read->project.instance("ochre")->own.contains("tint")) << "it was given back";
    EXPECT_EQ(read->project.instance("ochre")->own.at("face").map, "t") << "a column that is not there";
    EXPECT_EQ(read->project.instance("ochre")->parent, "line");
    EXPECT_EQ(read->project.instances.size(), 3u);
    // Limits hold, and are told.
    const Result<CsvRead> limited = withInstanceCsv(p, m, "instance,wear\nFleet,7\n");
    ASSERT_TRUE(limited);
    EXPECT_FLOAT_EQ(wearOf(limited->project, "fleet"), 1);
    ASSERT_EQ(limited->cautions.size(), 1u);
    EXPECT_NE(limited->cautions[0].find("from 7 to 1"), std::string::npos) << limited->cautions[0];
}

TEST(InstanceCsv, MakesWhatIsNewInWhateverOrderAndMovesWhatHasAnotherParent) {
    const Project p = depot();
    const Result<CsvRead> read = withInstanceCsv(p, *p.master("body"),
                                                 "instance,parent,wear\n"
                                                 "Grandchild,Child,\n"
                                                 "Child,Fleet,0.9\n"
                                                 "Line Ochre,Fleet,\n");
    ASSERT_TRUE(read) << read.error().sentence;
    EXPECT_EQ(read->added, (std::vector<std::string>{"Grandchild", "Child"}));
    EXPECT_EQ(read->moved, std::vector<std::string>{"Line Ochre"});
    const Id grandchild = read->project.findByName("Bodywork/Grandchild");
    EXPECT_FLOAT_EQ(wearOf(read->project, grandchild), 0.9f);
    EXPECT_EQ(read->project.chainOf(grandchild).size(), 3u);
    EXPECT_EQ(read->project.instance("ochre")->parent, "fleet");
}

TEST(InstanceCsv, IsRefusedAsAWholeWithEveryLineThatIsWrong) {
    const Project p = depot();
    const Master& m = *p.master("body");
    const auto refused = [&](std::string_view text, const char* code, std::initializer_list<const char*> parts) {
        const Result<CsvRead> read = withInstanceCsv(p, m, text);
        ASSERT_FALSE(read) << text;
        EXPECT_EQ(read.error().code, code) << text;
        for (const char* part : parts) EXPECT_NE(read.error().sentence.find(part), std::string::npos) << read.error().sentence;
    };
    refused("", "csv.column", {"instance"});
    refused("wear\n0.5\n", "csv.column", {"instance"});
    refused("instance,gloss\nLine,1\n", "csv.column", {"gloss", "wear, tile, tint, face"});
    refused("instance,wear,wear\nLine,1,2\n", "csv.column", {"wear twice"});
    refused("instance,wear\nLine,much\n,0.5\nFleet,\nFleet,1\nA/B,1\n", "csv.value",
            {"Line 2: \"much\"", "Line 3 names no instance", "Line 5 names Fleet again, as line 4", "Line 6: A/B"});
    refused("instance,parent\nLine,Line Ochre\n", "csv.value", {"Line 2", "derives from Bodywork/Line"});
    refused("instance,parent\nLine,Nobody\n", "csv.value", {"Line 2", "Nobody"});
    refused("instance,wear\nA/B,1\n", "csv.value", {"slash"});
    std::string many = "instance,wear\n";
    for (int k = 0; k < 14; ++k) many += "I" + std::to_string(k) + ",x\n";
    refused(many, "csv.value", {"And 4 more"});
    refused("instance,wear\n\"Line,1\n", "csv.quotes", {"line 2"});
}

TEST(InstanceCsv, KeepsAParameterApartThatIsCalledAsAColumn) {
    Project p = depot();
    Master m = *p.master("body");
    m.parameters[0].codeName = "parent";
    p.masters[0] = std::make_shared<Master>(m);
    const std::string text = instanceCsv(p, *p.master("body"));
    EXPECT_TRUE(text.starts_with("instance,parent,parameter parent,")) << text;
    const Result<CsvRead> back = withInstanceCsv(p, *p.master("body"), text);
    ASSERT_TRUE(back) << back.error().sentence;
    EXPECT_EQ(projectText(back->project), projectText(p));
}

TEST(InstanceCsv, OfRandomTablesGivesWhatEditsOneByOneGive) {
    std::mt19937 random(11);
    for (int round = 0; round < 40; ++round) {
        Project p = depot(), twin = p;
        const Master& m = *p.master("body");
        Csv rows{{"instance", "wear", "tile"}};
        for (const Id id : {"line", "ochre", "fleet"}) {
            rows.push_back({p.instance(id)->name});
            for (const Id column : {"wear", "tile"}) {
                const bool inherits = random() % 3 == 0;
                const float x = float(random() % 3000) / 1000;
                rows.back().push_back(inherits ? "" : std::to_string(x));
                const ParameterValue v = *valueFrom(p, *m.parameter(column), std::to_string(x));
                twin = inherits ? *edit::clearOwn(twin, id, column) : *edit::setOwn(twin, id, column, v);
            }
        }
        const Result<CsvRead> read = withInstanceCsv(p, m, csvText(rows, ";\t,"[round % 3]));
        ASSERT_TRUE(read) << read.error().sentence;
        ASSERT_EQ(projectText(read->project), projectText(twin));
    }
}

TEST(ValuesText, IsWhatASpreadsheetTakesFromTheClipboard) {
    const Project p = depot();
    const Id rows[] = {"line", "ochre"}, columns[] = {"wear", "face"};
    EXPECT_EQ(valuesText(p, rows, columns), "0.2\tneutral\n0.2\tRust, fine\n");
}

// Cells of a table
TEST(InstanceCells, TakeValuesAndArithmeticAllAtOnce) {
    const Project p = depot();
    const Cell cells[] = {{"line", "wear"}, {"ochre", "wear"}, {"fleet", "wear"}};
    const Result<Project> next = withWords(p, cells, "*0.5");
    ASSERT_TRUE(next) << next.error().sentence;
    EXPECT_FLOAT_EQ(wearOf(*next, "line"), 0.1f);
    EXPECT_FLOAT_EQ(wearOf(*next, "ochre"), 0.1f) << "of what it inherited before, whichever comes first";
    EXPECT_FLOAT_EQ(wearOf(*next, "fleet"), 0.25f);
    const Project more = *withWords(p, cells, "+3");
    for (const Cell& cell : cells) EXPECT_FLOAT_EQ(wearOf(more, cell.worn), 1) << "the limit holds";
    // A master's default, and what inherits it.
    const Cell standard[] = {{"body", "wear"}};
    EXPECT_FLOAT_EQ(wearOf(*withWords(p, standard, "0.9"), "fleet"), 0.9f);
    // Nothing by halves.
    const Cell mixed[] = {{"line", "wear"}, {"line", "face"}};
    EXPECT_EQ(withWords(p, mixed, "0.4").error().code, "value.words");
    const Cell strange[] = {{"line", "gloss"}}, gone[] = {{"gone", "wear"}};
    EXPECT_EQ(withWords(p, strange, "1").error().code, "edit.no-parameter");
    EXPECT_EQ(withWords(p, gone, "1").error().code, "edit.no-instance");
    // Given back.
    const Cell own[] = {{"line", "wear"}, {"fleet", "wear"}, {"ochre", "face"}};
    const Project back = *withoutOwn(p, own);
    EXPECT_TRUE(back.instance("line")->own.empty());
    EXPECT_EQ(back.instance("ochre")->own.size(), 1u);
    EXPECT_EQ(withoutOwn(back, own).error().code, "instance.inherits");
}

TEST(InstanceCells, ArePastedFromWhereTheyAreChosen) {
    const Project p = depot();
    const Id rows[] = {"line", "ochre", "fleet"}, columns[] = {"wear", "tile"};
    const auto paste = [&](const Csv& table) { return withPasted(p, rows, columns, table); };
    const Project two = *paste({{"0.1", "2 3"}, {"", "4"}});
    EXPECT_FLOAT_EQ(wearOf(two, "line"), 0.1f);
    EXPECT_EQ(resolve(two, "ochre").values.at("tile").value.value, Value::vec2(4, 4));
    EXPECT_FALSE(two.instance("ochre")->own.contains("wear")) << "an empty cell leaves what is there";
    EXPECT_TRUE(two.instance("fleet")->own.empty());
    // One cell fills all, one row all rows, one column stays one.
    const Project all = *paste({{"0.75"}});
    for (const Id& id : rows) {
        EXPECT_FLOAT_EQ(wearOf(all, id), 0.75f);
        EXPECT_EQ(resolve(all, id).values.at("tile").value.value, Value::vec2(0.75f, 0.75f));
    }
    const Project down = *paste({{"0.3", "5 6"}});
    for (const Id& id : rows) EXPECT_EQ(resolve(down, id).values.at("tile").value.value, Value::vec2(5, 6));
    const Project column = *paste({{"0.3"}, {"0.4"}});
    EXPECT_FLOAT_EQ(wearOf(column, "ochre"), 0.4f);
    EXPECT_FALSE(column.instance("line")->own.contains("tile"));
    // What reaches beyond is left out; what is wrong is told with its row.
    EXPECT_TRUE(paste({{"0.1", "1", "x"}, {"0.1"}, {"0.1"}, {"x"}}));
    const Result<Project> wrong = paste({{"0.1"}, {"much"}});
    ASSERT_FALSE(wrong);
    EXPECT_NE(wrong.error().sentence.find("Row 2"), std::string::npos) << wrong.error().sentence;
    EXPECT_EQ(paste({}).error().code, "value.words");
    // What was copied comes back as it was.
    const Result<Csv> copied = csvFrom(valuesText(p, rows, columns), nullptr, '\t');
    ASSERT_TRUE(copied);
    const Project again = *paste(*copied);
    for (const Id& id : rows)
        for (const Id& c : columns) EXPECT_EQ(resolve(again, id).values.at(c).value.value, resolve(p, id).values.at(c).value.value);
}

// Another parent
TEST(Parents, TakeAnInstanceWithItsOwnValuesAndSayWhatIsInheritedAnew) {
    const Project p = depot();
    const Result<edit::ParentChange> said = edit::parentChange(p, "ochre", "fleet");
    ASSERT_TRUE(said) << said.error().sentence;
    EXPECT_EQ(said->kept, (std::vector<Id>{"tint", "face"}));
    EXPECT_EQ(said->changed, std::vector<Id>{"wear"});
    EXPECT_TRUE(said->lost.empty() && said->fresh.empty());
    const Project next = *edit::changeParent(p, "ochre", "fleet");
    EXPECT_FLOAT_EQ(wearOf(next, "ochre"), 0.5f);
    EXPECT_EQ(next.instance("ochre")->own, p.instance("ochre")->own);
    EXPECT_EQ(projectText(*edit::changeParent(next, "ochre", "line")), projectText(p)) << "and back";
}

TEST(Parents, OfAnotherMasterTakeWhatIsOfTheSameKindAndName) {
    Project p = depot();
    // The other master calls them by other ids, has no tint, and a gloss of its own.
    Master rails = *p.master("rails");
    rails.parameters = {parameter("r1", "Wear", ParameterType::Number), parameter("r2", "Face", ParameterType::Map),
                        parameter("r3", "Tint", ParameterType::Vector3), parameter("r4", "Gloss", ParameterType::Number)};
    p.masters[1] = std::make_shared<Master>(rails);
    Instance other;
    other.id = "other", other.name = "Line", other.parent = "rails";
    p = *edit::addInstance(p, other);
    const Result<edit::ParentChange> said = edit::parentChange(p, "ochre", "rails");
    ASSERT_TRUE(said);
    EXPECT_EQ(said->kept, std::vector<Id>{"r2"});
    EXPECT_EQ(said->lost, std::vector<Id>{"tint"});
    EXPECT_EQ(said->fresh, (std::vector<Id>{"r3", "r4"}));
    // Its children come along, with their own values, and under names that are free there.
    const Project next = *edit::changeParent(p, "line", "rails");
    EXPECT_EQ(next.nameOf("line"), "Rails/Line 2");
    EXPECT_EQ(next.nameOf("ochre"), "Rails/Line Ochre");
    EXPECT_FLOAT_EQ(resolve(next, "ochre").values.at("r1").value.value[0], 0.2f);
    EXPECT_EQ(resolve(next, "ochre").values.at("r2").value.map, "t");
    EXPECT_EQ(next.instance("ochre")->own.at("tint").value, p.instance("ochre")->own.at("tint").value) << "nothing is dropped";
    // Back again, it is as it was, but for the name that was taken there.
    const Project back = *edit::changeParent(next, "line", "body");
    for (const Id id : {"line", "ochre"})
        for (const Parameter& its : p.master("body")->parameters)
            EXPECT_EQ(resolve(back, id).values.at(its.id).value, resolve(p, id).values.at(its.id).value) << id << " " << its.name;
}

TEST(Parents, AreNeverAmongTheChildren) {
    const Project p = depot();
    for (const Id parent : {"line", "ochre"}) {
        const Result<Project> next = edit::changeParent(p, "line", parent);
        ASSERT_FALSE(next);
        EXPECT_EQ(next.error().code, "instance.own-parent");
        EXPECT_EQ(edit::parentChange(p, "line", parent).error().code, "instance.own-parent");
    }
    EXPECT_EQ(edit::changeParent(p, "line", "gone").error().code, "instance.no-parent");
    EXPECT_EQ(edit::changeParent(p, "gone", "line").error().code, "edit.no-instance");
}

TEST(OwnValues, GoUpToTheParentAndDownToTheChildren) {
    const Project p = depot();
    const Project up = *edit::pushUp(p, "line", "wear");
    EXPECT_TRUE(up.instance("line")->own.empty());
    EXPECT_FLOAT_EQ(up.master("body")->parameters[0].standard.value[0], 0.2f);
    for (const Id id : {"line", "ochre", "fleet"}) EXPECT_FLOAT_EQ(wearOf(up, id), 0.2f) << id;
    EXPECT_EQ(edit::pushUp(p, "ochre", "wear").error().code, "instance.inherits");
    // What derives from the master inherits again, at any depth.
    Project below = *edit::setOwn(p, "ochre", "wear", {Value::number(0.9f), {}});
    below = *edit::pullDown(below, "body", "wear");
    for (const Id id : {"line", "ochre", "fleet"}) EXPECT_FLOAT_EQ(wearOf(below, id), 0.5f) << id;
    const Project some = *edit::pullDown(*edit::setOwn(p, "ochre", "wear", {Value::number(0.9f), {}}), "line", "wear");
    EXPECT_FLOAT_EQ(wearOf(some, "ochre"), 0.2f);
    EXPECT_FLOAT_EQ(wearOf(some, "line"), 0.2f) << "its own stays";
    EXPECT_EQ(edit::pullDown(below, "body", "wear").error().code, "instance.inherits");
}

TEST(OwnValues, OfAnInstanceMadeByDifferencesAreOnlyWhereItDiffers) {
    const Project p = depot();
    Instance named;
    named.id = "like", named.name = "As ochre";
    const Project next = *edit::instanceOfDifferences(p, "ochre", "fleet", named);
    const Instance& made = *next.instance("like");
    EXPECT_EQ(made.parent, "fleet");
    EXPECT_EQ(made.own.size(), 3u) << "wear, tint and face, but no tile size";
    for (const Parameter& its : p.master("body")->parameters)
        EXPECT_EQ(resolve(next, "like").values.at(its.id).value, resolve(next, "ochre").values.at(its.id).value) << its.name;
    EXPECT_TRUE(edit::instanceOfDifferences(p, "line", "line", named)->instance("like")->own.empty());
}

// The command line
class InstanceCommands : public InFolder {
  protected:
    void SetUp() override {
        InFolder::SetUp();
        ASSERT_TRUE(saveProject(depot(), folder / "depot.huestack"));
    }
    std::string file() const { return (folder / "depot.huestack").string(); }
    Project now() const { return loadProject(file())->project; }
};

TEST_F(InstanceCommands, ASetOfMapsIsSetByItsName) {
    Project p = now();
    MapFile slab;
    slab.id = slab.name = "slab", slab.path = "slab.png", slab.set = "Slabs", slab.role = "base color";
    p = *edit::addMap(p, slab);
    Parameter set;
    set.id = set.codeName = "ground", set.name = "Ground", set.type = ParameterType::MapSet;
    const Id master = p.masterOf("fleet")->id;
    p = *edit::addParameter(p, master, set);
    p = *edit::takeOfSet(p, master, {"face"}, "ground");
    ASSERT_TRUE(saveProject(p, file()));
    const Ran ran = runHsk("set " + file() + " --of Bodywork/Fleet --value Ground=Slabs");
    ASSERT_EQ(ran.code, 0) << ran.output;
    EXPECT_NE(ran.output.find("Ground was none, is Slabs"), std::string::npos) << ran.output;
    EXPECT_EQ(now().instance("fleet")->own.at("ground").map, "Slabs");
    const Ran wrong = runHsk("set " + file() + " --of Bodywork/Fleet --value Ground=Gravel");
    EXPECT_EQ(wrong.code, 2);
    EXPECT_NE(wrong.output.find("map set"), std::string::npos) << wrong.output;
    // As a table, out and in.
    ASSERT_EQ(runHsk("set " + file() + " --of Bodywork/Fleet --return Ground").code, 0);
    const Ran table = runHsk("csv out " + file() + " --of Bodywork");
    EXPECT_NE(table.output.find(",ground"), std::string::npos) << table.output;
}

TEST_F(InstanceCommands, SetGivesValuesByWordsAndArithmetic) {
    Ran ran = runHsk("set " + file() + " --of Bodywork/Line --of Bodywork/Fleet --value 'wear=*2' --value 'Tile size=2 3'");
    ASSERT_EQ(ran.code, 0) << ran.output;
    EXPECT_NE(ran.output.find("Bodywork/Line: Wear was 0.2, is 0.4"), std::string::npos) << ran.output;
    EXPECT_FLOAT_EQ(wearOf(now(), "fleet"), 1) << "twice the inherited half";
    EXPECT_EQ(resolve(now(), "ochre").values.at("tile").value.value, Value::vec2(2, 3));
    ASSERT_EQ(runHsk("set " + file() + " --of Bodywork --value wear=0.7 ").code, 0);
    ASSERT_EQ(runHsk("set " + file() + " --of Bodywork/Fleet --return wear --value face='Rust, fine'").code, 0);
    EXPECT_FLOAT_EQ(wearOf(now(), "fleet"), 0.7f);
    EXPECT_EQ(now().instance("fleet")->own.at("face").map, "t");
    const std::string before = projectText(now());
    for (const char* wrong :
         {"--of Bodywork/Fleet --value gloss=1", "--of Bodywork/Fleet --value wear=much", "--of Nobody --value wear=1",
          "--of Bodywork/Fleet --value wear", "--of Bodywork/Fleet", "--of Bodywork/Line --value wear=0.1 --value tile=1,2,3"})
        EXPECT_EQ(runHsk("set " + file() + " " + wrong).code, 2) << wrong;
    EXPECT_EQ(projectText(now()), before) << "nothing by halves";
}

TEST_F(InstanceCommands, InstancesAreMadeMovedAndCompared) {
    Ran ran = runHsk("instance new " + file() + " --parent Bodywork/Fleet --name Line --value wear=0.3");
    ASSERT_EQ(ran.code, 0) << ran.output;
    EXPECT_EQ(ran.output, "Bodywork/Line 2\n");
    EXPECT_FLOAT_EQ(wearOf(now(), now().findByName("Bodywork/Line 2")), 0.3f);
    ran = runHsk("instance new " + file() + " --parent Bodywork --name Copy --like 'Bodywork/Line Ochre'");
    EXPECT_EQ(ran.code, 0) << ran.output;
    EXPECT_EQ(runHsk("instance diff " + file() + " --of Bodywork/Copy --with 'Bodywork/Line Ochre'").output, "");
    ran = runHsk("instance diff " + file() + " --of Bodywork/Line --with Bodywork/Fleet");
    EXPECT_EQ(ran.code, 1);
    EXPECT_EQ(ran.output, "Wear: 0.2 in Bodywork/Line, 0.5 in Bodywork/Fleet\n");
    const std::string before = projectText(now());
    ran = runHsk("instance reparent " + file() + " --of 'Bodywork/Line Ochre' --parent Bodywork/Fleet --dry");
    EXPECT_EQ(ran.code, 0);
    EXPECT_NE(ran.output.find("Wear is inherited anew, 0.5"), std::string::npos) << ran.output;
    EXPECT_NE(ran.output.find("Tint stays its own, 0.5 0.25 0.1"), std::string::npos) << ran.output;
    EXPECT_EQ(projectText(now()), before);
    ASSERT_EQ(runHsk("instance reparent " + file() + " --of 'Bodywork/Line Ochre' --parent Bodywork/Fleet").code, 0);
    EXPECT_EQ(now().instance("ochre")->parent, "fleet");
    EXPECT_EQ(runHsk("instance reparent " + file() + " --of Bodywork/Fleet --parent 'Bodywork/Line Ochre'").code, 2);
}

TEST_F(InstanceCommands, TablesGoOutAndComeIn) {
    const std::string table = (folder / "table.csv").string();
    ASSERT_EQ(runHsk("csv out " + file() + " --of Bodywork --out " + table).code, 0);
    EXPECT_EQ(contentOf(table), instanceCsv(depot(), *depot().master("body")));
    EXPECT_EQ(runHsk("csv out " + file() + " --of Bodywork").output, contentOf(table));
    std::string text = contentOf(table);
    text.replace(text.find("0.2"), 3, "0.9");
    std::ofstream(table) << text + "Reserve,Line,0.1,,,\n";
    Ran ran = runHsk("csv in " + file() + " " + table + " --of Bodywork --dry");
    EXPECT_EQ(ran.code, 0) << ran.output;
    EXPECT_FLOAT_EQ(wearOf(now(), "line"), 0.2f);
    ran = runHsk("csv in " + file() + " " + table + " --of Bodywork");
    EXPECT_EQ(ran.output, "2 values changed\nReserve is new\n");
    EXPECT_FLOAT_EQ(wearOf(now(), "line"), 0.9f);
    EXPECT_FLOAT_EQ(wearOf(now(), now().findByName("Bodywork/Reserve")), 0.1f);
    EXPECT_EQ(runHsk("csv in " + file() + " " + (folder / "gone.csv").string() + " --of Bodywork").code, 2);
    EXPECT_EQ(runHsk("csv in " + file() + " " + table + " --of Nobody").code, 2);
    ran = runHsk("csv in " + file() + " - --of Bodywork < " + table);
    EXPECT_EQ(ran.output, "0 values changed\n");
}

} // namespace
} // namespace hue
