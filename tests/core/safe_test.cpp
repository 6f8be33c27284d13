// Nothing is lost and nothing hangs, whoever else writes and whatever a file holds.
#include "core/base/files.h"
#include "core/check/check.h"
#include "core/image_files/image_file.h"
#include "core/make/made_maps.h"
#include "core/mesh/mesh.h"
#include "core/project/assets.h"
#include "core/project/store.h"
#include "core/surface/light_files.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"
#include "tests/test_maps.h"

#include <cmath>
#include <cstring>
#include <fstream>
#include <nlohmann/json.hpp>
#include <sstream>
#include <sys/file.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <thread>

namespace hue {
namespace {

namespace fs = std::filesystem;
using namespace test;

class Safe : public InFolder {
  protected:
    void SetUp() override {
        InFolder::SetUp();
        ::setenv("XDG_STATE_HOME", (folder / "state").c_str(), 1);
        ::setenv("XDG_CACHE_HOME", (folder / "cache").c_str(), 1);
    }
    fs::path file() const { return folder / "p.huestack"; }
    std::string write(const std::string& name, const std::string& content) const {
        std::ofstream(folder / name, std::ios::binary) << content;
        return (folder / name).string();
    }
};

TEST_F(Safe, NumbersThatAreNotFiniteAreRefusedWhereTheyAreTyped) {
    Project p = bareProject();
    Parameter q;
    q.id = "q";
    q.name = "Wear";
    p = *edit::addParameter(p, "m", q);
    p = *edit::addInstance(p, {"i", "First", "m", {}, {}, {}, {}, {}});
    const Id card = add(p, "add");
    for (const float bad : {INFINITY, -INFINITY, NAN}) {
        const auto refused = [&](const Result<Project>& r, const char* what) {
            ASSERT_FALSE(r) << what;
            EXPECT_EQ(r.error().code, "value.not-finite") << what;
        };
        for (float Parameter::*end : {&Parameter::softMin, &Parameter::softMax, &Parameter::hardMin, &Parameter::hardMax}) {
            Parameter wide = q;
            wide.*end = bad;
            refused(edit::changeParameter(p, "m", wide), "a range");
        }
        refused(edit::setOwn(p, "i", "q", {Value::number(bad), {}}), "an own value");
        refused(edit::setConstant(p, "m", card, "in1", Value::number(bad)), "an input");
        refused(edit::setChannelConstant(p, "m", "roughness", Value::number(bad)), "a channel");
        refused(edit::moveNodes(p, "m", {{card, {bad, 0}}}), "a place on the board");
        Lineup l = p.lineup;
        l.orbit.yaw = bad;
        refused(edit::setLineup(p, l), "the camera");
    }
    // And where code errs, the file that was there stays.
    ASSERT_TRUE(saveProject(p, file()));
    const std::string before = contentOf(file());
    auto m = std::make_shared<Master>(*p.masters[0]);
    m->parameters[0].softMax = INFINITY;
    p.masters[0] = m;
    const Outcome saved = saveProject(p, file());
    ASSERT_FALSE(saved);
    EXPECT_EQ(saved.error().code, "project.cannot-be-kept");
    EXPECT_EQ(contentOf(file()), before);
    EXPECT_TRUE(loadProject(file()));
}

TEST_F(Safe, SomebodyElsesSaveIsNotOverwritten) {
    const Project p = bareProject();
    ASSERT_TRUE(saveProject(p, file()));
    const std::string known = loadProject(file())->hash;
    EXPECT_EQ(known, contentHash(file()));
    ASSERT_TRUE(saveProject(*edit::renameMaster(p, "m", "Theirs"), file()));
    const Outcome over = saveProject(*edit::renameMaster(p, "m", "Ours"), file(), {known, nullptr});
    ASSERT_FALSE(over);
    EXPECT_EQ(over.error().code, "project.changed-elsewhere");
    EXPECT_EQ(loadProject(file())->project.masters[0]->name, "Theirs");
    std::string written;
    EXPECT_TRUE(saveProject(*edit::renameMaster(p, "m", "Ours"), file(), {contentHash(file()), nullptr, {}, &written}));
    EXPECT_EQ(written, contentHash(file())) << "what was written is known without looking again";
}

// Several programs at once, each adding maps of its own to the same project: all of them are there in the end.
TEST_F(Safe, ManyWhoMakeMapsAtOnceLoseNone) {
    Project p = bareProject();
    const Id noise = add(p, "noise_2d");
    ASSERT_TRUE(saveProject(p, file()));
    constexpr int kWriters = 3, kMaps = 6;
    std::vector<std::thread> writers;
    std::atomic<int> failed = 0;
    for (int w = 0; w < kWriters; ++w)
        writers.emplace_back([&, w] {
            for (int k = 0; k < kMaps; ++k)
                if (runHsk("make " + file().string() + " --of M --wire " + noise + ".out --size 16 --name 'map " + std::to_string(w) + " " +
                           std::to_string(k) + "'")
                        .code != 0)
                    ++failed;
        });
    for (std::thread& t : writers) t.join();
    EXPECT_EQ(failed, 0);
    const auto loaded = loadProject(file());
    ASSERT_TRUE(loaded);
    EXPECT_EQ(loaded->project.maps.size(), size_t(kWriters * kMaps));
    for (const auto& m : loaded->project.maps) EXPECT_TRUE(fs::exists(folder / m->path)) << m->path;
}

TEST_F(Safe, ALockIsHeldAgainstOthersAndFollowsTheFileThatTakesItsPlace) {
    ASSERT_TRUE(saveProject(bareProject(), file()));
    auto first = RewriteLock::take(file());
    ASSERT_TRUE(first);
    const auto second = RewriteLock::take(file(), 0.05);
    ASSERT_FALSE(second);
    EXPECT_EQ(second.error().code, "project.busy");
    // The holder replaces the file: who waits must then hold the new one.
    std::thread waiter([&] {
        const auto late = RewriteLock::take(file(), 20);
        EXPECT_TRUE(late);
        const int handle = ::open(file().c_str(), O_RDONLY);
        EXPECT_NE(::flock(handle, LOCK_EX | LOCK_NB), 0) << "the file that stands there now is locked";
        ::close(handle);
    });
    ASSERT_TRUE(saveProject(*edit::renameMaster(bareProject(), "m", "New"), file(), {{}, &*first}));
    { const RewriteLock done = std::move(*first); }
    waiter.join();
    EXPECT_TRUE(RewriteLock::take(folder / "none.huestack", 0.05)) << "what is not there needs no lock";
}

TEST_F(Safe, EachWindowHasASeatAndACrashedOnesJournalIsFound) {
    ASSERT_TRUE(saveProject(bareProject(), file()));
    auto first = std::make_unique<Seat>(file());
    EXPECT_EQ(first->number(), 0);
    EXPECT_EQ(first->abandoned(), -1);
    ASSERT_TRUE(writeJournal(*edit::renameMaster(bareProject(), "m", "First"), file(), 0));
    Seat second(file());
    EXPECT_EQ(second.number(), 1);
    EXPECT_TRUE(second.openElsewhere());
    EXPECT_EQ(second.abandoned(), -1) << "a journal of a window that lives is no crash";
    ASSERT_TRUE(writeJournal(*edit::renameMaster(bareProject(), "m", "Second"), file(), 1));
    first.reset(); // as a crash leaves it: the journal stays
    EXPECT_EQ(second.abandoned(), 1) << "its own comes first";
    dropJournal(file(), 1);
    EXPECT_EQ(second.abandoned(), 0);
    EXPECT_EQ(readJournal(file(), 0)->masters[0]->name, "First");
    Seat third(file());
    EXPECT_EQ(third.number(), 0) << "a free seat is taken again";
    EXPECT_EQ(third.abandoned(), 0);
    EXPECT_EQ(Seat(folder / "other.huestack").number(), 0);
    // A process that is killed frees its seat.
    const pid_t child = ::fork();
    if (child == 0) {
        const Seat held(folder / "killed.huestack");
        ::pause();
    }
    for (int k = 0; k < 200 && Seat(folder / "killed.huestack").number() == 0; ++k)
        std::this_thread::sleep_for(std::chrono::milliseconds(10));
    EXPECT_EQ(Seat(folder / "killed.huestack").number(), 1);
    ::kill(child, SIGKILL);
    ::waitpid(child, nullptr, 0);
    EXPECT_EQ(Seat(folder / "killed.huestack").number(), 0);
}

TEST_F(Safe, MadeMapsStayInTheProjectsFolder) {
    fs::create_directories(folder / "project");
    const fs::path inside = folder / "project/p.huestack";
    Project p = bareProject();
    const Id noise = add(p, "noise_2d");
    const auto writes = [&](const std::string& path) {
        Project q = p;
        MapFile m{"t", "clouds", path, MapKind::Data, Wrap::Repeat, {}, {}};
        m.origin.from = MapOrigin::From::Wire;
        m.origin.worn = "m";
        m.origin.wire = {noise, "out", ""};
        m.origin.width = m.origin.height = 16;
        m.origin.fingerprint = "stale";
        q.maps.push_back(std::make_shared<MapFile>(m));
        EXPECT_TRUE(saveProject(q, inside));
        return runHsk("remake " + inside.string());
    };
    for (const std::string& path : {std::string("../outside.png"), (folder / "outside.png").string()}) {
        const Ran ran = writes(path);
        EXPECT_EQ(ran.code, 1) << path;
        EXPECT_NE(ran.output.find("outside of the project's folder"), std::string::npos) << ran.output;
        EXPECT_FALSE(fs::exists(folder / "outside.png")) << path;
    }
    fs::create_directories(folder / "elsewhere");
    fs::create_directory_symlink(folder / "elsewhere", folder / "project/maps");
    EXPECT_EQ(writes("maps/outside.png").code, 1) << "through a link";
    EXPECT_TRUE(fs::is_empty(folder / "elsewhere"));
    EXPECT_EQ(writes("inside.png").code, 0);
    EXPECT_TRUE(fs::exists(folder / "project/inside.png"));
}

TEST_F(Safe, FilesThatAreNoneAreRefusedAtOnce) {
    for (const char* name : {"pipe.png", "pipe.hdr", "pipe.glb", "pipe.ktx2", "pipe.huestack", "pipe.huerecipe", "pipe.bin"})
        ASSERT_EQ(::mkfifo((folder / name).c_str(), 0600), 0);
    const auto refused = [&](const auto& result, const char* what) {
        ASSERT_FALSE(result) << what;
        EXPECT_NE(result.error().sentence.find("no file"), std::string::npos) << what << ": " << result.error().sentence;
    };
    refused(readImage(folder / "pipe.png"), "a map");
    refused(readImage(folder / "pipe.ktx2"), "a block file");
    refused(readLight(folder / "pipe.hdr"), "a light");
    refused(readMesh(folder / "pipe.glb"), "a mesh");
    refused(loadProject(folder / "pipe.huestack"), "a project");
    refused(saveProject(bareProject(), folder / "pipe.huestack"), "a project to be written");
    refused(readImage("/dev/zero"), "a device");
    EXPECT_EQ(contentHash(folder / "pipe.png"), "");
    write("buffer.gltf",
          R"({"asset": {"version": "2.0"}, "buffers": [{"uri": "pipe.bin", "byteLength": 36}], "scene": 0, "scenes": [{"nodes": []}]})");
    EXPECT_FALSE(readMesh(folder / "buffer.gltf")) << "nor a mesh's buffer";
    // A journal that is a pipe is no journal.
    ASSERT_TRUE(saveProject(bareProject(), file()));
    ASSERT_EQ(::mkfifo(journalFor(file()).c_str(), 0600), 0);
    EXPECT_FALSE(readJournal(file()));
}

std::string withInstances(int count, const std::function<std::string(int)>& parent) {
    std::string list;
    for (int i = 0; i < count; ++i)
        list += (i ? ", " : "") + std::string("{\"id\": \"i") + std::to_string(i) + "\", \"name\": \"I" + std::to_string(i) +
                "\", \"parent\": \"" + parent(i) + "\"}";
    return "{\"kind\": \"huestack project\", \"format\": 2, \"masters\": [{\"id\": \"m\", \"name\": \"M\"}], \"instances\": [" + list +
           "]}";
}

TEST_F(Safe, ParentsInCirclesEndAndLongChainsHold) {
    // An honest chain, however long.
    const auto chain = parseProject(withInstances(500, [](int i) { return i ? "i" + std::to_string(i - 1) : std::string("m"); }), "p");
    ASSERT_TRUE(chain);
    EXPECT_TRUE(chain->report.empty()) << chain->report[0].sentence;
    ASSERT_NE(chain->project.masterOf("i499"), nullptr);
    EXPECT_EQ(chain->project.chainOf("i499").size(), 500u);
    // One circle of all: one is told, and all lead to the master.
    const auto circle = parseProject(withInstances(100, [](int i) { return "i" + std::to_string((i + 1) % 100); }), "p");
    ASSERT_TRUE(circle);
    EXPECT_EQ(circle->report.size(), 1u);
    for (const auto& i : circle->project.instances) EXPECT_NE(circle->project.masterOf(i->id), nullptr);
    // An instance with its master's id.
    const auto same =
        parseProject(R"({"kind": "huestack project", "format": 2, "masters": [{"id": "m", "name": "M"}, {"id": "m", "name": "N"}],
        "instances": [{"id": "m", "name": "I", "parent": "m"}]})",
                     "p");
    ASSERT_TRUE(same);
    EXPECT_EQ(same->report.size(), 2u);
    for (const Diagnostic& d : same->report) EXPECT_EQ(d.code, "project.same-id");
    EXPECT_NE(same->project.masters[0]->id, same->project.masters[1]->id);
    EXPECT_EQ(same->project.masterOf(same->project.instances[0]->id)->name, "M");
    // Made in memory, where nothing was told apart.
    Project loop = bareProject();
    loop.instances.push_back(std::make_shared<Instance>(Instance{"a", "A", "b", {}, {}, {}, {}, {}}));
    loop.instances.push_back(std::make_shared<Instance>(Instance{"b", "B", "a", {}, {}, {}, {}, {}}));
    EXPECT_EQ(loop.masterOf("a"), nullptr);
    EXPECT_EQ(resolve(loop, "a").master, nullptr);
}

