// Block formats: speed and quality, BC7 against ASTC 4x4 by astcenc at equal quality, and ASTC here against that program.
// All in one run. usage: bench_compress [PNG...]     further maps to try, besides the made ones
#include "bench/stones.h"
#include "core/compress/block_format.h"
#include "core/image_files/image_file.h"
#include "core/maps/normal_tools.h"

#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fmt/format.h>
#include <iterator>
#include <string>
#include <unistd.h>

namespace {

using namespace hue;
using bench::seconds;
using bench::stones;
namespace fs = std::filesystem;

double psnr(const Image& a, const Image& b) {
    double sum = 0;
    for (size_t i = 0; i < a.samples.size(); ++i) {
        const double d = double(uint8_t(a.samples[i])) - double(uint8_t(b.samples[i]));
        sum += d * d;
    }
    return 10 * std::log10(255.0 * 255.0 / (sum / double(a.samples.size())));
}

struct Point {
    double rate, quality; ///< million pixels a second, dB over four channels
};

/// One run of astcenc. What it says of itself: its coding time leaves files and start out.
void runProgram(const fs::path& png, const fs::path& out, int quality, Point& best) {
    FILE* said = popen(fmt::format("astcenc -tl '{}' '{}' 4x4 {} 2>&1", png.string(), out.string(), quality).c_str(), "r");
    char line[256];
    while (said && std::fgets(line, sizeof line, said)) {
        double x = 0;
        if (std::sscanf(line, " Coding rate: %lf", &x) == 1) best.rate = std::max(best.rate, x);
        if (std::sscanf(line, " PSNR (LDR-RGBA): %lf", &x) == 1) best.quality = x;
    }
    if (said) pclose(said);
}

/// Its speed where it reaches so much: between the nearest two of its points, in powers; its fastest where that is better already, and
/// nothing where it never gets there.
double rateAt(const std::vector<Point>& points, double quality) {
    if (quality <= points.front().quality) return points.front().rate;
    for (size_t i = 1; i < points.size(); ++i)
        if (quality <= points[i].quality) {
            const double t = (quality - points[i - 1].quality) / std::max(1e-6, points[i].quality - points[i - 1].quality);
            return points[i - 1].rate * std::pow(points[i].rate / points[i - 1].rate, t);
        }
    return 0;
}

/// Whether there is an astcenc to compare with.
bool peerIsThere() {
    static const bool there = std::system("command -v astcenc > /dev/null 2>&1") == 0;
    return there;
}

void compare(const char* name, const Image& image, const fs::path& folder) {
    const fs::path png = folder / "map.png";
    if (!writeImage(png, image, PixelEncoding::Data)) return;
    const double pixels = double(image.width) * image.height / 1e6;
    constexpr int qualities[] = {0, 10, 20, 30, 45, 60};
    std::vector<Point> points(std::size(qualities));
    Point ours[3] = {};
    // Taking turns: what slows the machine down for a while slows down all.
    for (int round = 0; round < 5; ++round) {
        for (size_t i = 0; peerIsThere() && i < points.size(); ++i) runProgram(png, folder / "back.png", qualities[i], points[i]);
        for (Effort effort : {Effort::Quick, Effort::Usual, Effort::Best}) {
            Result<std::vector<std::byte>> blocks = std::vector<std::byte>{};
            const double time = seconds(2, [&] { blocks = encodeBlocks(image, BlockFormat::Bc7, {.effort = effort}); });
            Point& point = ours[int(effort)];
            point.rate = std::max(point.rate, pixels / time);
            point.quality = psnr(image, *decodeBlocks(blocks->data(), blocks->size(), BlockFormat::Bc7, image.width, image.height, 4));
        }
    }
    const char* efforts[] = {"quick", "usual", "best"};
    if (!peerIsThere()) {
        for (size_t i = 0; i < 3; ++i)
            std::printf("%-22s BC7 %-15s %6.2f million pixels a second, %.2f dB\n", name, efforts[i], ours[i].rate, ours[i].quality);
        return;
    }
    for (size_t i = 0; i < points.size(); ++i)
        std::printf("%-22s astcenc 4x4 -%-10s %6.2f million pixels a second, %.2f dB\n", name,
                    qualities[i] == 10   ? "fast"
                    : qualities[i] == 60 ? "medium"
                                         : std::to_string(qualities[i]).c_str(),
                    points[i].rate, points[i].quality);
    // A setting that gives less in more time is no way to get there.
    for (size_t i = 1; i < points.size();)
        if (points[i].quality <= points[i - 1].quality) points.erase(points.begin() + long(i - (points[i].rate > points[i - 1].rate)));
        else ++i;
    for (size_t i = 0; i < 3; ++i) {
        const double peer = rateAt(points, ours[i].quality);
        std::printf("%-22s BC7 %-15s %6.2f million pixels a second, %.2f dB: ", name, efforts[i], ours[i].rate, ours[i].quality);
        if (peer > 0) std::printf("%.1f times as fast as astcenc at that quality\n", ours[i].rate / peer);
        else std::printf("astcenc 4x4 -medium does not reach that\n");
    }
}

/// The upper left of a map with an alpha.
Image cropped(const Image& from, int most) {
    Image out(std::min(from.width, most) & ~3, std::min(from.height, most) & ~3, 4, SampleType::U8);
    for (int y = 0; y < out.height; ++y)
        for (int x = 0; x < out.width; ++x)
            for (int c = 0; c < 4; ++c) {
                const int channel = from.channels < 3 ? (c == 3 ? 1 : 0) : c;
                out.row(y)[x * 4 + c] = channel < from.channels ? from.row(y)[x * from.channels + channel] : std::byte(255);
            }
    return out;
}

} // namespace

