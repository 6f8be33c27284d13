// hsk render, as scripts use it.
#include "core/edits/edits.h"
#include "core/image_files/picture_file.h"
#include "core/maps/map_levels.h"
#include "core/mesh/mesh.h"
#include "core/project/store.h"
#include "core/surface/channels.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

#include <array>
#include <cmath>
#include <filesystem>
#include <fstream>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace hue {
namespace {

namespace fs = std::filesystem;
using namespace test;

class HskRender : public InFolder {
  protected:
    void SetUp() override {
        InFolder::SetUp();
        ::setenv("XDG_CACHE_HOME", (folder / "cache").c_str(), 1);
        save(bareProject());
    }

    void save(const Project& p) { ASSERT_TRUE(saveProject(p, file())); }
    fs::path file() const { return folder / "p.huestack"; }
    fs::path picture(const std::string& name = "out.png") const { return folder / name; }
    /// `arguments` follow the project; the picture goes to picture().
    Ran run(const std::string& arguments, const std::string& out = "out.png") const {
        return runHsk("render " + file().string() + " " + arguments + " --size 96x96 --out " + picture(out).string());
    }
    std::array<int, 3> pixel(int x, int y, const std::string& name = "out.png") const {
        const auto p = readPicture(picture(name));
        EXPECT_TRUE(p);
        if (!p) return {};
        const float* v = &p->values[(size_t(y) * size_t(p->width) + size_t(x)) * size_t(p->channels)];
        return {int(std::lround(v[0] * 255)), int(std::lround(v[1] * 255)), int(std::lround(v[2] * 255))};
    }
};

TEST_F(HskRender, ShowsChannelsAndStretchesTheirRange) {
    save(*edit::setChannelConstant(bareProject(), "m", "roughness", Value::number(0.25f)));
    ASSERT_EQ(run("--of M --view roughness").code, 0);
    EXPECT_NEAR(pixel(48, 48)[0], 64, 1);
    ASSERT_EQ(run("--of M --view roughness --range 0:0.5").code, 0);
    EXPECT_NEAR(pixel(48, 48)[0], 128, 1);
    EXPECT_EQ(pixel(1, 1), (std::array<int, 3>{0x77, 0x77, 0x77}));
}

TEST_F(HskRender, ShowsAWireByCardAndPort) {
    Project p = bareProject();
    const Id color = add(p, "constant", {{"value", Value::vec3(1, 0, 0.2159f)}});
    save(p);
    ASSERT_EQ(run("--of M --wire " + color).code, 0);
    EXPECT_EQ(pixel(48, 48)[0], 255);
    EXPECT_NEAR(pixel(48, 48)[2], 128, 1) << "a color is encoded";
    ASSERT_EQ(run("--of M --wire " + color + ".out.b").code, 0);
    EXPECT_NEAR(pixel(48, 48)[0], 55, 1) << "a number is not";
    const Ran wrong = run("--of M --wire " + color + ".nothing");
    EXPECT_EQ(wrong.code, 2);
    EXPECT_NE(wrong.output.find("There are: out"), std::string::npos) << wrong.output;
}

TEST_F(HskRender, TakesNamesWithCommasIdsAndSlotsOneByOne) {
    Project p = bareProject();
    const auto colored = [&](const char* id, const std::string& name, const Value& color) {
        Master m = *p.masters[0];
        m.id = id;
        m.name = name;
        m.graph.channelConstants["base_color"] = color;
        m.surface.unlit = true;
        p = *edit::addMaster(p, m);
    };
    colored("r", "Red, worn", Value::vec3(1, 0, 0));
    colored("g", "Green", Value::vec3(0, 1, 0));
    save(p);
    const auto shows = [&](const std::string& of, bool red) {
        const Ran ran = run(of + " --view unlit");
        ASSERT_EQ(ran.code, 0) << of << ": " << ran.output;
        EXPECT_EQ(pixel(48, 48), (red ? std::array<int, 3>{255, 0, 0} : std::array<int, 3>{0, 255, 0})) << of;
    };
    shows("--of 'Red, worn'", true);
    shows("--of r", true);
    shows("--of g", false);
    shows("--of 'Red, worn,Green'", true);
    shows("--of 'Green,Red, worn'", false);
    shows("--of Green --of 'Red, worn'", false);
    const Ran wrong = run("--of 'Green,Blue'");
    EXPECT_NE(wrong.code, 0);
    EXPECT_NE(wrong.output.find("no Blue in"), std::string::npos) << wrong.output;
    // What is asked for by id is listed with its id.
    const Id card = add(p, "constant");
    save(p);
    const Ran list = runHsk("list " + file().string());
    EXPECT_NE(list.output.find("card " + card + ": Constant (constant)"), std::string::npos) << list.output;
}

// A sphere of two slots; the wire is one of the master that the second wears.
TEST_F(HskRender, ShowsAWireOfTheSecondSlot) {
    Mesh sphere = makeSphere(24);
    const auto half = uint32_t(sphere.indices.size() / 6 * 3);
    sphere.slots = {{"upper", 0, half}, {"lower", half, uint32_t(sphere.indices.size()) - half}};
    ASSERT_TRUE(writeMesh(folder / "two.glb", sphere));
    Project p = bareProject();
    p.meshes.push_back(std::make_shared<MeshFile>(MeshFile{"w", "two", "two.glb", {}}));
    const Id blue = add(p, "constant", {{"value", Value::vec3(0, 0, 1)}});
    Master other;
    other.id = "o";
    other.name = "Other";
    p = *edit::addMaster(p, other);
    save(p);
    ASSERT_EQ(run("--mesh two --of Other --of M --wire 2:" + blue).code, 0);
    int blues = 0, others = 0;
    for (int y = 20; y < 76; y += 4) {
        const auto c = pixel(48, y);
        (c == std::array<int, 3>{0, 0, 255} ? blues : others) += 1;
    }
    EXPECT_GT(blues, 3);
    EXPECT_GT(others, 3) << "the first slot wears something else";
    const Ran first = run("--mesh two --of Other --of M --wire " + blue);
    EXPECT_EQ(first.code, 2) << "without a slot it is the first";
    EXPECT_NE(first.output.find("Other has no card"), std::string::npos) << first.output;
    for (const char* slot : {"3:", "0:", "x:", "-1:"}) {
        const Ran wrong = run("--mesh two --of Other --of M --wire " + (slot + blue));
        EXPECT_EQ(wrong.code, 2) << slot;
        EXPECT_NE(wrong.output.find("slots 1 to 2"), std::string::npos) << wrong.output;
    }
}

TEST_F(HskRender, CountsAndPrintsTheVertexOffset) {
    Project p = bareProject();
    const Id normal = add(p, "normal", {}, {{"space", "object"}}), far = add(p, "multiply", {{"in2", Value::number(0.35f)}});
    wire(p, {normal, "out", ""}, far, "in1");
    save(p);
    const auto vertexOperations = [&] {
        return nlohmann::json::parse(runHsk("cost --json " + file().string() + " --of M").output)["operations"]["vertex"].get<int>();
    };
    EXPECT_EQ(vertexOperations(), 0);
    EXPECT_EQ(runHsk("shader " + file().string() + " --of M --stage vertex").output.find("hs_material"), std::string::npos);
    channel(p, {far, "out", ""}, "vertex_offset");
    save(p);
    EXPECT_EQ(vertexOperations(), 3);
    const std::string stage = runHsk("shader " + file().string() + " --of M --stage vertex").output;
    EXPECT_NE(stage.find("0.349999994"), std::string::npos) << stage;
    EXPECT_NE(stage.find("a_position + m.o0"), std::string::npos) << stage;
    EXPECT_NE(runHsk("shader " + file().string() + " --of M --passes").output.find("of the vertex offset"), std::string::npos);
    const Ran flat = runHsk("evaluate " + file().string() + " --of M --channel vertex-offset --out " + picture().string());
    EXPECT_EQ(flat.code, 2);
    EXPECT_NE(flat.output.find("vertices of a mesh"), std::string::npos) << flat.output;
}

TEST_F(HskRender, ComparesWithAYardstickAndPrintsTheDifference) {
    Project p = bareProject();
    Instance instance;
    instance.id = "i";
    instance.name = "Red";
    instance.parent = "m";
    p = *edit::addInstance(p, instance);
    save(p);
    const Ran same = run("--of M --yardstick M/Red --json");
    ASSERT_EQ(same.code, 0) << same.output;
    EXPECT_LT(nlohmann::json::parse(same.output)["deltaEMean"].get<double>(), 0.01);
    // Against a picture of another color.
    Picture red{32, 32, 3, std::vector<float>(32 * 32 * 3, 0.f)};
    for (size_t i = 0; i < red.values.size(); i += 3) red.values[i] = 1;
    ASSERT_TRUE(writePicture(folder / "red.png", red, PictureEncoding::Linear));
    const Ran far = run("--of M --yardstick " + (folder / "red.png").string() + " --show split");
    ASSERT_EQ(far.code, 0) << far.output;
    EXPECT_NE(far.output.find("CIEDE2000 mean"), std::string::npos);
    EXPECT_EQ(pixel(90, 48), (std::array<int, 3>{255, 0, 0})) << "the yardstick is right of the line";
    EXPECT_EQ(pixel(2, 2), (std::array<int, 3>{0x77, 0x77, 0x77}));
    ASSERT_EQ(run("--of M --yardstick M/Red --show difference").code, 0);
    EXPECT_EQ(pixel(48, 48), (std::array<int, 3>{0, 0, 0}));
    ASSERT_EQ(run("--of M --yardstick M/Red --show beside").code, 0);
    EXPECT_EQ(readPicture(picture())->width, 192);
    EXPECT_EQ(run("--of M --yardstick gone.png").code, 2);
}

TEST_F(HskRender, RecordsFramesSheetsAndAnimatedPictures) {
    Project p = bareProject();
    channel(p, {add(p, "wave"), "out", ""}, "roughness");
    save(p);
    const Ran frames = run("--of M --view roughness --frames 0:1 --rate 4", "frames");
    ASSERT_EQ(frames.code, 0) << frames.output;
    EXPECT_EQ(std::distance(fs::directory_iterator(folder / "frames"), fs::directory_iterator{}), 4);
    ASSERT_EQ(run("--of M --frames 0:1 --rate 4", "sheet.png").code, 0);
    const auto sheet = readPicture(picture("sheet.png"));
    EXPECT_EQ(sheet->width * sheet->height, 4 * 96 * 96);
    ASSERT_EQ(run("--of M --frames 0:1 --rate 4", "loop.webp").code, 0);
    EXPECT_GT(fs::file_size(picture("loop.webp")), 100u);
    EXPECT_EQ(run("--of M --frames 1:0", "none").code, 2);
    EXPECT_EQ(run("--of M --frames soon", "none").code, 2);
}

TEST_F(HskRender, StandsInALightFromAFileOnAnyBackdrop) {
    Picture sky{64, 32, 3, std::vector<float>(64 * 32 * 3, 0.02f)};
    for (size_t i = 0; i < sky.values.size(); i += 3) sky.values[i + 2] = 1;
    ASSERT_TRUE(writePicture(folder / "sky.exr", sky, PictureEncoding::Linear));
    ASSERT_EQ(run("--of M --light " + (folder / "sky.exr").string() + " --backdrop environment").code, 0);
    for (const auto& p : {pixel(2, 2), pixel(48, 48)}) EXPECT_GT(p[2], p[0] + 60) << "all is blue";
    const Ran lost = run("--of M --light gone.hdr");
    EXPECT_EQ(lost.code, 2);
    EXPECT_NE(lost.output.find("gone.hdr"), std::string::npos) << lost.output;
}

TEST_F(HskRender, DrawsTheSameFromTheEvaluator) {
    Project p = bareProject();
    channel(p, {add(p, "worley_noise"), "out", ""}, "roughness");
    save(p);
    ASSERT_EQ(run("--of M", "gl.png").code, 0);
    ASSERT_EQ(run("--of M --engine cpu", "cpu.png").code, 0);
    const auto a = readPicture(picture("gl.png")), b = readPicture(picture("cpu.png"));
    double sum = 0;
    for (size_t i = 0; i < a->values.size(); ++i) sum += std::fabs(double(a->values[i]) - double(b->values[i]));
    EXPECT_LT(sum / double(a->values.size()) * 255, 0.1);
}

TEST_F(HskRender, SetsUpThingsAndCountsWork) {
    ASSERT_EQ(run("--of M --thing signs --view overdraw").code, 0);
    const Ran counted = run("--of M --view overdraw");
    EXPECT_NE(counted.output.find("up to 1"), std::string::npos) << counted.output;
    const Ran wrong = run("--of M --thing tram");
    EXPECT_EQ(wrong.code, 2);
    EXPECT_NE(wrong.output.find("bolt"), std::string::npos) << "says what there is: " << wrong.output;
}

TEST_F(HskRender, CopiesOfAMeshStandApart) {
    ASSERT_EQ(run("--of M --mesh plane --view faces --yaw 0 --pitch 89 --placements row:3,spacing=2").code, 0);
    const auto seen = readPicture(picture());
    ASSERT_TRUE(seen);
    // Along the middle row: three copies with gaps as wide as they are.
    int edges = 0;
    const auto at = [&](int x) { return seen->values[size_t(seen->height / 2 * seen->width + x) * size_t(seen->channels)]; };
    const auto covered = [&](int x) { return std::fabs(at(x) - at(0)) > 0.15f; };
    for (int x = 1; x < seen->width; ++x) edges += covered(x) != covered(x - 1);
    EXPECT_EQ(edges, 6);
}

TEST_F(HskRender, RefusesWhatMakesNoSense) {
    for (const char* arguments : {"", "--of Nobody", "--specimen 5", "--of M --view x-ray", "--of M --range 1:0", "--of M --mesh sphere/7",
                                  "--of M --tone rainbow", "--of M --mesh sphere/5 --subdivide 5", "--of M --placements heap:3",
                                  "--of M --mesh sphere/5 --subdivide 3 --placements row:64"}) {
        const Ran r = run(arguments);
        EXPECT_EQ(r.code, 2) << arguments;
        EXPECT_NE(r.output.find("hsk"), std::string::npos) << arguments << ": " << r.output;
        EXPECT_FALSE(fs::exists(picture())) << arguments;
    }
}

TEST_F(HskRender, ASpecimenOfTheLineupIsDrawnAsItStands) {
    Project p = bareProject();
    p.lineup.view = "roughness";
    p.lineup.specimens[0].mesh = "shape:cube";
    p = *edit::setChannelConstant(p, "m", "roughness", Value::number(1));
    save(p);
    ASSERT_EQ(run("--specimen 1").code, 0);
    EXPECT_EQ(pixel(48, 48)[0], 255);
}

} // namespace
} // namespace hue
