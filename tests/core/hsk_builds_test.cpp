// hsk and what is kept, shared and built: pictures to compare with, presets, shared parameters, builds.
#include "core/document/parameter_kinds.h"
#include "core/image_files/picture_file.h"
#include "core/project/store.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

#include <filesystem>
#include <fstream>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace hue {
namespace {

namespace fs = std::filesystem;
using namespace test;

/// Bodywork, whose color is a parameter and whose roughness goes by the choice Livery; Ochre and Teal, plain and striped.
class HskBuilds : public InFolder {
  protected:
    void SetUp() override {
        InFolder::SetUp();
        ::setenv("XDG_CACHE_HOME", (folder / "cache").c_str(), 1);
        Project p = bareProject();
        p = *edit::renameMaster(p, "m", "Bodywork");
        Parameter color, livery, wear;
        color.id = color.codeName = "color", color.name = "Color", color.type = ParameterType::Color;
        color.standard.value = Value::vec3(0.5f, 0.25f, 0.1f);
        livery.id = livery.codeName = "livery", livery.name = "Livery", livery.type = ParameterType::Choice;
        livery.options = {"plain", "stripes"}, livery.build = true;
        wear.id = wear.codeName = "wear", wear.name = "Wear", wear.standard.value = Value::number(0.5f);
        for (const Parameter& of : {color, livery, wear}) p = *edit::addParameter(p, "m", of);
        const auto card = [&](const Id& parameter) { return add(p, "parameter", {}, {{"parameter", parameter}}); };
        channel(p, {card("color"), "out", ""}, "base_color");
        const Id choose = add(p, "choose", {{"in1", Value::number(0.5f)}}), noise = add(p, "noise_2d"), worn = add(p, "multiply");
        wire(p, {noise, "out", ""}, worn, "in1");
        wire(p, {card("wear"), "out", ""}, worn, "in2");
        wire(p, {card("livery"), "out", ""}, choose, "which");
        wire(p, {worn, "out", ""}, choose, "in2");
        channel(p, {choose, "out", ""}, "roughness");
        for (const auto& [id, name, option] : {std::tuple{"ochre", "Ochre", 0.f}, {"teal", "Teal", 1.f}}) {
            Instance i;
            i.id = id, i.name = name, i.parent = "m";
            if (option > 0) i.own["livery"] = {Value::number(option), {}};
            p = *edit::addInstance(p, i);
        }
        ASSERT_TRUE(saveProject(p, file()));
    }
    fs::path file() const { return folder / "p.huestack"; }
    Project now() const { return loadProject(file())->project; }
    Ran run(const std::string& command, const std::string& arguments = {}) const {
        return runHsk(command + " " + file().string() + " " + arguments);
    }
    static bool says(const Ran& ran, const std::string& words) { return ran.output.find(words) != std::string::npos; }
};

TEST_F(HskBuilds, PicturesAreKeptAndSayWhatDiffersByNow) {
    const std::string kept = (folder / "kept").string();
    Ran ran = run("check", "--pictures " + kept);
    EXPECT_EQ(ran.code, 2);
    EXPECT_TRUE(says(ran, "--keep")) << ran.output;
    ran = run("check", "--pictures " + kept + " --keep");
    ASSERT_EQ(ran.code, 0) << ran.output;
    EXPECT_TRUE(fs::exists(folder / "kept" / "Bodywork, Ochre.png"));
    EXPECT_TRUE(fs::exists(folder / "kept" / "Bodywork.png"));
    EXPECT_EQ(run("check", "--pictures " + kept).code, 0) << "the same project looks the same";
    // A change of one is told of one, and drawn.
    ASSERT_EQ(run("set", "--of Bodywork/Teal --value Color=#107060").code, 0);
    ran = run("check", "--pictures " + kept + " --out " + (folder / "apart.png").string());
    EXPECT_EQ(ran.code, 1);
    EXPECT_TRUE(says(ran, "Bodywork/Teal differs")) << ran.output;
    EXPECT_FALSE(says(ran, "Ochre")) << ran.output;
    const auto sheet = readPicture(folder / "apart.png");
    ASSERT_TRUE(sheet);
    EXPECT_GT(sheet->width, 2 * 128);
    EXPECT_EQ(run("check", "--pictures " + kept + " --limit 90").code, 0) << "within a limit that lets all pass";
    // What is new has no picture, what is gone has one left.
    ASSERT_EQ(run("check", "--pictures " + kept + " --keep").code, 0);
    ASSERT_EQ(run("instance new", "--parent Bodywork --name Cream").code, 0);
    std::ofstream(folder / "kept" / "Bodywork, Gone.png") << "";
    ran = run("check", "--pictures " + kept);
    EXPECT_EQ(ran.code, 1);
    EXPECT_TRUE(says(ran, "Bodywork/Cream has no kept picture")) << ran.output;
    EXPECT_TRUE(says(ran, "Bodywork, Gone has a kept picture")) << ran.output;
}

TEST_F(HskBuilds, BuildsAreListedWithCostsAndUsers) {
    const Ran words = run("builds");
    EXPECT_EQ(words.code, 0);
    EXPECT_TRUE(says(words, "Bodywork: 2 of 2 builds in use")) << words.output;
    EXPECT_TRUE(says(words, "in 2 builds; live")) << words.output;
    const auto list = nlohmann::json::parse(run("builds", "--json").output);
    ASSERT_EQ(list.size(), 2u);
    EXPECT_EQ(list[0]["build"], "Livery plain");
    EXPECT_EQ(list[1]["usedBy"], nlohmann::json::array({"Teal"}));
    EXPECT_LT(list[0]["operations"], list[1]["operations"]);
    // As the cost of who uses it.
    const auto cost = nlohmann::json::parse(run("cost", "--of Bodywork/Teal --json").output);
    EXPECT_NE(cost.dump().find(":" + list[1]["operations"].dump()), std::string::npos) << cost.dump();
    // Set by the names of the options.
    EXPECT_EQ(run("set", "--of Bodywork/Ochre --value Livery=stripes").code, 0);
    EXPECT_EQ(now().instance("ochre")->own.at("livery").value[0], 1);
    const Ran wrong = run("set", "--of Bodywork/Ochre --value Livery=dots");
    EXPECT_EQ(wrong.code, 2);
    EXPECT_TRUE(says(wrong, "plain, stripes")) << wrong.output;
}

TEST_F(HskBuilds, PresetsAndSharedParametersGoToTheFile) {
    ASSERT_EQ(run("set", "--of Bodywork/Teal --value Color=#107060 --value Wear=0.8").code, 0);
    ASSERT_EQ(run("preset", "--of Bodywork/Teal --keep Sea").code, 0);
    EXPECT_EQ(run("preset", "--of Bodywork").output, "Sea\n");
    ASSERT_EQ(run("preset", "--of Bodywork/Ochre --use Sea").code, 0);
    EXPECT_EQ(run("instance diff", "--of Bodywork/Ochre --with Bodywork/Teal").code, 0) << "nothing differs any more";
    EXPECT_EQ(run("preset", "--of Bodywork/Ochre --use Land").code, 2);
    ASSERT_EQ(run("shared", "--name Age --value 0.3 --of Bodywork --parameter Wear").code, 0);
    const Ran listed = run("shared");
    EXPECT_TRUE(says(listed, "Age = 0.3\n  Bodywork: Wear")) << listed.output;
    EXPECT_FLOAT_EQ(resolve(now(), "m").values.at("wear").value.value[0], 0.3f);
    ASSERT_EQ(run("shared", "--name Age --value '*2'").code, 0);
    EXPECT_FLOAT_EQ(resolve(now(), "m").values.at("wear").value.value[0], 0.6f);
    EXPECT_EQ(run("shared", "--name Age --value much").code, 2);
    EXPECT_EQ(run("shared", "--name Age --of Bodywork --parameter Livery").code, 2) << "a choice follows no number";
}

} // namespace
} // namespace hue
