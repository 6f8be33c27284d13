// Every long job can be ended in its middle: it says so, leaves nothing half, and can be done again.
#include "core/compress/block_format.h"
#include "core/dispatch/dispatch.h"
#include "core/image_files/image_file.h"
#include "core/make/made_maps.h"
#include "core/pack/pack.h"
#include "core/pack/recipe.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"
#include "tests/test_maps.h"

#include <fstream>
#include <thread>

namespace hue {
namespace {

namespace fs = std::filesystem;
using namespace test;

class Cancelling : public InFolder {
  protected:
    void SetUp() override {
        InFolder::SetUp();
        assets.setFolder(folder);
        // Noise over noise: long enough to be in the middle of it.
        Id last = add(project, "fractal");
        for (int i = 0; i < 6; ++i) {
            const Id next = add(project, "fractal"), both = add(project, "multiply");
            wire(project, {last, "out", ""}, both, "in1");
            wire(project, {next, "out", ""}, both, "in2");
            last = both;
        }
        noise = {last, "out", ""};
        for (const char* key : {"base_color", "roughness", "metallic", "occlusion"}) channel(project, noise, key);
    }

    /// Ends when its progress first comes by.
    struct InTheMiddle {
        std::atomic<bool> stop = false;
        std::atomic<int> told = 0;
        Work work() {
            return {0, &stop, [this](float part) {
                        if (part < 1) ++told;
                        stop = true;
                    }};
        }
    };
    std::vector<std::string> files() const {
        std::vector<std::string> out;
        for (const auto& e : fs::recursive_directory_iterator(folder))
            if (e.is_regular_file()) out.push_back(fs::relative(e.path(), folder).string());
        std::sort(out.begin(), out.end());
        return out;
    }

    Project project = bareProject();
    Source noise;
    Assets assets;
};

TEST_F(Cancelling, ABakeEndsInItsMiddle) {
    InTheMiddle middle;
    const auto stopped = bake(project, assets, {"m", 1024, 0, middle.work()});
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().code, "bake.cancelled");
    EXPECT_GT(middle.told, 0) << "it had begun";
    EXPECT_TRUE(bake(project, assets, {"m", 16, 0, {}})) << "and can be done again";
}

TEST_F(Cancelling, ADispatchLeavesTheFileThatWasThere) {
    std::ofstream(folder / "tram.glb") << "what was there";
    InTheMiddle middle;
    const auto stopped = dispatchGlb(project, assets, {"m", 1024, 0, middle.work()}, "shape:cube", folder / "tram.glb");
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().code, "bake.cancelled");
    EXPECT_EQ(files(), std::vector<std::string>{"tram.glb"});
    EXPECT_EQ(contentOf(folder / "tram.glb"), "what was there");
    ASSERT_TRUE(dispatchGlb(project, assets, {"m", 16, 0, {}}, "shape:cube", folder / "tram.glb"));
    EXPECT_EQ(contentOf(folder / "tram.glb").substr(0, 4), "glTF");
}

TEST_F(Cancelling, AMapOfAWireIsNotWritten) {
    MapFile map;
    map.name = "noise";
    map.origin.from = MapOrigin::From::Wire;
    map.origin.worn = "m";
    map.origin.wire = noise;
    map.origin.width = map.origin.height = 1024;
    InTheMiddle middle;
    const auto stopped = makeMap(project, assets, map, middle.work());
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().code, "make.cancelled");
    EXPECT_GT(middle.told, 0);
    EXPECT_TRUE(files().empty());
    map.origin.width = map.origin.height = 16;
    ASSERT_TRUE(makeMap(project, assets, map, {}));
    EXPECT_EQ(files(), std::vector<std::string>{"maps/noise.png"});
}

TEST_F(Cancelling, APackingLeavesTheMapThatWasThere) {
    PackRequest r;
    r.recipe = *findRecipe("orm");
    for (const char* role : {"occlusion", "roughness", "metallic"}) {
        const auto file = folder / (std::string(role) + ".png");
        ASSERT_TRUE(writeImage(file, imageOf({sampleHeight(512, 2048)}, SampleType::U8), PixelEncoding::Data));
        r.sources[role] = {file, MapKind::Data};
    }
    const auto before = files();
    for (const bool flows : {true, false}) {
        if (!flows) {
            LaneOp stretched;
            stretched.kind = LaneOp::Kind::Normalise;
            r.recipe.lanes[0].ops.push_back(stretched);
        }
        ASSERT_EQ(planPack(r)->flows, flows);
        std::ofstream(folder / "packed.png") << "what was there";
        InTheMiddle middle;
        const Work work = middle.work();
        r.cancelled = work.cancelled;
        r.progress = work.progress;
        const Outcome stopped = packToFile(r, folder / "packed.png");
        ASSERT_FALSE(stopped);
        EXPECT_EQ(stopped.error().code, "pack.cancelled");
        EXPECT_GT(middle.told, 0);
        EXPECT_EQ(contentOf(folder / "packed.png"), "what was there");
        fs::remove(folder / "packed.png");
        EXPECT_EQ(files(), before) << "nothing is left over";
        r.cancelled = nullptr;
        r.progress = nullptr;
        ASSERT_TRUE(packToFile(r, folder / "packed.png"));
        fs::remove(folder / "packed.png");
    }
}

TEST_F(Cancelling, CompressingEndsInItsMiddle) {
    const Image image = sampleColors(1024, 1024, 4);
    std::atomic<bool> stop = false;
    // From another thread, as a window does it.
    std::thread other([&] {
        std::this_thread::sleep_for(std::chrono::milliseconds(20));
        stop = true;
    });
    EncodeOptions options;
    options.cancelled = &stop;
    const auto stopped = encodeBlocks(image, BlockFormat::Astc4x4, options);
    other.join();
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().code, "compress.cancelled");
    EXPECT_TRUE(encodeBlocks(sampleColors(16, 16, 4), BlockFormat::Astc4x4, {}));
}

} // namespace
} // namespace hue