TEST_F(Safe, WhatHangsOnNothingIsRefusedByEveryCommand) {
    const std::string p = write("p.huestack", withInstances(1, [](int) { return "gone"; }));
    for (const char* command : {"cost", "shader"}) {
        const Ran ran = runHsk(std::string(command) + " " + p + " --of i0");
        EXPECT_EQ(ran.code, 2) << command;
        EXPECT_NE(ran.output.find("lead to no master"), std::string::npos) << ran.output;
    }
    for (const char* command : {"evaluate", "bake", "dispatch", "render"}) {
        const std::string more = command == std::string("evaluate")   ? " --channel roughness --out " + (folder / "a.png").string()
                                 : command == std::string("dispatch") ? " --mesh sphere --out " + (folder / "a.glb").string()
                                                                      : " --out " + (folder / "a.png").string();
        const Ran ran = runHsk(std::string(command) + " " + p + " --of i0" + more);
        EXPECT_EQ(ran.code, 2) << command << ran.output;
        EXPECT_NE(ran.output.find("lead to no master"), std::string::npos) << ran.output;
    }
}

TEST_F(Safe, DeepNestingIsRefusedInWords) {
    std::string deep = "{\"kind\": \"huestack project\", \"format\": 2, \"far\": ";
    for (int i = 0; i < 100000; ++i) deep += "[";
    for (int i = 0; i < 100000; ++i) deep += "]";
    deep += "}";
    const auto loaded = parseProject(deep, "p");
    ASSERT_FALSE(loaded);
    EXPECT_NE(loaded.error().sentence.find("levels deep"), std::string::npos);
    std::string gltf = R"({"asset": {"version": "2.0", "extras": )";
    for (int i = 0; i < 100000; ++i) gltf += "[";
    for (int i = 0; i < 100000; ++i) gltf += "]";
    write("deep.gltf", gltf + "}}");
    const auto mesh = readMesh(folder / "deep.gltf");
    ASSERT_FALSE(mesh);
    EXPECT_NE(mesh.error().sentence.find("levels deep"), std::string::npos) << mesh.error().sentence;
}

