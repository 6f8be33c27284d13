// Packing, levels and compression against the programs that do the same, in one run. usage: bench_maps [FOLDER]
// The folder (a temporary one by default) receives some 200 MB.
#include "core/compress/block_file.h"
#include "core/maps/image_file.h"
#include "core/maps/mips.h"
#include "core/pack/pack.h"
#include "core/store/map_index.h"

#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <fstream>
#include <tbb/parallel_for.h>
#include <unistd.h>

namespace {

using namespace hue;
namespace fs = std::filesystem;

double seconds(int times, const std::function<void()>& work) {
    double best = 1e9;
    for (int i = 0; i < times; ++i) {
        const auto start = std::chrono::steady_clock::now();
        work();
        best = std::min(best, std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count());
    }
    return best;
}

int run(const std::string& command) { return std::system((command + " > /dev/null 2>&1").c_str()); }

/// Stones with grain: neither flat nor pure noise, as maps are.
Plane stones(int size, int seed) {
    Plane p(size, size);
    forRows(size, 0, [&](int from, int to) {
        for (int y = from; y < to; ++y)
            for (int x = 0; x < size; ++x) {
                const float u = float(x) / float(size) * 6.2831853f, v = float(y) / float(size) * 6.2831853f, k = float(seed);
                uint32_t h = uint32_t(x) * 0x9E3779B1u ^ uint32_t(y) * 0x85EBCA77u ^ uint32_t(seed) * 0xC2B2AE3Du;
                h = (h ^ (h >> 15)) * 0x2C1B3C6Du;
                const float grain = float((h ^ (h >> 13)) >> 8) / 16777216.f - 0.5f;
                p.at(x, y) = 0.5f + 0.2f * std::sin(9 * u + k + std::sin(7 * v)) * std::sin(11 * v + k) +
                             0.12f * std::sin(40 * u + 3 * std::sin(13 * v + k)) + 0.06f * grain;
            }
    });
    return p;
}

double psnr(const Image& a, const Image& b) {
    double sum = 0;
    for (size_t i = 0; i < a.samples.size(); ++i) {
        const double d = double(uint8_t(a.samples[i])) - double(uint8_t(b.samples[i]));
        sum += d * d;
    }
    return 10 * std::log10(255.0 * 255.0 / (sum / double(a.samples.size())));
}

} // namespace

int main(int argc, char** argv) {
    const fs::path folder = argc > 1 ? fs::path(argv[1]) : fs::temp_directory_path() / ("huestack-bench-" + std::to_string(getpid()));
    fs::create_directories(folder);
    constexpr int size = 4096;
    const char* roles[] = {"occlusion", "roughness", "metallic", "height"};
    std::string files;
    {
        for (int l = 0; l < 4; ++l) {
            const fs::path file = folder / (std::string(roles[l]) + ".png");
            if (!writeImage(file, imageOf({stones(size, l)}, SampleType::U8), PixelEncoding::Data)) return 2;
            files += " " + file.string();
        }
    }
    PackRequest request;
    request.recipe = *findRecipe("ormh");
    for (const char* role : roles) request.sources[role] = {folder / (std::string(role) + ".png"), MapKind::Data};
    const double ours = seconds(3, [&] { (void)packToFile(request, folder / "ours.png"); });
    const double theirs = seconds(2, [&] {
        run("oiiotool" + files + " --chappend --chappend --chappend --chnames R,G,B,A -d uint8 -o " + (folder / "theirs.png").string());
    });
    std::printf("pack four 4096 x 4096 grey PNGs into one RGBA PNG: %.2f s (%.1f MB file); oiiotool %.2f s (%.1f MB): %.1f times as fast\n",
                ours, double(fs::file_size(folder / "ours.png")) / 1e6, theirs, double(fs::file_size(folder / "theirs.png")) / 1e6,
                theirs / ours);
    std::printf("  planned working memory %.1f MB (the pixels of the result are %.1f MB)\n", double(planPack(request)->workingBytes) / 1e6,
                double(size) * size * 4 / 1e6);

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

    // A quarter of the map, so that a run stays short.
    const Image quarter = resized(rgba, 1024, 1024, Filter::Box);
    const double pixels = 1024.0 * 1024 / 1e6;
    struct Row {
        const char* name;
        BlockFormat format;
        Effort effort;
    };
    for (const Row& r :
         {Row{"BC7 quick", BlockFormat::Bc7, Effort::Quick}, Row{"BC7 usual", BlockFormat::Bc7, Effort::Usual},
          Row{"BC7 best", BlockFormat::Bc7, Effort::Best}, Row{"ASTC 4x4 fast", BlockFormat::Astc4x4, Effort::Quick},
          Row{"ASTC 4x4 medium", BlockFormat::Astc4x4, Effort::Usual}, Row{"ASTC 6x6 medium", BlockFormat::Astc6x6, Effort::Usual},
          Row{"BC1", BlockFormat::Bc1, Effort::Usual}, Row{"BC5", BlockFormat::Bc5, Effort::Usual}})
        for (const bool opaque : {true, false}) {
            Image image = quarter;
            if (opaque) {
                // Colors that go together, as a photograph's do, and no alpha.
                for (size_t i = 0; i < image.samples.size(); i += 4) {
                    const int v = int(uint8_t(image.samples[i])), w = int(uint8_t(image.samples[i + 1]));
                    image.samples[i + 1] = std::byte((v * 7 + w) / 8);
                    image.samples[i + 2] = std::byte((v * 6 + w) / 8);
                    image.samples[i + 3] = std::byte(255);
                }
            }
            Result<std::vector<std::byte>> blocks = std::vector<std::byte>{};
            const double time = seconds(2, [&] { blocks = encodeBlocks(image, r.format, {.effort = r.effort}); });
            const auto back = asCompressed(image, r.format, {.effort = r.effort});
            std::printf("%-16s %-14s %6.2f million pixels a second, %.2f dB\n", r.name, opaque ? "colors" : "four masks", pixels / time,
                        psnr(image, *back));
        }
    if (run("astcenc -help") == 0 || run("astcenc -version") == 0) {
        if (!writeImage(folder / "quarter.png", quarter, PixelEncoding::Data)) return 2;
        const double library = seconds(3, [&] { (void)encodeBlocks(*readImage(folder / "quarter.png"), BlockFormat::Astc4x4, {}); });
        const double program = seconds(
            3, [&] { run("astcenc -cl " + (folder / "quarter.png").string() + " " + (folder / "q.astc").string() + " 4x4 -medium"); });
        std::printf("ASTC 4x4 medium of a PNG of 1024 x 1024: %.2f s here, %.2f s by astcenc: %.2f times its time\n", library, program,
                    library / program);
    }

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
