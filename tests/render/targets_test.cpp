// The layout of the channel targets: what one language packs, the other reads, and the other way round.
#include "core/surface/channel_targets.h"
#include "core/surface/surface_glsl.h"
#include "gl_fixture.h"
#include "preview/gl_objects.h"

#include <bit>
#include <cmath>
#include <fmt/format.h>
#include <glm/geometric.hpp>
#include <gtest/gtest.h>
#include <limits>
#include <random>

namespace hue {
namespace {

/// A part of the surface by name, as both languages have it.
struct Part {
    const char* name;
    float& (*of)(PixelSurface&);
    float low, high, step; ///< the range, and how far what comes back may lie apart; relative where low is 0 and high above 20
};
const std::vector<Part>& parts() {
    static const std::vector<Part> all{
#define HUE_WHOLE(word, part) {#part, [](PixelSurface& s) -> float& { return s.part; }, -1e6f, 1e6f, 0},
#define HUE_RANGE(word, half, part, low, high)                                                                                             \
    {#part, [](PixelSurface& s) -> float& { return s.part; }, low, high, float((high) - (low)) / 65532 * 0.51f},
#define HUE_WIDE(word, half, part) {#part, [](PixelSurface& s) -> float& { return s.part; }, 1e-6f, 1e6f, 3e-4f},
#include "core/surface/targets.def"
    };
    return all;
}

PixelSurface randomSurface(std::mt19937& random) {
    PixelSurface s;
    std::uniform_real_distribution<float> unit(0, 1);
    for (const Part& p : parts()) {
        const float u = unit(random);
        p.of(s) = p.low == 1e-6f ? std::exp2(-18 + 36 * u) : p.low + (p.high - p.low) * u;
    }
    s.flags = uint32_t(random()) & 0x3ffff;
    s.clearcoat_normal = glm::normalize(glm::vec3(unit(random), unit(random), unit(random)) * 2.f - 1.f + glm::vec3(1e-3f));
    return s;
}

void expectSame(PixelSurface& wanted, PixelSurface& got, const std::string& where) {
    for (const Part& p : parts()) {
        const float w = p.of(wanted), g = p.of(got);
        const float tolerance = p.low == 1e-6f ? w * p.step : p.step;
        ASSERT_NEAR(g, w, tolerance) << p.name << " " << where;
    }
    ASSERT_EQ(got.flags, wanted.flags) << where;
    for (int c = 0; c < 3; ++c) ASSERT_NEAR(got.clearcoat_normal[c], wanted.clearcoat_normal[c], 6e-5f) << where;
}

/// Draws one pixel of a fragment stage into integer targets, with other targets to read.
std::vector<std::array<uint32_t, 4>> onePixel(const std::string& fragment, int outputs, const PackedPixel* in = nullptr) {
    test::Gl::renderer();
    const auto program = GlProgram::link("#version 410 core\nvoid main() { gl_Position = vec4(gl_VertexID == 1 ? 3.0 : -1.0, "
                                         "gl_VertexID == 2 ? 3.0 : -1.0, 0.0, 1.0); }\n",
                                         "#version 410 core\n" + fragment);
    EXPECT_TRUE(program) << (program ? "" : program.error().sentence + fragment);
    if (!program) return {};
    GLuint buffer = 0, array = 0;
    std::vector<GLuint> to, from;
    std::vector<GLenum> attachments;
    glGenFramebuffers(1, &buffer);
    glBindFramebuffer(GL_FRAMEBUFFER, buffer);
    for (int t = 0; t < outputs; ++t) {
        to.push_back(plainTexture(GL_RGBA32UI, 1, 1));
        attachments.push_back(GLenum(GL_COLOR_ATTACHMENT0 + t));
        glFramebufferTexture2D(GL_FRAMEBUFFER, attachments.back(), GL_TEXTURE_2D, to.back(), 0);
    }
    glDrawBuffers(outputs, attachments.data());
    glDisable(GL_BLEND);
    glDisable(GL_DEPTH_TEST);
    glDisable(GL_CULL_FACE);
    glViewport(0, 0, 1, 1);
    (*program)->use();
    for (int t = 0; in && t < kAllTargets; ++t) {
        // Making a texture binds it.
        glActiveTexture(GLenum(GL_TEXTURE0 + t));
        from.push_back(plainTexture(GL_RGBA32UI, 1, 1));
        glTexSubImage2D(GL_TEXTURE_2D, 0, 0, 0, 1, 1, GL_RGBA_INTEGER, GL_UNSIGNED_INT, in->data() + t * 4);
        (*program)->set(targetSampler(t).c_str(), t);
    }
    glGenVertexArrays(1, &array);
    glBindVertexArray(array);
    glDrawArrays(GL_TRIANGLES, 0, 3);
    std::vector<std::array<uint32_t, 4>> out(static_cast<size_t>(outputs));
    for (int t = 0; t < outputs; ++t) {
        glReadBuffer(attachments[size_t(t)]);
        glReadPixels(0, 0, 1, 1, GL_RGBA_INTEGER, GL_UNSIGNED_INT, out[size_t(t)].data());
    }
    glDeleteVertexArrays(1, &array);
    glDeleteFramebuffers(1, &buffer);
    glDeleteTextures(GLsizei(to.size()), to.data());
    if (!from.empty()) glDeleteTextures(GLsizei(from.size()), from.data());
    return out;
}

TEST(ChannelTargets, WhatIsPackedComesBackWithinTheStepsOfItsPlace) {
    std::mt19937 random(3);
    for (int i = 0; i < 2000; ++i) {
        PixelSurface s = randomSurface(random), back = unpackPixel(packPixel(s));
        ASSERT_NO_FATAL_FAILURE(expectSame(s, back, fmt::format("pixel {}", i)));
    }
}

TEST(ChannelTargets, NoughtOneAndPowersOfTwoAreExact) {
    PixelSurface s;
    s.alpha = s.metallic = s.specular = 1;
    s.roughness = s.occlusion = s.clearcoat = 0;
    s.thickness = 0;
    s.attenuation_distance = 0.25f;
    s.emissive_strength = 16;
    const PixelSurface back = unpackPixel(packPixel(s));
    EXPECT_EQ(back.alpha, 1);
    EXPECT_EQ(back.metallic, 1);
    EXPECT_EQ(back.specular, 1);
    EXPECT_EQ(back.roughness, 0);
    EXPECT_EQ(back.occlusion, 0);
    EXPECT_EQ(back.clearcoat, 0);
    EXPECT_EQ(back.thickness, 0);
    EXPECT_EQ(back.attenuation_distance, 0.25f);
    EXPECT_EQ(back.emissive_strength, 16);
}

TEST(ChannelTargets, WhatIsNoNumberStaysNone) {
    for (const Part& p : parts())
        for (float broken : {std::numeric_limits<float>::quiet_NaN(), std::numeric_limits<float>::infinity()}) {
            PixelSurface s;
            p.of(s) = broken;
            PixelSurface back = unpackPixel(packPixel(s));
            EXPECT_FALSE(std::isfinite(p.of(back))) << p.name;
        }
}

TEST(ChannelTargets, NoPlaceIsTakenTwiceAndEightChannelsMoreHaveRoom) {
    // Each part alone changes bits that no other part changes.
    const PackedPixel plain = packPixel(PixelSurface{});
    PackedPixel taken{};
    for (const Part& p : parts()) {
        PackedPixel mine{};
        for (float x : {p.low, p.high, (p.low + p.high) * 0.37f}) {
            PixelSurface s;
            p.of(s) = x;
            const PackedPixel changed = packPixel(s);
            for (size_t w = 0; w < kAllWords; ++w) mine[w] |= changed[w] ^ plain[w];
        }
        for (size_t w = 0; w < kAllWords; ++w) {
            EXPECT_EQ(taken[w] & mine[w], 0u) << p.name << " lies over another part in word " << w;
            taken[w] |= mine[w];
        }
    }
    EXPECT_GE(freeHalves(), 7);
    // What is free is 0 in every pixel.
    std::mt19937 random(5);
    PackedPixel seen{};
    for (int i = 0; i < 200; ++i) {
        const PackedPixel w = packPixel(randomSurface(random));
        for (size_t k = 0; k < kAllWords; ++k) seen[k] |= w[k];
    }
    int untouched = 0;
    for (uint32_t w : seen) untouched += (w & 0xffff) == 0, untouched += (w >> 16) == 0;
    EXPECT_EQ(untouched, freeHalves());
}

TEST(ChannelTargets, TheStageThatLightsReadsWhatTheProcessorPacked) {
    std::mt19937 random(11);
    for (int i = 0; i < 6; ++i) {
        PixelSurface s = randomSurface(random);
        const PackedPixel words = packPixel(s);
        PixelSurface got;
        for (size_t first = 0; first < parts().size(); first += 32) {
            std::string stage = channelTargetsGlsl(true, false);
            const size_t end = std::min(first + 32, parts().size()), targets = (end - first + 3) / 4;
            std::string main = "void main() {\n  hs_Surface s = hs_read(ivec2(0));\n";
            for (size_t t = 0; t < targets; ++t) {
                stage += fmt::format("layout(location = {0}) out uvec4 o{0};\n", t);
                main += fmt::format("  o{} = uvec4(", t);
                for (size_t c = 0; c < 4; ++c) {
                    const size_t k = first + t * 4 + c;
                    main += (c ? ", " : "") + (k < end ? fmt::format("floatBitsToUint(s.{})", parts()[k].name) : std::string("0u"));
                }
                main += ");\n";
            }
            const auto out = onePixel(stage + main + "}\n", int(targets), &words);
            ASSERT_EQ(out.size(), targets);
            for (size_t k = first; k < end; ++k) parts()[k].of(got) = std::bit_cast<float>(out[(k - first) / 4][(k - first) % 4]);
        }
        const auto rest = onePixel(channelTargetsGlsl(true, false) +
                                       "layout(location = 0) out uvec4 o;\nvoid main() { hs_Surface s = hs_read(ivec2(0)); o = "
                                       "uvec4(s.flags, floatBitsToUint(s.clearcoat_normal)); }\n",
                                   1, &words);
        got.flags = rest[0][0];
        for (int c = 0; c < 3; ++c) got.clearcoat_normal[c] = std::bit_cast<float>(rest[0][size_t(c) + 1]);
        ASSERT_NO_FATAL_FAILURE(expectSame(s, got, fmt::format("pixel {}", i)));
    }
}

TEST(ChannelTargets, TheProcessorReadsWhatTheStageOfTheSurfaceWrote) {
    std::mt19937 random(12);
    for (const bool full : {true, false})
        for (int i = 0; i < 4; ++i) {
            PixelSurface s = randomSurface(random);
            std::string main = "void main() {\n  hs_Surface s = hs_plain();\n";
            for (const Part& p : parts()) main += fmt::format("  s.{} = uintBitsToFloat({}u);\n", p.name, std::bit_cast<uint32_t>(p.of(s)));
            for (int c = 0; c < 3; ++c)
                main +=
                    fmt::format("  s.clearcoat_normal[{}] = uintBitsToFloat({}u);\n", c, std::bit_cast<uint32_t>(s.clearcoat_normal[c]));
            main += fmt::format("  s.flags = {}u;\n  hs_write(s);\n}}\n", s.flags);
            const int targets = full ? kAllTargets : kCoreTargets;
            const auto out = onePixel(channelTargetsGlsl(full, true) + main, targets);
            ASSERT_EQ(out.size(), size_t(targets));
            const PackedPixel wanted = packPixel(s);
            PackedPixel words = wanted;
            for (size_t t = 0; t < out.size(); ++t) std::copy(out[t].begin(), out[t].end(), words.begin() + long(t) * 4);
            PixelSurface back = unpackPixel(words);
            ASSERT_NO_FATAL_FAILURE(expectSame(s, back, full ? "all targets" : "the core's"));
        }
}

} // namespace
} // namespace hue