/// A triangle as glTF, with one thing changed.
std::string triangle(const std::function<void(nlohmann::json&)>& change) {
    // Three positions, three normals, three UVs, three indices.
    const float numbers[] = {0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1};
    const uint16_t indices[] = {0, 1, 2, 0};
    std::string bytes(reinterpret_cast<const char*>(numbers), sizeof numbers);
    bytes.append(reinterpret_cast<const char*>(indices), sizeof indices);
    static const char* digits = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::string text;
    for (size_t i = 0; i < bytes.size(); i += 3) {
        uint32_t three = 0;
        for (size_t k = 0; k < 3; ++k) three = three << 8 | (i + k < bytes.size() ? uint8_t(bytes[i + k]) : 0);
        for (int k = 3; k >= 0; --k) text += digits[(three >> (6 * k)) & 63];
    }
    text.resize(text.size() - (3 - bytes.size() % 3) % 3);
    text += std::string((3 - bytes.size() % 3) % 3, '=');
    nlohmann::json j{{"asset", {{"version", "2.0"}}},
                     {"scene", 0},
                     {"scenes", {{{"nodes", {0}}}}},
                     {"nodes", {{{"mesh", 0}}}},
                     {"buffers", {{{"uri", "data:application/octet-stream;base64," + text}, {"byteLength", bytes.size()}}}},
                     {"bufferViews", {{{"buffer", 0}, {"byteLength", bytes.size()}}}}};
    const auto accessor = [](size_t offset, int type, int count, const char* shape) {
        return nlohmann::json{{"bufferView", 0}, {"byteOffset", offset}, {"componentType", type}, {"count", count}, {"type", shape}};
    };
    j["accessors"] = {accessor(0, 5126, 3, "VEC3"), accessor(36, 5126, 3, "VEC3"), accessor(72, 5126, 3, "VEC2"),
                      accessor(96, 5123, 3, "SCALAR")};
    j["meshes"] = {{{"primitives", {{{"attributes", {{"POSITION", 0}, {"NORMAL", 1}, {"TEXCOORD_0", 2}}}, {"indices", 3}}}}}};
    change(j);
    return j.dump();
}