int main(int argc, char** argv) {
    if (!peerIsThere())
        std::printf("astcenc is not installed (Debian package astc-encoder): nothing to compare with, only our own figures follow.\n");
    const fs::path folder = fs::temp_directory_path() / ("huestack-bench-" + std::to_string(getpid()));
    fs::create_directories(folder);
    constexpr int size = 512;
    const Image masks = imageOf({stones(size, 0), stones(size, 1), stones(size, 2), stones(size, 3)}, SampleType::U8);
    Image colors = masks;
    // Colors that go together, as a photograph's do, and no alpha.
    for (size_t i = 0; i < colors.samples.size(); i += 4) {
        const int v = int(uint8_t(colors.samples[i])), w = int(uint8_t(colors.samples[i + 1]));
        colors.samples[i + 1] = std::byte((v * 7 + w) / 8);
        colors.samples[i + 2] = std::byte((v * 6 + w) / 8);
        colors.samples[i + 3] = std::byte(255);
    }
    const Image normals = cropped(normalsFromHeight(stones(size, 0), {}), size);
    compare("colors", colors, folder);
    compare("normals", normals, folder);
    compare("four unrelated masks", masks, folder);
    for (int i = 1; i < argc; ++i)
        if (const auto image = readImage(argv[i]); image && image->type == SampleType::U8)
            compare(fs::path(argv[i]).stem().c_str(), cropped(*image, size), folder);

    const Image large = imageOf({stones(2 * size, 0), stones(2 * size, 1), stones(2 * size, 2), stones(2 * size, 3)}, SampleType::U8);
    if (peerIsThere() && writeImage(folder / "masks.png", large, PixelEncoding::Data)) {
        const std::string program = fmt::format("astcenc -cl '{}' '{}' 4x4 -medium > /dev/null 2>&1", (folder / "masks.png").string(),
                                                (folder / "m.astc").string());
        int failed = 0;
        double library = 1e9, theirs = 1e9;
        for (int round = 0; round < 3; ++round) {
            library =
                std::min(library, seconds(1, [&] { (void)encodeBlocks(*readImage(folder / "masks.png"), BlockFormat::Astc4x4, {}); }));
            theirs = std::min(theirs, seconds(1, [&] { failed |= std::system(program.c_str()); }));
        }
        if (failed) std::printf("astcenc failed on the map of 1024 x 1024: nothing to compare with\n");
        else
            std::printf("ASTC 4x4 medium of a PNG of 1024 x 1024: %.2f s here, %.2f s by astcenc: %.2f times its time\n", library, theirs,
                        library / theirs);
    }
    fs::remove_all(folder);
    return 0;
}
