// Block formats and their containers.
#include "core/compare/format_report.h"
#include "core/compress/bc7.h"
#include "core/compress/block_file.h"
#include "core/image_files/image_file.h"
#include "core/images/mips.h"
#include "core/maps/normal_tools.h"
#include "tests/test_folder.h"
#include "tests/test_maps.h"

#include <OpenImageIO/imageio.h>
#include <bit>
#include <cstring>
#include <fstream>
#include <hwy/targets.h>
#include <random>

namespace hue {
namespace {

using namespace test;
using BlockFiles = InFolder;

/// What OpenImageIO reads out of a DDS file, RGBA.
std::vector<uint8_t> readIndependently(const std::filesystem::path& file, int channels) {
    auto in = OIIO::ImageInput::open(file.string());
    EXPECT_TRUE(in) << OIIO::geterror();
    if (!in) return {};
    EXPECT_EQ(in->spec().nchannels, channels);
    std::vector<uint8_t> out(size_t(in->spec().width) * size_t(in->spec().height) * size_t(in->spec().nchannels));
    in->read_image(0, 0, 0, in->spec().nchannels, OIIO::TypeDesc::UINT8, out.data());
    return out;
}

TEST_F(BlockFiles, EveryModeOfBc7DecodesAsAnIndependentDecoderReadsIt) {
    std::mt19937 random(7);
    BlockMap m;
    m.format = BlockFormat::Bc7;
    m.width = m.height = 256;
    m.levels.emplace_back(levelBytes(m.format, 256, 256, 4));
    for (size_t b = 0; b < m.levels[0].size() / 16; ++b) {
        std::byte* block = &m.levels[0][b * 16];
        for (int k = 0; k < 16; ++k) block[k] = std::byte(random());
        // The lowest set bit is the mode: as many of each.
        const auto mode = unsigned(b % 8);
        block[0] = std::byte((unsigned(block[0]) & ~((2u << mode) - 1)) | (1u << mode));
    }
    ASSERT_TRUE(writeBlockFile(folder / "modes.dds", m, {}));
    const Result<Image> ours = decodeBlocks(m.levels[0].data(), m.levels[0].size(), m.format, 256, 256, 4);
    ASSERT_TRUE(ours);
    const std::vector<uint8_t> theirs = readIndependently(folder / "modes.dds", 4);
    int differing = 0;
    for (size_t i = 0; i < theirs.size(); ++i) differing += theirs[i] != uint8_t(ours->samples[i]);
    EXPECT_EQ(differing, 0);
}

TEST_F(BlockFiles, DdsOfEveryFormatIsReadBackByAnIndependentDecoder) {
    const Image photo = sampleColors(68, 52, 4);
    for (BlockFormat f : {BlockFormat::Bc1, BlockFormat::Bc3, BlockFormat::Bc4, BlockFormat::Bc5, BlockFormat::Bc7}) {
        const auto map = compressed(makeMips(photo, {}), f, {});
        ASSERT_TRUE(map) << map.error().sentence;
        const auto file = folder / (std::string(infoOf(f).key) + ".dds");
        ASSERT_TRUE(writeBlockFile(file, *map, {}));
        const Result<Image> ours = decodeBlocks(map->levels[0].data(), map->levels[0].size(), f, 68, 52, 4);
        const int channels = infoOf(f).channels == 3 ? 4 : infoOf(f).channels;
        const std::vector<uint8_t> theirs = readIndependently(file, f == BlockFormat::Bc5 ? 2 : channels);
        ASSERT_FALSE(theirs.empty());
        int worst = 0;
        for (size_t p = 0; p < size_t(68 * 52); ++p)
            for (int c = 0; c < infoOf(f).channels; ++c)
                worst = std::max(worst, std::abs(int(theirs[p * size_t(channels) + size_t(c)]) -
                                                 int(std::lround(ours->at(int(p % 68), int(p / 68), c) * 255))));
        EXPECT_LE(worst, 1) << infoOf(f).name;
    }
}

// The Khronos Data Format specification (1.3, 18.4) gives each of the eight values of a block as a fraction of its two ends.
TEST(Compress, BlocksOfOneChannelKeepTheFractionsBetweenTheirEnds) {
    for (const auto& [a, b] : {std::pair{200, 13}, {255, 0}, {10, 250}, {77, 77}}) {
        std::array<uint8_t, 8> block{uint8_t(a), uint8_t(b)};
        uint64_t codes = 0;
        for (int i = 0; i < 16; ++i) codes |= uint64_t(i % 8) << (3 * i);
        for (int k = 0; k < 6; ++k) block[size_t(2 + k)] = uint8_t(codes >> (8 * k));
        const auto image = decodeBlocks(reinterpret_cast<const std::byte*>(block.data()), 8, BlockFormat::Bc4, 4, 4, 1);
        ASSERT_TRUE(image);
        ASSERT_EQ(image->type, SampleType::U16);
        const double sevenths[] = {1, 0, 6 / 7., 5 / 7., 4 / 7., 3 / 7., 2 / 7., 1 / 7.}, fifths[] = {1, 0, 4 / 5., 3 / 5., 2 / 5., 1 / 5.};
        for (int i = 0; i < 16; ++i) {
            const int code = i % 8;
            const double wanted = a <= b && code >= 6 ? code - 6
                                  : a > b             ? (sevenths[code] * a + (1 - sevenths[code]) * b) / 255
                                                      : (fifths[code] * a + (1 - fifths[code]) * b) / 255;
            EXPECT_NEAR(image->at(i % 4, i / 4, 0), wanted, 0.51 / 65535) << a << " " << b << " " << code;
        }
    }
}

// Heights between two 8-bit levels are what the fractions are for: a ramp over one block of seven steps comes back exactly.
TEST(Compress, TheFractionsCountInTheFigure) {
    Image ramp(64, 64, 1, SampleType::U16);
    for (int y = 0; y < 64; ++y)
        for (int x = 0; x < 64; ++x) {
            const int step = (x + 4 * y) % 8;
            const auto v = uint16_t(std::lround(((7 - step) * 100 + step * 90) * 257 / 7.0));
            std::memcpy(ramp.row(y) + x * 2, &v, 2);
        }
    const auto report = reportOn(ramp, MapKind::Height, BlockFormat::Bc4, {});
    ASSERT_TRUE(report);
    EXPECT_GT(report->psnr, 62) << "rounded to 8 bits it could not be better than 59 dB";
}

TEST(Compress, TheFigureSaysWhichChannelsItSpeaksOf) {
    Image masks = sampleColors(64, 64, 3);
    EXPECT_EQ(judgedChannels(*reportOn(masks, MapKind::Color, BlockFormat::Bc7, {})), "all channels");
    for (size_t k = 2; k < masks.samples.size(); k += 3) masks.samples[k] = std::byte(76);
    const auto constant = reportOn(masks, MapKind::Data, BlockFormat::Bc1, {});
    EXPECT_EQ(judgedChannels(*constant), "red and green (blue is the same everywhere)");
    // The figure is that of the two alone.
    const double two =
        -10 * std::log10((std::pow(10, -constant->channel[0].psnr / 10) + std::pow(10, -constant->channel[1].psnr / 10)) / 2);
    EXPECT_NEAR(constant->psnr, two, 1e-6);
    const Image normals = normalsFromHeight(sampleHeight(64, 64), {1, 0.05f}, SampleType::U8);
    EXPECT_EQ(judgedChannels(*reportOn(normals, MapKind::Normal, BlockFormat::Bc5, {})), "red and green (blue follows from the others)");
    Image flat(16, 16, 1, SampleType::U8);
    EXPECT_EQ(judgedChannels(*reportOn(flat, MapKind::Data, BlockFormat::Bc4, {})), "no channel (grey is the same everywhere)");
}

TEST(Compress, EveryFormatComesCloseToTheOriginal) {
    const Image photo = sampleColors(128, 128, 4);
    const std::pair<BlockFormat, double> wanted[] = {{BlockFormat::Bc1, 32},     {BlockFormat::Bc3, 32},     {BlockFormat::Bc4, 40},
                                                     {BlockFormat::Bc5, 40},     {BlockFormat::Bc7, 38},     {BlockFormat::Astc4x4, 38},
                                                     {BlockFormat::Astc6x6, 32}, {BlockFormat::Astc8x8, 28}, {BlockFormat::Plain8, 99}};
    for (const auto& [format, least] : wanted) {
        const auto there = encodeBlocks(photo, format, {});
        ASSERT_TRUE(there) << there.error().sentence;
        const auto back = decodeBlocks(there->data(), there->size(), format, 128, 128, 4);
        ASSERT_TRUE(back);
        for (int c = 0; c < back->channels; ++c) EXPECT_GE(psnr(photo, *back, c), least) << infoOf(format).name << " channel " << c;
    }
}

TEST(Compress, Bc7GivesTheSameBlocksOnEveryInstructionSet) {
    const Image photo = sampleColors(64, 64, 4);
    const auto all = encodeBlocks(photo, BlockFormat::Bc7, {});
    for (int64_t rest = hwy::SupportedTargets(); rest; rest &= rest - 1) {
        hwy::SetSupportedTargetsForTest(rest & -rest);
        EXPECT_EQ(*all, *encodeBlocks(photo, BlockFormat::Bc7, {})) << hwy::TargetName(rest & -rest);
    }
    hwy::SetSupportedTargetsForTest(0);
}

std::vector<uint8_t> blocksOf(const Image& rgba) {
    std::vector<uint8_t> out;
    for (int y = 0; y < rgba.height; y += 4)
        for (int x = 0; x < rgba.width; x += 4)
            for (int i = 0; i < 16; ++i)
                for (int c = 0; c < 4; ++c)
                    out.push_back(uint8_t(rgba.samples[(size_t(y + i / 4) * size_t(rgba.width) + size_t(x + i % 4)) * 4 + size_t(c)]));
    return out;
}

TEST(Compress, Bc7GivesABlockTheSameBitsWhateverStandsBesideIt) {
    std::vector<uint8_t> pixels = blocksOf(sampleColors(48, 48, 4));
    const std::vector<uint8_t> masks = blocksOf(sampleMasks(48, 48));
    pixels.insert(pixels.end(), masks.begin(), masks.end());
    const size_t count = pixels.size() / 64;
    std::vector<uint8_t> together(count * 16);
    encodeBc7(pixels.data(), count, together.data(), {});
    for (size_t n = 0; n < count; n += 7) {
        uint8_t alone[16];
        encodeBc7(&pixels[n * 64], 1, alone, {});
        EXPECT_EQ(0, std::memcmp(alone, &together[n * 16], 16)) << "block " << n;
    }
}

TEST(Compress, WhatIsOpaqueStaysOpaque) {
    std::vector<uint8_t> pixels = blocksOf(sampleMasks(128, 128));
    for (size_t i = 3; i < pixels.size(); i += 4) pixels[i] = 255;
    for (const Bc7Effort& effort :
         {Bc7Effort{.pairs = 0, .refinements = 0, .polish = 0}, Bc7Effort{}, Bc7Effort{.triples = 2, .polish = 4}}) {
        std::vector<uint8_t> blocks(pixels.size() / 4);
        encodeBc7(pixels.data(), pixels.size() / 64, blocks.data(), effort);
        for (size_t n = 0; n < pixels.size() / 64; ++n) {
            uint8_t back[64];
            decodeBc7(&blocks[n * 16], back);
            for (int i = 3; i < 64; i += 4) ASSERT_EQ(back[i], 255) << "block " << n;
        }
    }
}

TEST(Compress, Bc7PutsTwoAndThreeColorsThatMeetInABlockApart) {
    // A corner where three flat colors meet, which no single line goes through.
    const uint8_t colors[3][3] = {{200, 30, 40}, {20, 180, 60}, {30, 50, 220}};
    uint8_t pixels[128], blocks[32], back[64];
    for (int b = 0; b < 2; ++b)
        for (int i = 0; i < 16; ++i) {
            const int which = i % 4 < 2 ? 0 : b == 1 && i >= 8 ? 2 : 1;
            for (int c = 0; c < 3; ++c) pixels[b * 64 + i * 4 + c] = colors[which][c];
            pixels[b * 64 + i * 4 + 3] = 255;
        }
    encodeBc7(pixels, 2, blocks, {.triples = 2});
    for (int b = 0; b < 2; ++b) {
        decodeBc7(blocks + b * 16, back);
        for (int i = 0; i < 64; ++i) EXPECT_NEAR(back[i], pixels[b * 64 + i], b ? 6 : 2) << (b ? "three" : "two") << " colors, byte " << i;
    }
}

TEST(Compress, TheBestEffortFindsAUseForEveryModeOfBc7) {
    std::vector<uint8_t> pixels = blocksOf(sampleMasks(256, 256));
    const std::vector<uint8_t> photo = blocksOf(sampleColors(256, 256, 4));
    for (size_t n = 0; n < pixels.size() / 64; ++n)
        if (n % 2)
            for (size_t i = 3; i < 64; i += 4) pixels[n * 64 + i] = 255;
    pixels.insert(pixels.end(), photo.begin(), photo.end());
    // Three things meet in a block, each with shades of its own.
    std::mt19937 random(3);
    for (int n = 0; n < 256; ++n) {
        int ends[3][2][3];
        for (auto& subset : ends)
            for (auto& end : subset)
                for (int& v : end) v = int(random() % 256);
        for (int i = 0; i < 16; ++i) {
            const auto& [from, to] = ends[bc7Subset(3, n % 16, i)];
            const int t = int(random() % 8);
            for (int c = 0; c < 3; ++c) pixels.push_back(uint8_t(from[c] + (to[c] - from[c]) * t / 7));
            pixels.push_back(255);
        }
    }
    std::vector<uint8_t> blocks(pixels.size() / 4);
    encodeBc7(pixels.data(), pixels.size() / 64, blocks.data(), {.pairs = 8, .triples = 4});
    int used[8] = {};
    for (size_t n = 0; n < blocks.size(); n += 16) ++used[std::countr_zero(blocks[n])];
    for (int mode = 0; mode < 8; ++mode) EXPECT_GT(used[mode], 0) << "mode " << mode;
}

TEST(Compress, MasksWithoutAnythingInCommonKeepEachChannel) {
    // Three unrelated masks and a fourth in alpha: what a packed map holds.
    const Image packed = sampleMasks(64, 64);
    const auto there = encodeBlocks(packed, BlockFormat::Bc7, {});
    const auto back = decodeBlocks(there->data(), there->size(), BlockFormat::Bc7, 64, 64, 4);
    for (int c = 0; c < 4; ++c) EXPECT_GE(psnr(packed, *back, c), 29) << c;
}

TEST(Compress, MoreEffortIsNeverWorse) {
    const Image photo = sampleColors(96, 96, 3);
    double before = 0;
    for (Effort e : {Effort::Quick, Effort::Usual, Effort::Best}) {
        const auto there = encodeBlocks(photo, BlockFormat::Bc7, {.effort = e});
        const auto back = decodeBlocks(there->data(), there->size(), BlockFormat::Bc7, 96, 96, 3);
        const double now = psnr(photo, *back, 0) + psnr(photo, *back, 1) + psnr(photo, *back, 2);
        EXPECT_GE(now, before);
        before = now;
    }
}

TEST(Compress, OneColorSurvivesExactlyWhereTheFormatHasTheBits) {
    Image plain(8, 8, 4, SampleType::U8);
    for (size_t i = 0; i < 64; ++i)
        for (size_t c = 0; c < 4; ++c) plain.samples[i * 4 + c] = std::byte(c == 3 ? 255 : 40 + 50 * c);
    const auto back = asCompressed(plain, BlockFormat::Bc7, {});
    ASSERT_TRUE(back);
    for (int c = 0; c < 4; ++c) EXPECT_NEAR(back->at(3, 3, c) * 255, plain.at(3, 3, c) * 255, 1.01) << c;
}

TEST(Compress, SizesWithMipsFollowTheBlocks) {
    EXPECT_EQ(bytesWithMips(BlockFormat::Bc1, 4, 4, 4), 8u * 3) << "4x4, 2x2 and 1x1 take a block each";
    EXPECT_EQ(levelBytes(BlockFormat::Astc6x6, 13, 7, 4), 16u * 3 * 2);
    EXPECT_EQ(bytesWithMips(BlockFormat::Plain8, 2, 2, 3), 12u + 3);
}

TEST(Compress, CancellingEndsWithAWord) {
    std::atomic<bool> stop = true;
    const auto there = encodeBlocks(sampleColors(64, 64, 4), BlockFormat::Bc7, {.cancelled = &stop});
    ASSERT_FALSE(there);
    EXPECT_EQ(there.error().code, "compress.cancelled");
}

TEST(Compress, ValuesAboveOneAreNotCutOffSilently) {
    const Image bright(4, 4, 3, SampleType::F32);
    EXPECT_EQ(encodeBlocks(bright, BlockFormat::Bc1, {}).error().code, "compress.type");
    EXPECT_TRUE(encodeBlocks(bright, BlockFormat::Half, {}));
}

TEST_F(BlockFiles, Ktx2KeepsEveryLevelWithAndWithoutSupercompression) {
    const auto mips = makeMips(sampleColors(40, 20, 4), {});
    for (BlockFormat f : {BlockFormat::Plain8, BlockFormat::Bc1, BlockFormat::Bc4, BlockFormat::Bc7, BlockFormat::Astc5x5})
        for (bool zstd : {false, true}) {
            const auto map = compressed(mips, f, {.srgb = true});
            ASSERT_TRUE(map);
            ASSERT_TRUE(writeBlockFile(folder / "a.ktx2", *map, {.zstd = zstd}));
            const auto back = readBlockFile(folder / "a.ktx2");
            ASSERT_TRUE(back) << back.error().sentence;
            EXPECT_EQ(back->format, f);
            EXPECT_EQ(back->srgb, infoOf(f).vulkanSrgb != 0);
            EXPECT_EQ(back->levels, map->levels) << infoOf(f).name << zstd;
        }
}

TEST_F(BlockFiles, DamagedContainersAreRefusedWithAReason) {
    const auto map = *compressed(makeMips(sampleColors(16, 16, 4), {}), BlockFormat::Bc7, {});
    for (const char* name : {"a.ktx2", "a.dds"}) {
        ASSERT_TRUE(writeBlockFile(folder / name, map, {}));
        std::ifstream in(folder / name, std::ios::binary);
        std::string whole(std::istreambuf_iterator<char>(in), {});
        auto change = [&](size_t at, uint32_t v) {
            std::string s = whole;
            std::memcpy(&s[at], &v, 4);
            std::ofstream(folder / (std::string("b") + name), std::ios::binary) << s;
            return readImage(folder / (std::string("b") + name));
        };
        for (size_t cut : {size_t(3), size_t(30), size_t(100), whole.size() - 1}) {
            std::ofstream(folder / (std::string("c") + name), std::ios::binary) << whole.substr(0, cut);
            EXPECT_FALSE(readImage(folder / (std::string("c") + name))) << name << cut;
        }
        const bool ktx = name[2] == 'k';
        EXPECT_EQ(change(ktx ? 20 : 16, 60000).error().code, "map.too-large");
        EXPECT_FALSE(change(ktx ? 20 : 16, 0));
        EXPECT_FALSE(change(ktx ? 20 : 16, 16000)) << "a large picture in a few bytes";
        EXPECT_EQ(change(ktx ? 36 : 112, ktx ? 6 : 0x200).error().code, "map.animated") << "a cube";
    }
}

} // namespace
} // namespace hue