TEST_F(Safe, MeshesThatLieAreRefusedInWords) {
    using Json = nlohmann::json;
    write("good.gltf", triangle([](Json&) {}));
    const auto good = readMesh(folder / "good.gltf");
    ASSERT_TRUE(good) << good.error().sentence;
    EXPECT_EQ(good->indices.size(), 3u);
    const auto refused = [&](const char* word, const std::function<void(Json&)>& change) {
        write("bad.gltf", triangle(change));
        const auto mesh = readMesh(folder / "bad.gltf");
        ASSERT_FALSE(mesh) << word;
        EXPECT_NE(mesh.error().sentence.find(word), std::string::npos) << mesh.error().sentence;
    };
    // A count whose product with the stride wraps around to a small one.
    refused("more positions than it holds", [](Json& j) { j["accessors"][0]["count"] = uint64_t(1) << 62; });
    refused("more normals than it holds", [](Json& j) { j["accessors"][1]["byteOffset"] = uint64_t(0xFFFFFFFFFFFFFFF0u); });
    refused("normals of 2 components", [](Json& j) { j["accessors"][1]["type"] = "VEC2"; });
    refused("UVs of 1 components", [](Json& j) { j["accessors"][2]["type"] = "SCALAR"; });
    refused("names the vertex 2 of 2", [](Json& j) {
        for (int a : {0, 1, 2}) j["accessors"][a]["count"] = 2;
    });
    refused("3 positions and 2", [](Json& j) { j["accessors"][1]["count"] = 2; });
    refused("needs the extension KHR_draco", [](Json& j) { j["extensionsRequired"] = {"KHR_draco_mesh_compression"}; });
    refused("sparse", [](Json& j) {
        j["accessors"][0]["sparse"] = {
            {"count", 1}, {"indices", {{"bufferView", 0}, {"componentType", 5123}}}, {"values", {{"bufferView", 0}}}};
    });
    refused("on two others", [](Json& j) {
        // Each level hangs twice on the one above: two to the power of forty visits.
        j["nodes"] = Json::array();
        for (int k = 0; k < 40; ++k) j["nodes"].push_back({{"children", {k + 1, k + 1}}});
        j["nodes"].push_back({{"mesh", 0}});
    });
    // Squares of such distances are beyond what a float holds, and with them areas, tangents and cameras.
    refused("further away than 1e+08 m", [](Json& j) { j["nodes"][0]["scale"] = {1e22, 1e22, 1e22}; });
    refused("normals that are not finite", [](Json& j) {
        // A point at the origin stays there; its normal goes beyond what a float holds.
        j["nodes"][0]["matrix"] = {1e300, 0, 0, 0, 0, 1e300, 0, 0, 0, 0, 1e300, 0, 0, 0, 0, 1};
        for (int a : {0, 1, 2}) j["accessors"][a]["count"] = 1;
        j["meshes"][0]["primitives"][0].erase("indices");
    });
}

