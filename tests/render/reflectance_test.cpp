// The reflectance model on the graphics card against the reference.
#include "core/surface/channel_targets.h"
#include "core/surface/surface_glsl.h"
#include "preview/gl_objects.h"
#include "tests/render/gl_fixture.h"

#include <cstring>
#include <random>

namespace hue {
namespace {

constexpr int kSide = 48;
constexpr size_t kCases = size_t(kSide) * kSide;

/// Runs a fragment stage over float textures, one texel a case, and gives what it writes.
std::vector<std::array<float, 4>> runStage(const std::string& fragment, const std::vector<std::vector<float>>& inputs) {
    test::Gl::renderer();
    const auto program = GlProgram::link(
        "#version 410 core\nvoid main() { gl_Position = vec4(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0, 0.0, 1.0); }\n",
        fragment);
    EXPECT_TRUE(program) << program.error().sentence;
    if (!program) return std::vector<std::array<float, 4>>(kCases);
    GlTargets targets(kSide, kSide);
    GLuint buffer = 0, texture = plainTexture(GL_RGBA32F, kSide, kSide), array = 0, table = 0;
    glGenFramebuffers(1, &buffer);
    glBindFramebuffer(GL_FRAMEBUFFER, buffer);
    glFramebufferTexture2D(GL_FRAMEBUFFER, GL_COLOR_ATTACHMENT0, GL_TEXTURE_2D, texture, 0);
    glViewport(0, 0, kSide, kSide);
    for (GLenum off : {GL_DEPTH_TEST, GL_CULL_FACE, GL_BLEND}) glDisable(off);
    (*program)->use();
    std::vector<std::unique_ptr<GlMap>> maps;
    for (size_t i = 0; i < inputs.size(); ++i) {
        std::vector<std::byte> bytes(inputs[i].size() * 4);
        std::memcpy(bytes.data(), inputs[i].data(), bytes.size());
        glActiveTexture(GLenum(GL_TEXTURE0 + i));
        maps.push_back(std::make_unique<GlMap>(Map(kSide, kSide, TexelFormat::F32, false, Wrap::Clamp, std::move(bytes))));
        maps.back()->bind(int(i));
        (*program)->set(("u_in" + std::to_string(i)).c_str(), int(i));
    }
    glActiveTexture(GL_TEXTURE15);
    glGenTextures(1, &table);
    glBindTexture(GL_TEXTURE_2D, table);
    glTexImage2D(GL_TEXTURE_2D, 0, GL_RGBA32F, kSplitSumSize, kSplitSumSize, 0, GL_RGBA, GL_FLOAT, splitSumTable().data());
    for (GLenum p : {GL_TEXTURE_WRAP_S, GL_TEXTURE_WRAP_T}) glTexParameteri(GL_TEXTURE_2D, p, GL_CLAMP_TO_EDGE);
    for (GLenum p : {GL_TEXTURE_MIN_FILTER, GL_TEXTURE_MAG_FILTER}) glTexParameteri(GL_TEXTURE_2D, p, GL_LINEAR);
    (*program)->set("u_splitSum", 15);
    glGenVertexArrays(1, &array);
    glBindVertexArray(array);
    glDrawArrays(GL_TRIANGLES, 0, 3);
    std::vector<std::array<float, 4>> out(kCases);
    glReadBuffer(GL_COLOR_ATTACHMENT0);
    glReadPixels(0, 0, kSide, kSide, GL_RGBA, GL_FLOAT, out.data());
    glDeleteVertexArrays(1, &array);
    glDeleteFramebuffers(1, &buffer);
    glDeleteTextures(1, &texture);
    glDeleteTextures(1, &table);
    return out;
}

struct Case {
    SurfacePoint point;
    Rgb view, light;
    float angle;
};

std::vector<Case> randomCases(unsigned seed) {
    std::mt19937 random(seed);
    auto r = [&] { return float(random() % 100000) / 100000.f; };
    auto some = [&](float chance) { return r() < chance ? r() : 0.f; };
    auto direction = [&](bool front) {
        const float z = front ? 0.08f + 0.92f * r() : 2 * r() - 1, phi = 6.2831853f * r(), s = std::sqrt(1 - z * z);
        return Rgb{s * std::cos(phi), s * std::sin(phi), z};
    };
    std::vector<Case> all(kCases);
    for (Case& c : all) {
        SurfacePoint& p = c.point;
        p.baseColor = {r(), r(), r()};
        p.metallic = some(0.5f);
        p.roughness = 0.1f + 0.9f * r();
        p.ior = 1 + 1.5f * r();
        p.specular = r();
        p.specularColor = {r(), r(), r()};
        p.clearcoat = some(0.4f);
        p.clearcoatRoughness = 0.1f + 0.9f * r();
        const float tilt = 0.3f * r(), turn = 6.28f * r();
        p.clearcoatNormal = {std::sin(tilt) * std::cos(turn), std::sin(tilt) * std::sin(turn), std::cos(tilt)};
        if (r() < 0.4f) p.sheenColor = {r(), r(), r()};
        p.sheenRoughness = 0.1f + 0.9f * r();
        p.iridescence = some(0.4f);
        p.iridescenceIor = 1.1f + r();
        p.iridescenceThickness = 100 + 500 * r();
        p.anisotropy = some(0.4f);
        c.angle = r();
        p.anisotropyDirection = {std::cos(6.2831853f * c.angle), std::sin(6.2831853f * c.angle), 0};
        p.transmission = some(0.5f);
        p.diffuseOnly = r() < 0.05f;
        c.view = direction(true);
        c.light = direction(false);
    }
    return all;
}

TEST(Reflectance, IsTheSameInGlslAndInTheReference) {
    const std::vector<Case> cases = randomCases(5);
    std::vector<std::vector<float>> in(8);
    for (const Case& c : cases) {
        const SurfacePoint& p = c.point;
        auto put = [&](size_t t, std::initializer_list<float> v) { in[t].insert(in[t].end(), v); };
        put(0, {p.baseColor[0], p.baseColor[1], p.baseColor[2], p.metallic});
        put(1, {p.roughness, p.ior, p.specular, p.transmission});
        put(2, {p.specularColor[0], p.specularColor[1], p.specularColor[2], p.clearcoat});
        put(3, {p.clearcoatNormal[0], p.clearcoatNormal[1], p.clearcoatNormal[2], p.clearcoatRoughness});
        put(4, {p.sheenColor[0], p.sheenColor[1], p.sheenColor[2], p.sheenRoughness});
        put(5, {p.iridescence, p.iridescenceIor, p.iridescenceThickness, p.anisotropy});
        put(6, {c.view[0], c.view[1], c.view[2], c.angle});
        put(7, {c.light[0], c.light[1], c.light[2], p.diffuseOnly ? 1.f : 0.f});
    }
    std::string fragment = "#version 410 core\n" + channelTargetsGlsl(true, false) + reflectanceGlsl();
    for (int i = 0; i < 8; ++i) fragment += "uniform sampler2D u_in" + std::to_string(i) + ";\n";
    fragment += R"(layout(location = 0) out vec4 o;
void main() {
  ivec2 p = ivec2(gl_FragCoord.xy);
  vec4 a = texelFetch(u_in0, p, 0), b = texelFetch(u_in1, p, 0), c = texelFetch(u_in2, p, 0), d = texelFetch(u_in3, p, 0);
  vec4 e = texelFetch(u_in4, p, 0), f = texelFetch(u_in5, p, 0), g = texelFetch(u_in6, p, 0), h = texelFetch(u_in7, p, 0);
  hs_Surface s = hs_read(p);
  s.base_color = a.rgb; s.metallic = a.a; s.roughness = b.x; s.ior = b.y; s.specular = b.z; s.transmission = b.w;
  s.specular_color = c.rgb; s.clearcoat = c.a; s.clearcoat_normal = d.xyz; s.clearcoat_roughness = d.a;
  s.sheen_color = e.rgb; s.sheen_roughness = e.a; s.iridescence = f.x; s.iridescence_ior = f.y; s.iridescence_thickness = f.z; s.anisotropy = f.w;
  s.normal = vec3(0.0, 0.0, 1.0); s.stretch = vec3(cos(g.w * 6.2831853), sin(g.w * 6.2831853), 0.0);
  s.flags = h.w > 0.5 ? kSimpleDiffuse : 0u;
  vec3 scattered, mirrored;
  hs_reflect(s, g.xyz, h.xyz, scattered, mirrored);
  o = vec4(scattered + mirrored, 1.0);
}
)";
    const auto out = runStage(fragment, in);
    for (size_t i = 0; i < kCases; ++i) {
        const Rgb wanted = reflect(cases[i].point, cases[i].view, cases[i].light);
        for (size_t k = 0; k < 3; ++k) ASSERT_NEAR(out[i][k], wanted[k], 1e-3f * std::max(1.f, wanted[k])) << "case " << i;
    }
}

TEST(ChannelTargets, AreReadBackAsTheyWerePacked) {
    // Packed on the CPU, read by the stage that lights: every channel comes back.
    const std::vector<Case> cases = randomCases(9);
    SurfaceSettings settings;
    for (const LayerDef& l : layers()) settings.layers |= uint32_t(l.layer);
    const SurfacePacker packer(settings, 3);
    auto index = [](std::string_view key) { return size_t(findChannel(key) - channels().data()); };
    std::vector<std::array<float, 4>> values;
    for (const ChannelDef& c : channels()) values.push_back(c.standard.v);
    values[index("iridescence_thickness")] = {512.25f};
    values[index("attenuation_distance")] = {0.125f};
    values[index("thickness")] = {7.5f};
    values[index("dispersion")] = {0.36f};
    values[index("ior")] = {2.417f};
    values[index("sheen_color")] = {0.25f, 0.5f, 0.75f, 0};
    values[index("anisotropy")] = {0.5f};
    values[index("anisotropy_rotation")] = {1.f};
    values[index("normal")] = {0, 0, 1, 0};
    values[index("clearcoat_normal")] = {0.6f, 0, 0.8f, 0};
    const PixelGeometry geometry{{1, 2, 3}, {0, 0, 1}, {1, 0, 0}, {0, 1, 0}, true};
    const PackedPixel packed = packer.pack(geometry, values);
    test::Gl::renderer();
    GlTargets targets(1, 1);
    for (int t = 0; t < kAllTargets; ++t) {
        glBindTexture(GL_TEXTURE_2D, targets.channel(t));
        glTexSubImage2D(GL_TEXTURE_2D, 0, 0, 0, 1, 1, GL_RGBA_INTEGER, GL_UNSIGNED_INT, packed.data() + t * 4);
    }
    auto read = [&](const std::string& expression) {
        const auto program = GlProgram::link("#version 410 core\nvoid main() { gl_Position = vec4(gl_VertexID == 1 ? 3.0 : -1.0, "
                                             "gl_VertexID == 2 ? 3.0 : -1.0, 0.0, 1.0); }\n",
                                             "#version 410 core\n" + channelTargetsGlsl(true, false) +
                                                 "layout(location = 0) out vec4 o; void main() { hs_Surface s = hs_read(ivec2(0)); vec3 "
                                                 "b1, b2; hs_basis(s.normal, b1, b2); o = vec4(" +
                                                 expression + "); }\n");
        EXPECT_TRUE(program) << program.error().sentence;
        GLuint buffer = 0, array = 0, texture = plainTexture(GL_RGBA32F, 1, 1);
        glGenFramebuffers(1, &buffer);
        glBindFramebuffer(GL_FRAMEBUFFER, buffer);
        glFramebufferTexture2D(GL_FRAMEBUFFER, GL_COLOR_ATTACHMENT0, GL_TEXTURE_2D, texture, 0);
        glViewport(0, 0, 1, 1);
        (*program)->use();
        for (int t = 0; t < kAllTargets; ++t) {
            glActiveTexture(GLenum(GL_TEXTURE0 + t));
            glBindTexture(GL_TEXTURE_2D, targets.channel(t));
            (*program)->set(targetSampler(t).c_str(), t);
        }
        glGenVertexArrays(1, &array);
        glBindVertexArray(array);
        glDrawArrays(GL_TRIANGLES, 0, 3);
        std::array<float, 4> out{};
        glReadPixels(0, 0, 1, 1, GL_RGBA, GL_FLOAT, out.data());
        glDeleteVertexArrays(1, &array);
        glDeleteFramebuffers(1, &buffer);
        glDeleteTextures(1, &texture);
        return out;
    };
    const auto first = read("s.thickness, s.attenuation_distance, s.iridescence_thickness, s.ior");
    EXPECT_NEAR(first[0], 7.5f, 7.5f * 4e-4f);
    EXPECT_EQ(first[1], 0.125f) << "powers of two are exact";
    EXPECT_NEAR(first[2], 512.25f, 0.02f);
    EXPECT_NEAR(first[3], 2.417f, 1e-4f);
    const auto second = read("s.sheen_color, s.dispersion");
    EXPECT_NEAR(second[1], 0.5f, 1e-4f);
    EXPECT_NEAR(second[3], 0.36f, 3e-4f);
    const auto coat = read("s.clearcoat_normal, float(s.flags >> 8u & 255u)");
    EXPECT_NEAR(coat[0], 0.6f, 1e-3f);
    EXPECT_NEAR(coat[2], 0.8f, 1e-3f);
    EXPECT_EQ(coat[3], 3);
    // Turned by one radian from the tangent +X towards +Y.
    const auto stretch = read("cos(s.angle * 6.2831853) * b1 + sin(s.angle * 6.2831853) * b2, s.anisotropy");
    EXPECT_NEAR(stretch[0], std::cos(1.f), 1e-3f);
    EXPECT_NEAR(stretch[1], std::sin(1.f), 1e-3f);
    EXPECT_NEAR(stretch[3], 0.5f, 1e-4f);
}

} // namespace
} // namespace hue
