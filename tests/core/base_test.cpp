// The ground floor: who may include whom, files written whole, hashes.
#include "core/base/files.h"
#include "core/base/hash.h"
#include "core/compress/block_file.h"
#include "core/image_files/animation_file.h"
#include "core/image_files/image_file.h"
#include "core/image_files/picture_file.h"
#include "core/mesh/mesh.h"
#include "core/pack/recipe.h"
#include "core/project/store.h"
#include "tests/full_disk.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"
#include "tests/test_maps.h"

#include <fstream>
#include <random>
#include <sys/stat.h>
#include <thread>

namespace hue {
namespace {

using namespace test;
namespace fs = std::filesystem;

class Floors : public InFolder {
  protected:
    void SetUp() override {
        InFolder::SetUp();
        for (const char* part : {"core/base", "core/images", "preview", "cli", "demo", "app"}) fs::create_directories(folder / part);
        std::ofstream(folder / "floors.txt")
            << "# words\ncore/base 0 ground\ncore/images 1 pixels\ncore/program 1\ncore/program/passes 2\n";
        for (const char* part : {"preview", "cli", "demo", "app"}) std::ofstream(folder / "floors.txt", std::ios::app) << part << " 9\n";
    }
    void file(const char* name, const std::string& text) {
        fs::create_directories((folder / name).parent_path());
        std::ofstream(folder / name) << text;
    }
    Ran check() {
        FILE* pipe = popen((sourceFolder() + "/cmake/check-floors.sh " + folder.string() + " 2>&1").c_str(), "r");
        std::string out;
        char buffer[4096];
        while (const size_t n = fread(buffer, 1, sizeof buffer, pipe)) out.append(buffer, n);
        return {WEXITSTATUS(pclose(pipe)), out};
    }
};

TEST_F(Floors, AnIncludeThatGoesDownIsFine) {
    file("core/images/a.cpp", "#include \"core/images/a.h\"\n#include \"core/base/b.h\"\n#include <png.h>\n");
    file("core/program/passes/p.cpp", "#include \"core/program/p.h\"\n");
    const Ran ran = check();
    EXPECT_EQ(ran.code, 0) << ran.output;
}

TEST_F(Floors, OneThatClimbsIsRefusedWithItsLine) {
    file("core/base/b.cpp", "// words\n#include \"core/base/b.h\"\n#include \"core/images/a.h\"\n");
    const Ran ran = check();
    EXPECT_NE(ran.code, 0);
    EXPECT_NE(ran.output.find("core/base/b.cpp:3"), std::string::npos) << ran.output;
    EXPECT_NE(ran.output.find("core/images/a.h"), std::string::npos) << ran.output;
}

TEST_F(Floors, OneThatStaysOnItsFloorIsRefused) {
    file("core/images/a.h", "#pragma once\n#include \"core/program/p.h\"\n");
    EXPECT_NE(check().code, 0);
}

TEST_F(Floors, AHeaderThatSaysNothingAboutThreadsIsRefused) {
    file("core/base/a.h", "#pragma once\n// Numbers.\n// Threads: any.\n");
    file("core/base/inside_private.h", "#pragma once\n");
    EXPECT_EQ(check().code, 0) << check().output;
    file("core/images/b.h", "#pragma once\n// Pixels.\n");
    const Ran ran = check();
    EXPECT_NE(ran.code, 0);
    EXPECT_NE(ran.output.find("core/images/b.h: says nothing about threads"), std::string::npos) << ran.output;
    EXPECT_EQ(ran.output.find("core/base"), std::string::npos) << ran.output;
}

TEST_F(Floors, AHeaderThatNeedsALibraryOfOurOwnIsRefused) {
    file("core/images/a.h", "#pragma once\n#include <nlohmann/json.hpp>\n// Threads: any.\n");
    EXPECT_NE(check().output.find("core/images/a.h:2"), std::string::npos);
    file("core/images/a.h", "#pragma once\n#include <tiny_gltf.h>\n// Threads: any.\n");
    EXPECT_NE(check().code, 0);
    file("core/images/a.h", "#pragma once\n// Threads: any.\n#include <fmt/format.h>\n#include <vector>\n");
    EXPECT_EQ(check().code, 0) << check().output;
}

TEST_F(Floors, AFolderThatTheListDoesNotKnowIsNamed) {
    file("core/attic/a.cpp", "int a;\n");
    EXPECT_NE(check().output.find("core/attic/a.cpp"), std::string::npos);
}

class NewFiles : public InFolder {
  protected:
    size_t count() const { return size_t(std::distance(fs::directory_iterator(folder), fs::directory_iterator{})); }
};

TEST_F(NewFiles, AreThereOnceTheyAreKeptAndLeaveNothingElse) {
    {
        auto file = NewFile::create(folder / "a.txt");
        ASSERT_TRUE(file);
        EXPECT_EQ(file->temporary().extension(), ".txt") << "libraries go by the suffix";
        std::ofstream(file->temporary()) << "whole";
        EXPECT_FALSE(fs::exists(folder / "a.txt"));
        ASSERT_TRUE(file->keep());
    }
    EXPECT_EQ(contentOf(folder / "a.txt"), "whole");
    { auto dropped = NewFile::create(folder / "b.txt"); }
    EXPECT_EQ(count(), 1u);
}

TEST_F(NewFiles, OfTwoWritersNeverMeet) {
    auto a = NewFile::create(folder / "a.txt"), b = NewFile::create(folder / "a.txt");
    ASSERT_TRUE(a && b);
    EXPECT_NE(a->temporary(), b->temporary());
    std::vector<std::thread> threads;
    for (int t = 0; t < 8; ++t)
        threads.emplace_back([this, t] { EXPECT_TRUE(writeFile(folder / "shared.txt", std::string(200000, char('a' + t)))); });
    for (std::thread& t : threads) t.join();
    const std::string content = contentOf(folder / "shared.txt");
    EXPECT_EQ(content.size(), 200000u);
    EXPECT_EQ(content.find_first_not_of(content[0]), std::string::npos) << "one of them, whole";
}

TEST_F(NewFiles, ReplaceWhatALinkPointsAtAndKeepPermissions) {
    fs::create_directory(folder / "real");
    std::ofstream(folder / "real/a.txt") << "old";
    ASSERT_EQ(::chmod((folder / "real/a.txt").c_str(), 0640), 0);
    fs::create_symlink("real/a.txt", folder / "link.txt");
    ASSERT_TRUE(writeFile(folder / "link.txt", "new"));
    EXPECT_TRUE(fs::is_symlink(folder / "link.txt"));
    EXPECT_EQ(contentOf(folder / "real/a.txt"), "new");
    EXPECT_EQ(int(fs::status(folder / "real/a.txt").permissions()), 0640);
}

TEST_F(NewFiles, APlantedLinkIsNotWrittenThrough) {
    std::ofstream(folder / "victim.txt") << "untouched";
    // What the temporary file was called in earlier versions.
    fs::create_symlink(folder / "victim.txt", folder / "a.txt.part");
    fs::create_symlink(folder / "victim.txt", folder / ".a.part.txt");
    ASSERT_TRUE(writeFile(folder / "a.txt", "new"));
    EXPECT_EQ(contentOf(folder / "victim.txt"), "untouched");
}

TEST_F(NewFiles, MakeNoFoldersUnlessToldSo) {
    EXPECT_EQ(writeFile(folder / "no/such/a.txt", "x").error().code, "file.cannot-write");
    EXPECT_FALSE(fs::exists(folder / "no"));
    EXPECT_TRUE(writeFile(folder / "made/a.txt", "x", Folders::Make));
}

TEST_F(NewFiles, OnAFullDiskEveryWriterSaysSoAndLeavesTheOldFileWhole) {
    const Image image = sampleColors(256, 256, 3);
    const Picture picture{64, 64, 3, std::vector<float>(64 * 64 * 3, 0.5f)};
    Recipe recipe = builtInRecipes()[0];
    recipe.name = std::string(9000, 'r');
    Project project = bareProject();
    project.name = std::string(9000, 'p');
    const std::vector<std::pair<std::string, std::function<Outcome(const fs::path&)>>> writers{
        {"a.png", [&](const fs::path& f) { return writeImage(f, image, PixelEncoding::Data); }},
        {"a.tga", [&](const fs::path& f) { return writeImage(f, image, PixelEncoding::Data); }},
        {"a.tif", [&](const fs::path& f) { return writeImage(f, image, PixelEncoding::Data); }},
        {"a.exr",
         [&](const fs::path& f) -> Outcome {
             Picture noise{64, 64, 3, std::vector<float>(64 * 64 * 3)};
             for (size_t i = 0; i < noise.values.size(); ++i) noise.values[i] = std::sin(float(i) * 12.9898f) * 43.7f;
             const auto written = writePicture(f, noise, PictureEncoding::Linear);
             if (!written) return written.error();
             return Done{};
         }},
        {"a.ktx2", [&](const fs::path& f) { return writeBlockFile(f, *compressed({image}, BlockFormat::Plain8, {}), {.zstd = false}); }},
        {"a.glb", [&](const fs::path& f) { return writeMesh(f, makeSphere(32)); }},
        {"a.webp",
         [&](const fs::path& f) {
             AnimationWriter writer(256, 256, 0.1, true);
             std::vector<uint8_t> noise(256 * 256 * 4);
             std::mt19937 random(1);
             for (uint8_t& v : noise) v = uint8_t(random());
             (void)writer.add(noise);
             return writer.finish(f);
         }},
        {"a.huerecipe", [&](const fs::path& f) { return writeRecipe(recipe, f); }},
        {"a.huestack", [&](const fs::path& f) { return saveProject(project, f); }},
    };
    for (const auto& [name, write] : writers) {
        const fs::path file = folder / name;
        ASSERT_TRUE(write(file)) << name;
        const std::string before = contentOf(file);
        ASSERT_GT(before.size(), 8192u) << name << ": the test needs more than the disk takes";
        {
            const FullDisk full(8192);
            const Outcome written = write(file);
            ASSERT_FALSE(written) << name;
            EXPECT_EQ(written.error().code, "file.cannot-write") << name;
            EXPECT_NE(written.error().sentence.find(name), std::string::npos) << written.error().sentence;
        }
        EXPECT_EQ(contentOf(file), before) << name;
    }
    EXPECT_EQ(count(), writers.size()) << "nothing is left beside them";
}

TEST(Hashes, AreThoseOfTheStandard) {
    // XXH3 64 bit with seed 0, as the xxhsum program gives them.
    EXPECT_EQ(Hash().text(), "2d06800538d394c2") << "of nothing";
    Hash pieces, whole;
    const std::string text(100000, 'x');
    for (size_t i = 0; i < text.size(); i += 777) pieces.add(text.data() + i, std::min<size_t>(777, text.size() - i));
    whole.add(text.data(), text.size());
    EXPECT_EQ(pieces.value(), whole.value());
    Hash a, b;
    a.add(std::string("ab")), a.add(std::string("c"));
    b.add(std::string("a")), b.add(std::string("bc"));
    EXPECT_NE(a.value(), b.value());
}

} // namespace
} // namespace hue