TEST_F(Safe, CheckLooksAtLightsAndYardsticksAndKeepsNoMap) {
    Project p = bareProject();
    p.lineup.light = "gone.hdr";
    p.lineup.yardstick.what = Yardstick::What::Picture;
    p.lineup.yardstick.picture = "gone.png";
    ASSERT_TRUE(saveProject(p, file()));
    const Ran ran = runHsk("check " + file().string());
    EXPECT_EQ(ran.code, 1);
    EXPECT_NE(ran.output.find("gone.hdr"), std::string::npos) << ran.output;
    EXPECT_NE(ran.output.find("gone.png"), std::string::npos) << ran.output;
#ifndef __SANITIZE_ADDRESS__ // which takes terabytes of addresses
    // Forty maps of 16 MB each.
    p = bareProject();
    ASSERT_TRUE(writeImage(folder / "large.png", sampleColors(2048, 2048, 4), PixelEncoding::Srgb));
    for (int k = 0; k < 40; ++k) {
        fs::copy_file(folder / "large.png", folder / (std::to_string(k) + ".png"));
        p.maps.push_back(std::make_shared<MapFile>(MapFile{
            "t" + std::to_string(k), "map " + std::to_string(k), std::to_string(k) + ".png", MapKind::Color, Wrap::Repeat, {}, {}}));
    }
    ASSERT_TRUE(saveProject(p, file()));
    std::ostringstream script;
    script << "ulimit -v 1500000; " << hskProgram() << " check " << file().string() << " > " << (folder / "out").string() << " 2>&1";
    const int code = std::system(script.str().c_str());
    EXPECT_EQ(WEXITSTATUS(code), 0) << contentOf(folder / "out");
#endif
}

