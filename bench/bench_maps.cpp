// Packing and levels against the programs that do the same, and many maps at once, in one run. usage: bench_maps [FOLDER]
// The folder (a temporary one by default) receives some 200 MB.
#include "bench/stones.h"
#include "core/compress/block_file.h"
#include "core/image_files/image_file.h"
#include "core/images/mips.h"
#include "core/pack/pack.h"
#include "core/project/map_index.h"

#include <cstdio>
#include <cstdlib>
#include <sys/resource.h>
#include <sys/wait.h>
#include <tbb/parallel_for.h>
#include <unistd.h>

namespace {

using namespace hue;
using bench::seconds;
using bench::stones;
namespace fs = std::filesystem;

/// The most memory that work takes beside what a process takes anyway, MB. In a process of its own: before this one has threads.
double peak(const std::function<void()>& work) {
    auto most = [](const std::function<void()>& inside) {
        const pid_t child = fork();
        if (child == 0) {
            inside();
            _exit(0);
        }
        rusage usage{};
        wait4(child, nullptr, 0, &usage);
        return double(usage.ru_maxrss) * 1024 / 1e6;
    };
    const double idle = most([] { forRows(64, 0, [](int, int) {}); });
    return most(work) - idle;
}

int run(const std::string& command) { return std::system((command + " > /dev/null 2>&1").c_str()); }

} // namespace

int main(int argc, char** argv) {
    const fs::path folder = argc > 1 ? fs::path(argv[1]) : fs::temp_directory_path() / ("huestack-bench-" + std::to_string(getpid()));
    fs::create_directories(folder);
    constexpr int size = 4096;
    const char* roles[] = {"occlusion", "roughness", "metallic", "height"};
    std::string files;
    for (int l = 0; l < 4; ++l) files += " " + (folder / (std::string(roles[l]) + ".png")).string();
    peak([&] {
        for (int l = 0; l < 4; ++l)
            (void)writeImage(folder / (std::string(roles[l]) + ".png"), imageOf({stones(size, l)}, SampleType::U8), PixelEncoding::Data);
        (void)writeImage(folder / "small.png", imageOf({stones(size / 2, 5)}, SampleType::U8), PixelEncoding::Data);
    });
    PackRequest request;
    request.recipe = *findRecipe("ormh");
    for (const char* role : roles) request.sources[role] = {folder / (std::string(role) + ".png"), MapKind::Data};
    PackRequest mixed = request;
    mixed.sources["metallic"].file = folder / "small.png";
    std::printf("memory of packing four 4096 x 4096 maps to a file, whose pixels are %.1f MB:\n", double(size) * size * 4 / 1e6);
    for (const auto& [name, r] : {std::pair("of one size", &request), std::pair("one of half the size", &mixed)})
        std::printf("  %-22s %6.1f MB at most, planned %.1f MB\n", name, peak([&, r = r] { (void)packToFile(*r, folder / "peak.png"); }),
                    double(planPack(*r)->workingBytes) / 1e6);
    PackRequest blurred = request;
    blurred.recipe.lanes[1].ops.push_back({LaneOp::Kind::Blur});
    std::printf("  %-22s %6.1f MB at most, planned %.1f MB besides the result\n", "one of them blurred",
                peak([&] { (void)packToFile(blurred, folder / "peak.png"); }), double(planPack(blurred)->workingBytes) / 1e6);

    const double ours = seconds(3, [&] { (void)packToFile(request, folder / "ours.png"); });
    const double theirs = seconds(2, [&] {
        run("oiiotool" + files + " --chappend --chappend --chappend --chnames R,G,B,A -d uint8 -o " + (folder / "theirs.png").string());
    });
    std::printf("pack four 4096 x 4096 grey PNGs into one RGBA PNG: %.2f s (%.1f MB file); oiiotool %.2f s (%.1f MB): %.1f times as fast\n",
                ours, double(fs::file_size(folder / "ours.png")) / 1e6, theirs, double(fs::file_size(folder / "theirs.png")) / 1e6,
                theirs / ours);
    const Image rgba = *readImage(folder / "ours.png");
    const double mips = seconds(5, [&] { makeMips(rgba, {}); }), light = seconds(5, [&] { makeMips(rgba, {.encoded = true}); });
    const double file = seconds(3, [&] {
        const auto image = readImage(folder / "ours.png");
        const auto map = compressed(makeMips(*image, {}), BlockFormat::Plain8, {});
        (void)writeBlockFile(folder / "ours.ktx2", *map, {});
    });
    const double tx = seconds(2, [&] { run("oiiotool " + (folder / "ours.png").string() + " -otex " + (folder / "theirs.tx").string()); });
    std::printf("levels of a 4096 x 4096 RGBA map: %.3f s linear, %.3f s as light; read, made and written %.2f s; oiiotool %.2f s: %.1f "
                "times as fast\n",
                mips, light, file, tx, tx / file);

    // Two hundred maps of 2048 x 2048; every twentieth is a file of its own, the rest are links to it.
    fs::create_directories(folder / "many");
    std::vector<fs::path> many;
    for (int i = 0; i < 200; ++i) {
        many.push_back(folder / "many" / ("map_" + std::to_string(i) + ".png"));
        std::error_code none;
        if (i % 20 == 0)
            (void)writeImage(many.back(), imageOf({stones(2048, i), stones(2048, i + 1), stones(2048, i + 2)}, SampleType::U8),
                             PixelEncoding::Data);
        else fs::create_hard_link(many[size_t(i / 20 * 20)], many.back(), none);
    }
    auto lookAtAll = [&](MapIndex& index) {
        return seconds(1, [&] { tbb::parallel_for(size_t(0), many.size(), [&](size_t i) { index.look(many[i]); }); });
    };
    MapIndex cold(folder / "cache");
    const double first = lookAtAll(cold);
    MapIndex warm(folder / "cache");
    std::printf("facts and thumbnails of 200 maps of 2048 x 2048: %.1f s the first time (in the background), %.3f s from the cache\n",
                first, lookAtAll(warm));
    if (argc < 2) fs::remove_all(folder);
    return 0;
}
