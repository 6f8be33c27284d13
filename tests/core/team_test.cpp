// Files of a project that several have changed, as version control hands them to hsk.
#include "core/project/merge.h"
#include "core/project/store.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

#include <nlohmann/json.hpp>

namespace hue {
namespace {

namespace fs = std::filesystem;
using namespace test;

class Team : public InFolder {
  protected:
    void SetUp() override {
        InFolder::SetUp();
        base = *edit::addInstance(bareProject(), {"i", "Wet", "m", {}, {}, {}, {}, {}});
        add(base, "noise_2d");
    }
    /// As version control names them: without a suffix, wherever it likes.
    std::string file(const char* name, const Project& p) const {
        fs::create_directories(folder / "elsewhere");
        const fs::path to = folder / "elsewhere" / name;
        std::ofstream(to, std::ios::binary) << projectText(p);
        return to.string();
    }
    Ran merge(const Project& mine, const Project& theirs) const {
        return runHsk("merge " + file(".base", base) + " " + file(".mine", mine) + " " + file(".theirs", theirs) + " --out " +
                      (folder / "elsewhere" / ".mine").string());
    }
    Project result() const { return parseProject(contentOf(folder / "elsewhere" / ".mine"), "result")->project; }

    Project base;
};

TEST_F(Team, DiffersInWordsWithWhatEachValueWasAndIs) {
    Ran ran = runHsk("diff " + file("a", base) + " " + file("b", base));
    EXPECT_EQ(ran.code, 0);
    EXPECT_EQ(ran.output, "") << "nothing differs";
    Project q = *edit::renameInstance(base, "i", "Soaked");
    q = *edit::setConstant(q, "m", "n1000", "amplitude", Value::number(0.25f));
    add(q, "sine");
    ran = runHsk("diff " + file("a", base) + " " + file("b", q));
    EXPECT_EQ(ran.code, 1);
    for (const char* wanted : {"instances / Soaked: name was \"Wet\", is \"Soaked\"\n",
                               "masters / M / cards / noise_2d n1000: values amplitude was -, is 0.25\n", "masters / M / cards / sine n1001: added\n"})
        EXPECT_NE(ran.output.find(wanted), std::string::npos) << wanted << " is not in\n" << ran.output;
    // The other way around each is the other way around.
    const Ran back = runHsk("diff " + file("a", q) + " " + file("b", base));
    EXPECT_NE(back.output.find("name was \"Soaked\", is \"Wet\""), std::string::npos) << back.output;
    EXPECT_NE(back.output.find("sine n1001: removed"), std::string::npos) << back.output;
    const auto told = nlohmann::json::parse(runHsk("diff " + file("a", base) + " " + file("b", q) + " --json").output);
    EXPECT_EQ(told.size(), differences(base, q).size());
    for (const auto& d : told)
        EXPECT_TRUE(d["where"] != "instances / Soaked" || d["fields"][0]["is"] == "\"Soaked\"") << d;
    // Long values are cut between letters, not within one.
    std::string description;
    for (int k = 0; k < 60; ++k) description += "ä";
    Parameter a;
    a.id = "p", a.name = a.codeName = "level", a.description = "short";
    const Project before = *edit::addParameter(base, "m", a);
    a.description = description;
    const auto all = differences(before, *edit::changeParameter(before, "m", a));
    ASSERT_EQ(all.size(), 1u);
    ASSERT_EQ(all[0].fields, std::vector<std::string>{"description"});
    EXPECT_EQ(all[0].values[0].first, "\"short\"");
    EXPECT_TRUE(all[0].values[0].second.ends_with("ä...")) << all[0].values[0].second;
}

TEST_F(Team, ADriverOfVersionControlBringsBothTogetherInPlace) {
    const Project mine = *edit::renameInstance(base, "i", "Soaked"),
                  theirs = *edit::setConstant(base, "m", "n1000", "amplitude", Value::number(0.25f));
    const Ran ran = merge(mine, theirs);
    EXPECT_EQ(ran.code, 0) << ran.output;
    EXPECT_EQ(ran.output, "");
    // Whoever had edited one after the other would have the same file.
    EXPECT_EQ(projectText(result()), projectText(*edit::setConstant(mine, "m", "n1000", "amplitude", Value::number(0.25f))));
}

TEST_F(Team, ConflictsKeepMineAndAreListed) {
    const auto value = [&](float v) { return *edit::setConstant(base, "m", "n1000", "amplitude", Value::number(v)); };
    const Ran ran = merge(value(0.25f), value(0.75f));
    EXPECT_EQ(ran.code, 1);
    EXPECT_NE(ran.output.find("conflict masters / M / cards / noise_2d n1000 / values / amplitude"), std::string::npos) << ran.output;
    EXPECT_EQ(result().masters[0]->graph.nodes.at("n1000")->constants.at("amplitude"), Value::number(0.25f));
}

// Each alone is whole; together one uses what the other took away.
TEST_F(Team, WhatIsBrokenOnlyTogetherIsTold) {
    Master other = *base.masters[0];
    other.id = "o", other.name = "Other";
    base = *edit::addMaster(base, other);
    const Ran ran = merge(*edit::removeMaster(base, "o"), *edit::addInstance(base, {"k", "Child", "o", {}, {}, {}, {}, {}}));
    EXPECT_EQ(ran.code, 1);
    EXPECT_NE(ran.output.find("error "), std::string::npos) << ran.output;
    EXPECT_NE(ran.output.find("Child"), std::string::npos) << ran.output;
}

// Paint lies in files of its own, of which neither is looked at: what the project says of them stays.
TEST_F(Team, TheDemosPaintIsStillNamedAfterAMerge) {
    base = loadProject(depotFile())->project;
    ASSERT_FALSE(base.paintworks.empty());
    std::string text = projectText(base);
    base = parseProject(text, "demo")->project;
    const Project mine = *edit::renameMaster(base, base.masters[0]->id, "Coachwork"),
                  theirs = *edit::renameMaster(base, base.masters[1]->id, "Cobbles");
    ASSERT_EQ(merge(mine, theirs).code, 0);
    const auto both = nlohmann::json::parse(contentOf(folder / "elsewhere" / ".mine")), was = nlohmann::json::parse(text);
    EXPECT_EQ(both["paintworks"], was["paintworks"]);
    EXPECT_EQ(both["masters"][0]["name"], "Coachwork");
    EXPECT_EQ(both["masters"][1]["name"], "Cobbles");
    EXPECT_EQ(both["maps"], was["maps"]);
}

TEST_F(Team, FilesThatAreNoProjectsAreNamedAndNothingIsWritten) {
    const std::string good = file("good", base);
    std::ofstream(folder / "half") << projectText(base).substr(0, 300);
    for (const std::string& bad : {(folder / "half").string(), (folder / "gone").string(), folder.string()}) {
        const std::string out = (folder / "out").string();
        for (const std::string& command :
             {"diff " + good + " " + bad, "merge " + good + " " + bad + " " + good + " --out " + out, "merge " + bad + " " + good + " " + good + " --out " + out}) {
            const Ran ran = runHsk(command);
            EXPECT_EQ(ran.code, 2) << command;
            EXPECT_NE(ran.output.find(bad), std::string::npos) << ran.output;
        }
        EXPECT_FALSE(fs::exists(out));
    }
    const Ran nowhere = runHsk("merge " + good + " " + good + " " + good + " --out " + (folder / "no" / "where").string());
    EXPECT_EQ(nowhere.code, 2);
    EXPECT_NE(nowhere.output.find("no/where"), std::string::npos);
}

} // namespace
} // namespace hue