TEST_F(Safe, AFullStandardOutputEndsInWords) {
    ASSERT_TRUE(saveProject(bareProject(), file()));
    for (const std::string command : {"list", "check", "list --json"}) {
        const int code = std::system(
            (hskProgram() + " " + command + " " + file().string() + " > /dev/full 2> " + (folder / "said").string()).c_str());
        if (command == "check") continue; // which has nothing to say
        EXPECT_EQ(WEXITSTATUS(code), 2) << command;
        EXPECT_NE(contentOf(folder / "said").find("could not be written"), std::string::npos) << contentOf(folder / "said");
    }
}

#ifndef __SANITIZE_ADDRESS__ // which takes terabytes of addresses
TEST_F(Safe, MemoryThatRunsOutEndsInWords) {
    Project p = bareProject();
    channel(p, {add(p, "noise_2d"), "out", ""}, "roughness");
    ASSERT_TRUE(saveProject(p, file()));
    // From what the libraries need to what the command needs.
    int ended = 0;
    for (int kilobytes = 550000; kilobytes <= 1100000; kilobytes += 110000) {
        const std::string command = "ulimit -v " + std::to_string(kilobytes) + "; " + hskProgram() + " bake " + file().string() +
                                    " --of M --size 4096 --out " + (folder / "baked").string() + " > " + (folder / "said").string() +
                                    " 2>&1";
        const int status = std::system(command.c_str());
        ASSERT_TRUE(WIFEXITED(status)) << kilobytes;
        ASSERT_LE(WEXITSTATUS(status), 2) << kilobytes << ": " << contentOf(folder / "said");
        if (WEXITSTATUS(status) != 2) continue;
        ++ended;
        EXPECT_NE(contentOf(folder / "said").find("emory"), std::string::npos) << contentOf(folder / "said");
        std::error_code none;
        for (const auto& entry : fs::directory_iterator(folder / "baked", none)) EXPECT_TRUE(readImage(entry.path())) << entry.path();
    }
    EXPECT_GT(ended, 0) << "else there was memory enough";
}
#endif

TEST_F(Safe, NamesThatAreNoTextAreRefusedInWords) {
    Project p = bareProject();
    const Id noise = add(p, "noise_2d");
    ASSERT_TRUE(saveProject(p, file()));
    const std::string before = contentOf(file());
    const Ran ran = runHsk("make " + file().string() + " --of M --wire " + noise + ".out --size 16 --name \xFF\xFE");
    EXPECT_EQ(ran.code, 2);
    EXPECT_NE(ran.output.find("no UTF-8"), std::string::npos) << ran.output;
    EXPECT_EQ(contentOf(file()), before);
    EXPECT_EQ(runHsk("list --json " + (folder / "\xFF.huestack").string()).code, 2);
}

} // namespace
} // namespace hue
