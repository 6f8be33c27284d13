// Maps, meshes and project files, good and bad.
#include "core/image_files/picture_file.h"
#include "core/maps/map_levels.h"
#include "core/mesh/mesh.h"
#include "core/project/assets.h"
#include "core/project/map_library.h"
#include "core/project/store.h"
#include "tests/full_disk.h"
#include "tests/test_graphs.h"

#include <cmath>
#include <filesystem>
#include <fstream>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>
#include <sstream>
#include <unistd.h>

namespace hue {
namespace {

namespace fs = std::filesystem;
using namespace test;

class Files : public testing::Test {
  protected:
    void SetUp() override {
        folder = fs::temp_directory_path() /
                 ("huestack-test-" + std::to_string(::getpid()) + testing::UnitTest::GetInstance()->current_test_info()->name());
        fs::create_directories(folder);
    }
    void TearDown() override { fs::remove_all(folder); }
    void write(const std::string& name, const std::string& content) const { std::ofstream(folder / name, std::ios::binary) << content; }
    std::string read(const std::string& name) const {
        std::ostringstream out;
        out << std::ifstream(folder / name, std::ios::binary).rdbuf();
        return out.str();
    }
    fs::path folder;
};
using MapFiles = Files;
using MeshFiles = Files;
using ProjectFiles = Files;

Picture checks(int channels) {
    Picture p{4, 4, channels, {}};
    for (int i = 0; i < 16; ++i)
        for (int c = 0; c < channels; ++c) p.values.push_back(((i + i / 4) & 1) ? 1.f : 0.f);
    return p;
}

TEST_F(MapFiles, AColorMapIsDecodedAndItsAlphaNever) {
    Picture half{2, 2, 4, std::vector<float>(16, 128 / 255.f)};
    ASSERT_TRUE(writePicture(folder / "half.png", half, PictureEncoding::Linear));
    float v[4];
    const Result<Map> color = readMap(folder / "half.png", MapKind::Color, Wrap::Repeat);
    ASSERT_TRUE(color) << color.error().sentence;
    color->texel(0, 0, 0, v);
    EXPECT_NEAR(v[0], 0.2159f, 1e-3f);
    EXPECT_NEAR(v[3], 128 / 255.f, 1e-4f);
    readMap(folder / "half.png", MapKind::Data, Wrap::Repeat)->texel(0, 0, 0, v);
    EXPECT_NEAR(v[0], 128 / 255.f, 1e-4f);
}

TEST_F(MapFiles, FloatFilesKeepValuesAboveOne) {
    Picture bright{1, 1, 3, {4, 0.5f, -1}};
    ASSERT_TRUE(writePicture(folder / "bright.exr", bright, PictureEncoding::Linear));
    float v[4];
    readMap(folder / "bright.exr", MapKind::Color, Wrap::Repeat)->texel(0, 0, 0, v);
    EXPECT_FLOAT_EQ(v[0], 4);
    EXPECT_FLOAT_EQ(v[2], -1);
    EXPECT_FLOAT_EQ(v[3], 1) << "no alpha reads as 1";
}

TEST_F(MapFiles, MipsOfAColorMapKeepItsLight) {
    ASSERT_TRUE(writePicture(folder / "checks.png", checks(3), PictureEncoding::Srgb));
    const Result<Map> map = readMap(folder / "checks.png", MapKind::Color, Wrap::Repeat);
    ASSERT_EQ(map->levels(), 3);
    float v[4];
    map->texel(2, 0, 0, v);
    // Half the light, not half the code.
    EXPECT_NEAR(v[0], 0.5f, 0.01f);
}

TEST_F(MapFiles, WrapModesReadWhatTheySay) {
    Picture ramp{4, 1, 1, {0, 0.25f, 0.5f, 1}};
    ASSERT_TRUE(writePicture(folder / "ramp.exr", ramp, PictureEncoding::Linear));
    auto at = [&](Wrap wrap, float u) {
        float v[4];
        readMap(folder / "ramp.exr", MapKind::Data, wrap)->sample(u, 0.5f, 0, v);
        return v[0];
    };
    EXPECT_NEAR(at(Wrap::Repeat, 1.375f), 0.25f, 1e-5f);
    EXPECT_NEAR(at(Wrap::Mirror, 1.125f), 1, 1e-5f);
    EXPECT_NEAR(at(Wrap::Clamp, 3), 1, 1e-5f);
    EXPECT_NEAR(at(Wrap::Repeat, -99999.625f), 0.25f, 2e-2f);
    EXPECT_TRUE(std::isfinite(at(Wrap::Repeat, NAN)));
}

TEST_F(MapFiles, SixteenBitDataKeepsItsSteps) {
    ASSERT_EQ(std::system(("oiiotool --pattern constant:color=0.50001 2x2 1 -d uint16 -o " + (folder / "deep.png").string()).c_str()), 0);
    float v[4];
    readMap(folder / "deep.png", MapKind::Height, Wrap::Repeat)->texel(0, 0, 0, v);
    EXPECT_NEAR(v[0], 0.50001f, 1.f / 65535);
    EXPECT_FLOAT_EQ(v[1], v[0]) << "one channel reads as grey";
}

TEST_F(MapFiles, BadFilesAreRefusedWithTheirName) {
    write("empty.png", "");
    write("noise.jpg", std::string(500, 'x'));
    ASSERT_TRUE(writePicture(folder / "whole.png", checks(3), PictureEncoding::Linear));
    write("cut.png", read("whole.png").substr(0, 60));
    for (const char* name : {"empty.png", "noise.jpg", "cut.png", "gone.png"}) {
        const Result<Map> map = readMap(folder / name, MapKind::Color, Wrap::Repeat);
        ASSERT_FALSE(map) << name;
        EXPECT_NE(map.error().sentence.find(name), std::string::npos) << map.error().sentence;
    }
    ASSERT_EQ(std::system(("oiiotool --create 4x4 5 -o " + (folder / "five.exr").string()).c_str()), 0);
    EXPECT_EQ(readMap(folder / "five.exr", MapKind::Data, Wrap::Repeat).error().code, "map.channels");
}

TEST_F(MapFiles, AChangedFileIsReadAgain) {
    MapLibrary library;
    ASSERT_TRUE(writePicture(folder / "m.png", checks(3), PictureEncoding::Linear));
    const MapPtr first = library.get({folder / "m.png", MapKind::Data});
    EXPECT_EQ(library.get({folder / "m.png", MapKind::Data}), first);
    Picture other{8, 8, 3, std::vector<float>(192, 1)};
    ASSERT_TRUE(writePicture(folder / "m.png", other, PictureEncoding::Linear));
    fs::last_write_time(folder / "m.png", fs::file_time_type::clock::now() + std::chrono::seconds(2));
    EXPECT_EQ(library.get({folder / "m.png", MapKind::Data})->width(), 8);
}

TEST_F(MapFiles, WhatCannotBeWrittenSaysSoAndLeavesNothing) {
    const Result<size_t> written = writePicture("/proc/no/such/place.png", checks(3), PictureEncoding::Linear);
    ASSERT_FALSE(written);
    EXPECT_EQ(written.error().code, "file.cannot-write");
    Picture odd{1, 1, 3, {NAN, INFINITY, 0.5f}};
    EXPECT_EQ(*writePicture(folder / "odd.exr", odd, PictureEncoding::Linear), 2u);
    EXPECT_FLOAT_EQ(readPicture(folder / "odd.exr")->values[0], 0) << "NaN never reaches a file";
}

TEST(Shapes, HaveAFrameThatFitsTheirUvs) {
    for (const auto& [id, name] : shapes()) {
        const MeshPtr mesh = shapeById(id);
        ASSERT_TRUE(mesh) << id;
        ASSERT_EQ(mesh->slots.size(), 1u);
        for (const Vertex& v : mesh->vertices) {
            float n = 0, t = 0, d = 0;
            for (size_t c = 0; c < 3; ++c)
                n += v.normal[c] * v.normal[c], t += v.tangent[c] * v.tangent[c], d += v.normal[c] * v.tangent[c];
            ASSERT_NEAR(n, 1, 1e-3f) << id;
            ASSERT_NEAR(t, 1, 1e-3f) << id;
            ASSERT_NEAR(d, 0, 2e-2f) << id;
        }
        // Triangles look outward: their winding agrees with the vertices' normals.
        int inward = 0;
        for (size_t i = 0; i + 2 < mesh->indices.size(); i += 3) {
            const Vertex &a = mesh->vertices[mesh->indices[i]], &b = mesh->vertices[mesh->indices[i + 1]],
                         &c = mesh->vertices[mesh->indices[i + 2]];
            float e[3], f[3];
            for (size_t k = 0; k < 3; ++k) e[k] = b.position[k] - a.position[k], f[k] = c.position[k] - a.position[k];
            const float cross[3] = {e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]};
            inward += cross[0] * a.normal[0] + cross[1] * a.normal[1] + cross[2] * a.normal[2] < -1e-7f;
        }
        EXPECT_EQ(inward, 0) << id;
    }
}

TEST_F(MeshFiles, KeepSlotsColorsAndSecondUvsThroughAFile) {
    Mesh mesh = makeCube();
    mesh.hasColors = mesh.hasUv1 = true;
    mesh.vertices[3].color = {0.25f, 0.5f, 0.75f, 1};
    mesh.vertices[3].uv1 = {0.125f, 0.875f};
    const uint32_t half = uint32_t(mesh.indices.size() / 6 * 3);
    mesh.slots = {{"Hull", 0, half}, {"Trim", half, uint32_t(mesh.indices.size()) - half}};
    ASSERT_TRUE(writeMesh(folder / "cube.glb", mesh));
    const Result<Mesh> back = readMesh(folder / "cube.glb");
    ASSERT_TRUE(back) << back.error().sentence;
    ASSERT_EQ(back->slots.size(), 2u);
    EXPECT_EQ(back->slots[1].name, "Trim");
    EXPECT_EQ(back->indices.size(), mesh.indices.size());
    bool found = false;
    for (const Vertex& v : back->vertices) found = found || (v.color == mesh.vertices[3].color && v.uv1 == mesh.vertices[3].uv1);
    EXPECT_TRUE(found);
}

TEST_F(MeshFiles, BadOnesAreRefusedAndACubeStandsIn) {
    write("junk.glb", "glTF this is not");
    ASSERT_TRUE(writeMesh(folder / "whole.glb", makeCube()));
    write("cut.glb", read("whole.glb").substr(0, 3000));
    for (const char* name : {"junk.glb", "cut.glb", "gone.glb"}) {
        const Result<Mesh> mesh = readMesh(folder / name);
        ASSERT_FALSE(mesh) << name;
        EXPECT_NE(mesh.error().sentence.find(name), std::string::npos);
    }
    Project p = bareProject();
    p = *edit::addMesh(p, {"g", "lost", "gone.glb", {}});
    Assets assets;
    assets.setFolder(folder);
    std::string problem;
    EXPECT_EQ(assets.mesh(p, "g", &problem), shapeById("shape:cube"));
    EXPECT_FALSE(problem.empty());
    ASSERT_EQ(assets.problems(p).size(), 1u);
    EXPECT_EQ(assets.problems(p)[0].code, "mesh.cannot-use");
    EXPECT_EQ(p.mesh("g")->path, "gone.glb") << "the reference stays";
}

TEST_F(MapFiles, AMissingMapShowsAMarkedStandInAndCanBeRelocated) {
    Project p = bareProject();
    p = *edit::addMap(p, {"t", "lost", "gone.png", MapKind::Color, Wrap::Repeat, {}, {}});
    Assets assets;
    assets.setFolder(folder);
    const MapPtr standIn = assets.map(p, "t");
    ASSERT_TRUE(standIn);
    EXPECT_EQ(standIn->width(), 64);
    EXPECT_EQ(assets.problems(p)[0].code, "map.cannot-use");
    ASSERT_TRUE(writePicture(folder / "found.png", checks(3), PictureEncoding::Linear));
    MapFile moved = *p.map("t");
    moved.path = "found.png";
    p = *edit::changeMap(p, moved);
    EXPECT_TRUE(assets.problems(p).empty());
    EXPECT_EQ(assets.map(p, "t")->width(), 4);
}

std::string depot() { return depotFile(); }

TEST_F(ProjectFiles, ReadBackAsTheyWereWritten) {
    const Result<Loaded> loaded = loadProject(depot());
    ASSERT_TRUE(loaded) << loaded.error().sentence;
    EXPECT_TRUE(loaded->report.empty());
    std::ostringstream text;
    text << std::ifstream(depot()).rdbuf();
    EXPECT_EQ(projectText(loaded->project), text.str()) << "the demo is in the present format, and writing is stable";
}

TEST_F(ProjectFiles, KeepFieldsThatThisVersionDoesNotKnow) {
    auto json = nlohmann::json::parse(projectText(loadProject(depot())->project));
    json["weather"] = "rain";
    json["masters"][0]["mood"] = {1, 2};
    json["masters"][0]["cards"][0]["sticker"] = true;
    json["instances"][0]["note"] = "from later";
    json["maps"][0]["license"] = "ours";
    const Result<Loaded> loaded = parseProject(json.dump(), "x");
    ASSERT_TRUE(loaded);
    const auto again = nlohmann::json::parse(projectText(loaded->project));
    EXPECT_EQ(again["weather"], "rain");
    EXPECT_EQ(again["masters"][0]["mood"], json["masters"][0]["mood"]);
    EXPECT_EQ(again["masters"][0]["cards"][0]["sticker"], true);
    EXPECT_EQ(again["instances"][0]["note"], "from later");
    EXPECT_EQ(again["maps"][0]["license"], "ours");
}

TEST_F(ProjectFiles, DamagedOnesAreRefusedWithTheReason) {
    const std::string whole = projectText(bareProject());
    auto code = [](const std::string& text) {
        const Result<Loaded> r = parseProject(text, "x.huestack");
        return r ? std::string("opened") : r.error().code;
    };
    EXPECT_EQ(code(""), "project.truncated");
    EXPECT_EQ(code(whole.substr(0, whole.size() / 2)), "project.truncated");
    EXPECT_EQ(code("not json at all"), "project.not-json");
    EXPECT_EQ(code("[1, 2]"), "project.not-a-project");
    EXPECT_EQ(code("{\"kind\": \"huestack project\", \"format\": 99}"), "project.newer-format");
    EXPECT_EQ(code("{\"kind\": \"huestack project\", \"format\": 4294967297}"), "project.newer-format");
    EXPECT_EQ(code("{\"kind\": \"huestack project\", \"format\": 0}"), "project.not-a-project");
    EXPECT_EQ(code("{\"kind\": \"huestack project\", \"loop\": 1e999}"), "project.not-json");
    EXPECT_EQ(loadProject(folder / "gone.huestack").error().code, "project.missing");
    EXPECT_EQ(loadProject(folder).error().code, "project.unreadable");
    // Every cut of a real file is refused, never misread.
    for (size_t cut = 1; cut + 2 < whole.size(); cut += 37) EXPECT_NE(code(whole.substr(0, cut)), "opened") << cut;
}

TEST_F(ProjectFiles, OddFieldsAreReportedAndTheRestOpens) {
    auto json = nlohmann::json::parse(projectText(loadProject(depot())->project));
    json["loop"] = "long";
    json["masters"][0]["cards"][0]["at"] = "left";
    json["instances"][1]["parent"] = json["instances"][1]["id"];
    json["maps"].push_back(5);
    const Result<Loaded> loaded = parseProject(json.dump(), "x");
    ASSERT_TRUE(loaded);
    EXPECT_EQ(loaded->report.size(), 4u);
    EXPECT_FLOAT_EQ(loaded->project.loopSeconds, 8);
    EXPECT_TRUE(loaded->project.masterOf(loaded->project.instances[1]->id)) << "a loop of parents is broken";
}

TEST_F(ProjectFiles, AreNotWrittenOverAStrangersOrANewerFile) {
    write("letter.huestack", "Dear all");
    write("newer.huestack", "{\"kind\": \"huestack project\", \"format\": 99}");
    for (const char* name : {"letter.huestack", "newer.huestack"}) {
        const std::string before = read(name);
        const Outcome saved = saveProject(bareProject(), folder / name);
        ASSERT_FALSE(saved) << name;
        EXPECT_EQ(saved.error().code, "file.not-ours");
        EXPECT_EQ(read(name), before);
    }
    EXPECT_TRUE(saveProject(bareProject(), folder / "fresh.huestack"));
    EXPECT_TRUE(saveProject(bareProject(), folder / "fresh.huestack"));
}

TEST_F(ProjectFiles, AFailedSaveLeavesTheOldFileWhole) {
    ASSERT_TRUE(saveProject(bareProject(), folder / "p.huestack"));
    const std::string before = read("p.huestack");
    Project changed = bareProject();
    changed.name = "changed";
    {
        // Files may not grow beyond 20 bytes: what a full disk is like.
        const FullDisk full(20);
        EXPECT_EQ(saveProject(changed, folder / "p.huestack").error().code, "file.cannot-write");
    }
    EXPECT_EQ(read("p.huestack"), before);
    EXPECT_EQ(std::distance(fs::directory_iterator(folder), fs::directory_iterator{}), 1) << "nothing is left beside it";
    ASSERT_TRUE(saveProject(changed, folder / "p.huestack"));
    EXPECT_NE(read("p.huestack"), before);
}

TEST_F(ProjectFiles, AJournalBringsBackUnsavedWork) {
    const fs::path file = folder / "p.huestack";
    ASSERT_TRUE(saveProject(bareProject(), file));
    EXPECT_FALSE(readJournal(file));
    Project changed = bareProject();
    changed.name = "unsaved";
    ASSERT_TRUE(writeJournal(changed, file));
    ASSERT_TRUE(readJournal(file));
    EXPECT_EQ(readJournal(file)->name, "unsaved");
    ASSERT_TRUE(saveProject(changed, file));
    EXPECT_FALSE(readJournal(file)) << "what is saved needs no journal";
    dropJournal(file);
    EXPECT_FALSE(fs::exists(journalFor(file)));
}

TEST_F(ProjectFiles, MapsKeepTheirPlaceWhenAProjectIsSavedElsewhere) {
    Project p = bareProject();
    p = *edit::addMap(p, {"t", "map", "maps/a.png", MapKind::Color, Wrap::Repeat, {}, {}});
    const Project moved = withPathsFor(p, "/depot/a", "/depot/b/c");
    EXPECT_EQ(moved.map("t")->path, "../../a/maps/a.png");
    EXPECT_EQ(withPathsFor(moved, "/depot/b/c", "/depot/a").map("t")->path, "maps/a.png");
}

} // namespace
} // namespace hue
