#include "core/compress/block_format.h"

#include "core/base/work.h"
#include "core/compress/bc7.h"

#include <algorithm>
#include <array>
// Gives the functions the linkage that the shared library has.
#define ASTCENC_DYNAMIC_LIBRARY 1
#include <astcenc.h>
#include <cstring>
#include <fmt/format.h>
#include <memory>
#include <squish.h>
#include <thread>

namespace hue {

const BlockFormatInfo& infoOf(BlockFormat f) {
    static const BlockFormatInfo table[] = {
        {"plain-8", "8 bits, plain", 1, 1, 1, 4, 37, 43, 28, 29},
        {"plain-16", "16 bits, plain", 1, 1, 2, 4, 91, 0, 11, 0},
        {"half", "half, plain", 1, 1, 2, 4, 97, 0, 10, 0},
        {"bc1", "BC1", 4, 4, 8, 3, 131, 132, 71, 72},
        {"bc3", "BC3", 4, 4, 16, 4, 137, 138, 77, 78},
        {"bc4", "BC4", 4, 4, 8, 1, 139, 0, 80, 0},
        {"bc5", "BC5", 4, 4, 16, 2, 141, 0, 83, 0},
        {"bc7", "BC7", 4, 4, 16, 4, 145, 146, 98, 99},
        {"astc-4x4", "ASTC 4x4", 4, 4, 16, 4, 157, 158, 0, 0},
        {"astc-5x5", "ASTC 5x5", 5, 5, 16, 4, 161, 162, 0, 0},
        {"astc-6x6", "ASTC 6x6", 6, 6, 16, 4, 165, 166, 0, 0},
        {"astc-8x8", "ASTC 8x8", 8, 8, 16, 4, 171, 172, 0, 0},
    };
    static_assert(std::size(table) == size_t(BlockFormat::Count));
    return table[int(f)];
}

std::optional<BlockFormat> blockFormatByKey(std::string_view key) {
    for (int f = 0; f < int(BlockFormat::Count); ++f)
        if (infoOf(BlockFormat(f)).key == key) return BlockFormat(f);
    return {};
}

size_t levelBytes(BlockFormat format, int width, int height, int channels) {
    const BlockFormatInfo& f = infoOf(format);
    if (f.plain()) return size_t(width) * size_t(height) * size_t(channels) * size_t(f.bytes);
    return size_t((width + f.width - 1) / f.width) * size_t((height + f.height - 1) / f.height) * size_t(f.bytes);
}

size_t bytesWithMips(BlockFormat format, int width, int height, int channels) {
    size_t sum = 0;
    for (;; width = std::max(1, width / 2), height = std::max(1, height / 2)) {
        sum += levelBytes(format, width, height, channels);
        if (width == 1 && height == 1) return sum;
    }
}

int cardChannels(BlockFormat format, int channels) { return infoOf(format).plain() && channels == 3 ? 4 : channels; }

size_t cardBytes(BlockFormat format, int width, int height, int channels) {
    return bytesWithMips(format, width, height, cardChannels(format, channels));
}

size_t cardBytes(std::string_view format, int width, int height, int channels, SampleType type) {
    if (const auto f = blockFormatByKey(format)) return cardBytes(*f, width, height, channels);
    if (type == SampleType::F32) return 2 * cardBytes(BlockFormat::Half, width, height, channels);
    return cardBytes(type == SampleType::U8    ? BlockFormat::Plain8
                     : type == SampleType::U16 ? BlockFormat::Plain16
                                               : BlockFormat::Half,
                     width, height, channels);
}

namespace {

/// RGBA of one block; pixels beyond the edge repeat the last ones.
void gather(const Image& rgba, int bx, int by, uint8_t* out) {
    for (int y = 0; y < 4; ++y) {
        const auto* row = reinterpret_cast<const uint8_t*>(rgba.row(std::min(by * 4 + y, rgba.height - 1)));
        if (bx * 4 + 4 <= rgba.width) std::memcpy(out + y * 16, row + bx * 16, 16);
        else
            for (int x = 0; x < 4; ++x) std::memcpy(out + (y * 4 + x) * 4, row + std::min(bx * 4 + x, rgba.width - 1) * 4, 4);
    }
}

/// Rows from..to-1, spread to RGBA of 8 bits: a large map is never spread as a whole.
Image toRgba8(const Image& image, int from, int to) {
    Image out(image.width, to - from, 4, SampleType::U8);
    std::vector<float> row(size_t(image.width) * size_t(image.channels));
    std::vector<uint8_t> bytes(row.size());
    for (int y = from; y < to; ++y) {
        if (image.type == SampleType::U8) {
            std::memcpy(bytes.data(), image.row(y), bytes.size());
        } else {
            toFloats(image.type, image.row(y), row.size(), row.data());
            fromFloats(SampleType::U8, row.data(), row.size(), reinterpret_cast<std::byte*>(bytes.data()));
        }
        auto* to_ = reinterpret_cast<uint8_t*>(out.row(y - from));
        const int n = image.channels;
        for (int x = 0; x < image.width; ++x, to_ += 4) {
            const uint8_t* p = &bytes[size_t(x * n)];
            to_[0] = p[0];
            to_[1] = n < 3 ? p[0] : p[1];
            to_[2] = n < 3 ? p[0] : p[2];
            to_[3] = n == 4 ? p[3] : n == 2 ? p[1] : 255;
        }
    }
    return out;
}

bool stopped(const EncodeOptions& o) { return o.cancelled && o.cancelled->load(); }
Error cancelled() { return {"compress.cancelled", "The compression was cancelled; nothing was written.", {}}; }

/// Four bits more or less than eight are given to each of eight steps between two bytes.
void alphaPalette(int a, int b, int* p) {
    p[0] = a, p[1] = b;
    if (a > b) {
        for (int k = 1; k <= 6; ++k) p[k + 1] = ((7 - k) * a + k * b + 3) / 7;
    } else {
        for (int k = 1; k <= 4; ++k) p[k + 1] = ((5 - k) * a + k * b + 2) / 5;
        p[6] = 0, p[7] = 255;
    }
}

/// One channel of a block (BC4, and alpha of BC3): tries eight steps between the extremes, and six with 0 and 255 beside
/// them, each with its ends drawn in by a little, and keeps the best.
void encodeSteps(const uint8_t* values, uint8_t* block, Effort effort) {
    int low = 255, high = 0, innerLow = 255, innerHigh = 0;
    for (int i = 0; i < 16; ++i) {
        const int v = values[i];
        low = std::min(low, v), high = std::max(high, v);
        if (v > 0 && v < 255) innerLow = std::min(innerLow, v), innerHigh = std::max(innerHigh, v);
    }
    int bestError = 1 << 30;
    uint64_t best = 0;
    auto attempt = [&](int a, int b) {
        int palette[8];
        alphaPalette(a, b, palette);
        int error = 0;
        uint64_t bits = uint64_t(a) | uint64_t(b) << 8;
        for (int i = 0; i < 16; ++i) {
            int least = 1 << 30, at = 0;
            for (int k = 0; k < 8; ++k) {
                const int d = (palette[k] - values[i]) * (palette[k] - values[i]);
                if (d < least) least = d, at = k;
            }
            error += least;
            if (error >= bestError) return;
            bits |= uint64_t(at) << (16 + 3 * i);
        }
        bestError = error, best = bits;
    };
    if (low == high) {
        attempt(low, low);
    } else {
        const int reach = effort == Effort::Quick ? 0 : std::min(effort == Effort::Best ? 4 : 2, (high - low) / 8);
        for (int in = 0; in <= reach; ++in)
            for (int out = 0; out <= reach; ++out)
                if (high - in > low + out) attempt(high - in, low + out);
        if ((low == 0 || high == 255) && innerLow <= innerHigh) attempt(innerLow, innerHigh);
    }
    for (int k = 0; k < 8; ++k) block[k] = uint8_t(best >> (8 * k));
}

void decodeSteps(const uint8_t* block, uint8_t* out, int stride) {
    int palette[8];
    alphaPalette(block[0], block[1], palette);
    uint64_t bits = 0;
    for (int k = 0; k < 6; ++k) bits |= uint64_t(block[2 + k]) << (8 * k);
    for (int i = 0; i < 16; ++i) out[i * stride] = uint8_t(palette[(bits >> (3 * i)) & 7]);
}

/// In sixteen bits, with the fractions between the ends that a graphics card keeps (Khronos Data Format 1.3, 18.4): sevenths, or fifths
/// when the first end is not the greater.
void decodeStepsFinely(const uint8_t* block, uint16_t* out, int stride) {
    const int a = block[0], b = block[1], parts = a > b ? 7 : 5;
    uint16_t palette[8] = {uint16_t(a * 257), uint16_t(b * 257)};
    for (int k = 2; k < 8; ++k) {
        const int way = k - 1;
        palette[k] = way < parts ? uint16_t(((parts - way) * a + way * b) * 257.0 / parts + 0.5) : uint16_t(k == 6 ? 0 : 65535);
    }
    uint64_t bits = 0;
    for (int k = 0; k < 6; ++k) bits |= uint64_t(block[2 + k]) << (8 * k);
    for (int i = 0; i < 16; ++i) out[i * stride] = palette[(bits >> (3 * i)) & 7];
}

/// `always4`: the color part of BC3, which has no clear entry.
void decodeColors(const uint8_t* block, uint8_t* out, bool always4) {
    const int a = block[0] | block[1] << 8, b = block[2] | block[3] << 8;
    int palette[4][4];
    auto widen = [](int v, int* p) {
        const int r = v >> 11, g = (v >> 5) & 63, bl = v & 31;
        p[0] = (r << 3) | (r >> 2), p[1] = (g << 2) | (g >> 4), p[2] = (bl << 3) | (bl >> 2), p[3] = 255;
    };
    widen(a, palette[0]), widen(b, palette[1]);
    for (int c = 0; c < 4; ++c) {
        if (a > b || always4) {
            palette[2][c] = (2 * palette[0][c] + palette[1][c] + 1) / 3, palette[3][c] = (palette[0][c] + 2 * palette[1][c] + 1) / 3;
        } else {
            palette[2][c] = (palette[0][c] + palette[1][c] + 1) / 2, palette[3][c] = 0;
        }
    }
    for (int i = 0; i < 16; ++i) {
        const int* p = palette[(block[4 + i / 4] >> (2 * (i % 4))) & 3];
        for (int c = 0; c < 4; ++c) out[i * 4 + c] = uint8_t(p[c]);
    }
}

Bc7Effort bc7Effort(Effort effort) {
    switch (effort) {
    case Effort::Quick: return {.pairs = 1, .refinements = 1, .rotations = false, .polish = 0, .good = 0.2f};
    case Effort::Best: return {.pairs = 16, .triples = 4, .refinements = 4, .polish = 8, .good = 0.02f};
    default: return {};
    }
}

void encodeBlock(BlockFormat format, const uint8_t* rgba, uint8_t* block, const EncodeOptions& o) {
    uint8_t one[16];
    auto channel = [&](int c) {
        for (int i = 0; i < 16; ++i) one[i] = rgba[i * 4 + c];
        return one;
    };
    auto colors = [&](uint8_t* to, int kind) {
        uint8_t opaque[64];
        std::memcpy(opaque, rgba, 64);
        for (int i = 0; i < 16; ++i) opaque[i * 4 + 3] = 255;
        // What the eye sees of a color, for colors; data channels count the same.
        static float perceived[3] = {0.2126f, 0.7152f, 0.0722f}, even[3] = {1, 1, 1};
        const int fit = o.effort == Effort::Quick  ? squish::kColourRangeFit
                        : o.effort == Effort::Best ? squish::kColourIterativeClusterFit
                                                   : squish::kColourClusterFit;
        squish::CompressMasked(opaque, 0xFFFF, to, kind | fit, o.srgb ? perceived : even);
    };
    switch (format) {
    case BlockFormat::Bc1: colors(block, squish::kDxt1); break;
    case BlockFormat::Bc3:
        // Beside alpha a color block always has four steps, whatever the order of its ends.
        colors(block, squish::kDxt5);
        encodeSteps(channel(3), block, o.effort);
        break;
    case BlockFormat::Bc4: encodeSteps(channel(0), block, o.effort); break;
    case BlockFormat::Bc5:
        encodeSteps(channel(0), block, o.effort);
        encodeSteps(channel(1), block + 8, o.effort);
        break;
    default: break;
    }
}

struct AstcContext {
    astcenc_context* context = nullptr;
    ~AstcContext() {
        if (context) astcenc_context_free(context);
    }
    AstcContext() = default;
    AstcContext(const AstcContext&) = delete;
};

int threadsOf(int wanted) { return wanted > 0 ? wanted : threadsAtOnce(); }

/// Runs `work(thread number)` on so many threads.
template <class Work> void onThreads(int count, Work work) {
    std::vector<std::jthread> threads;
    for (int t = 1; t < count; ++t) threads.emplace_back([&work, t] { work(t); });
    work(0);
}

Outcome openAstc(AstcContext& to, BlockFormat format, bool srgb, Effort effort, int threads, bool decodeOnly) {
    const BlockFormatInfo& f = infoOf(format);
    astcenc_config config{};
    const float quality = effort == Effort::Quick ? ASTCENC_PRE_FAST : effort == Effort::Best ? ASTCENC_PRE_THOROUGH : ASTCENC_PRE_MEDIUM;
    if (astcenc_config_init(srgb ? ASTCENC_PRF_LDR_SRGB : ASTCENC_PRF_LDR, unsigned(f.width), unsigned(f.height), 1, quality,
                            decodeOnly ? ASTCENC_FLG_DECOMPRESS_ONLY : 0, &config) != ASTCENC_SUCCESS ||
        astcenc_context_alloc(&config, unsigned(threads), &to.context) != ASTCENC_SUCCESS)
        return Error{"compress.memory", "There is not enough memory to compress as ASTC. Close something, or choose another format.", {}};
    return Done{};
}

constexpr astcenc_swizzle kAsItIs{ASTCENC_SWZ_R, ASTCENC_SWZ_G, ASTCENC_SWZ_B, ASTCENC_SWZ_A};

} // namespace

Result<std::vector<std::byte>> encodeBlocks(const Image& image, BlockFormat format, const EncodeOptions& o) {
    const BlockFormatInfo& f = infoOf(format);
    const bool floats = image.type == SampleType::F16 || image.type == SampleType::F32;
    if (floats && format != BlockFormat::Half)
        return Error{"compress.type",
                     fmt::format("A {} map keeps its values above 1 only as half; {} would cut them off.", nameOf(image.type), f.name),
                     {}};
    if (f.plain()) {
        const SampleType type = format == BlockFormat::Plain8    ? SampleType::U8
                                : format == BlockFormat::Plain16 ? SampleType::U16
                                                                 : SampleType::F16;
        if (type == image.type) return image.samples;
        std::vector<std::byte> out(levelBytes(format, image.width, image.height, image.channels));
        forRows(image.height, o.threads, [&](int from, int to) {
            const size_t count = size_t(image.width) * size_t(image.channels);
            std::vector<float> row(count);
            for (int y = from; y < to; ++y) {
                toFloats(image.type, image.row(y), count, row.data());
                fromFloats(type, row.data(), count, out.data() + size_t(y) * count * bytesOf(type));
            }
        });
        return out;
    }
    std::vector<std::byte> out(levelBytes(format, image.width, image.height, 4));
    const int columns = (image.width + f.width - 1) / f.width, rows = (image.height + f.height - 1) / f.height;
    const size_t rowBytes = size_t(columns) * size_t(f.bytes);
    if (f.astc()) {
        const int threads = threadsOf(o.threads);
        AstcContext context;
        if (Outcome opened = openAstc(context, format, o.srgb, o.effort, threads, false); !opened) return opened.error();
        constexpr int kAtOnce = 64; // rows of blocks
        for (int first = 0; first < rows && !stopped(o); first += kAtOnce) {
            const int last = std::min(first + kAtOnce, rows);
            Image band = toRgba8(image, first * f.height, std::min(last * f.height, image.height));
            void* slice = band.samples.data();
            astcenc_image input{unsigned(band.width), unsigned(band.height), 1, ASTCENC_TYPE_U8, &slice};
            std::atomic<bool> good = true;
            onThreads(threads, [&](int t) {
                if (stopped(o)) return;
                if (astcenc_compress_image(context.context, &input, &kAsItIs,
                                           reinterpret_cast<uint8_t*>(out.data()) + size_t(first) * rowBytes,
                                           size_t(last - first) * rowBytes, unsigned(t)) != ASTCENC_SUCCESS)
                    good = false;
            });
            if (!good) return Error{"compress.memory", "The map could not be compressed as ASTC: memory ran out.", {}};
            astcenc_compress_reset(context.context);
        }
        if (stopped(o)) return cancelled();
        return out;
    }
    // BC7 is quicker with many blocks at once.
    constexpr int kAtOnce = 512, kRowsAtOnce = 8;
    auto* blocks = reinterpret_cast<uint8_t*>(out.data());
    forRows(rows, o.threads, [&](int from, int to) {
        std::vector<uint8_t> many(size_t(kAtOnce) * 64);
        for (int top = from; top < to && !stopped(o); top += kRowsAtOnce) {
            const int bottom = std::min(top + kRowsAtOnce, to);
            const Image band = toRgba8(image, top * 4, std::min(bottom * 4, image.height));
            const int last = (bottom - top) * columns;
            for (int first = 0; first < last && !stopped(o); first += kAtOnce) {
                const int count = std::min(kAtOnce, last - first);
                for (int n = 0; n < count; ++n) gather(band, (first + n) % columns, (first + n) / columns, &many[size_t(n) * 64]);
                uint8_t* at = blocks + size_t(top) * rowBytes + size_t(first) * size_t(f.bytes);
                if (format == BlockFormat::Bc7) encodeBc7(many.data(), size_t(count), at, bc7Effort(o.effort));
                else
                    for (int n = 0; n < count; ++n) encodeBlock(format, &many[size_t(n) * 64], at + size_t(n) * size_t(f.bytes), o);
            }
        }
    });
    if (stopped(o)) return cancelled();
    return out;
}

Result<Image> decodeBlocks(const std::byte* blocks, size_t bytes, BlockFormat format, int width, int height, int channels, int threads) {
    const BlockFormatInfo& f = infoOf(format);
    if (bytes < levelBytes(format, width, height, channels))
        return Error{"compress.short",
                     fmt::format("{} x {} pixels as {} take {} bytes, and there are {}.", width, height, f.name,
                                 levelBytes(format, width, height, channels), bytes),
                     {}};
    if (f.plain()) {
        Image out(width, height, channels,
                  format == BlockFormat::Plain8    ? SampleType::U8
                  : format == BlockFormat::Plain16 ? SampleType::U16
                                                   : SampleType::F16);
        std::memcpy(out.samples.data(), blocks, out.samples.size());
        return out;
    }
    const bool fine = format == BlockFormat::Bc4 || format == BlockFormat::Bc5;
    Image out(width, height, f.channels, fine ? SampleType::U16 : SampleType::U8);
    if (f.astc()) {
        const int count = threadsOf(threads);
        AstcContext context;
        if (Outcome opened = openAstc(context, format, false, Effort::Usual, count, true); !opened) return opened.error();
        void* slice = out.samples.data();
        astcenc_image output{unsigned(width), unsigned(height), 1, ASTCENC_TYPE_U8, &slice};
        onThreads(count, [&](int t) {
            astcenc_decompress_image(context.context, reinterpret_cast<const uint8_t*>(blocks), levelBytes(format, width, height, 4),
                                     &output, &kAsItIs, unsigned(t));
        });
        return out;
    }
    const int columns = (width + 3) / 4, rows = (height + 3) / 4, n = f.channels;
    forRows(rows, threads, [&](int from, int to) {
        uint8_t pixels[64];
        uint16_t finePixels[64];
        for (int by = from; by < to; ++by)
            for (int bx = 0; bx < columns; ++bx) {
                const auto* block =
                    reinterpret_cast<const uint8_t*>(blocks) + (size_t(by) * size_t(columns) + size_t(bx)) * size_t(f.bytes);
                switch (format) {
                case BlockFormat::Bc1: decodeColors(block, pixels, false); break;
                case BlockFormat::Bc3:
                    decodeColors(block + 8, pixels, true);
                    decodeSteps(block, pixels + 3, 4);
                    break;
                case BlockFormat::Bc4: decodeStepsFinely(block, finePixels, 4); break;
                case BlockFormat::Bc5:
                    decodeStepsFinely(block, finePixels, 4);
                    decodeStepsFinely(block + 8, finePixels + 1, 4);
                    break;
                default: decodeBc7(block, pixels);
                }
                const size_t sample = fine ? 2 : 1;
                const auto* decoded = fine ? reinterpret_cast<const std::byte*>(finePixels) : reinterpret_cast<const std::byte*>(pixels);
                for (int y = 0; y < 4 && by * 4 + y < height; ++y)
                    for (int x = 0; x < 4 && bx * 4 + x < width; ++x)
                        std::memcpy(out.row(by * 4 + y) + size_t(bx * 4 + x) * size_t(n) * sample, decoded + size_t(y * 4 + x) * 4 * sample,
                                    size_t(n) * sample);
            }
    });
    return out;
}

namespace {

/// With the channels that were asked for; what the format lacks is what a card reads there.
template <class Sample> void spreadChannels(const Image& from, Image& to) {
    const int have = from.channels, want = to.channels;
    for (int y = 0; y < to.height; ++y) {
        const auto* a = reinterpret_cast<const Sample*>(from.row(y));
        auto* b = reinterpret_cast<Sample*>(to.row(y));
        for (int x = 0; x < to.width; ++x, a += have, b += want)
            for (int c = 0; c < want; ++c) {
                const bool alpha = c == 3 || (want == 2 && c == 1);
                if (alpha) b[c] = have == 4 ? a[3] : have == 2 && want == 2 ? a[1] : Sample(~Sample(0));
                else b[c] = c < have ? a[c] : Sample(0);
            }
    }
}

} // namespace

Result<Image> asCompressed(const Image& image, BlockFormat format, const EncodeOptions& o) {
    const auto blocks = encodeBlocks(image, format, o);
    if (!blocks) return blocks.error();
    Result<Image> decoded = decodeBlocks(blocks->data(), blocks->size(), format, image.width, image.height, image.channels, o.threads);
    if (!decoded || decoded->channels == image.channels) return decoded;
    Image out(image.width, image.height, image.channels, decoded->type);
    if (decoded->type == SampleType::U16) spreadChannels<uint16_t>(*decoded, out);
    else spreadChannels<uint8_t>(*decoded, out);
    return out;
}

} // namespace hue
