// How channels are written to and read from the targets, in GLSL; the twin of channel_targets.cpp, from the same targets.def.
#include "core/surface/channel_targets.h"
#include "core/surface/surface_glsl.h"

#include <array>
#include <fmt/format.h>

namespace hue {
namespace {

constexpr const char* kComponents = "xyzw";

/// Both ways of a word: the sum of what is put into it, and what is taken out of it.
struct Words {
    std::array<std::string, kAllWords> put;
    std::string fields, standards;
    std::array<std::string, kAllTargets> take;

    void part(size_t word, const std::string& in, const std::string& part, const std::string& out) {
        put[word] += (put[word].empty() ? "" : " | ") + in;
        take[word / 4] += fmt::format("  s.{} = {};\n", part, out);
    }
    static std::string at(size_t word) { return fmt::format("w.{}", kComponents[word % 4]); }
    static std::string half(size_t word, int half) { return half ? at(word) + " >> 16" : at(word) + " & 65535u"; }
};

Words words() {
    Words w;
#define HUE_FIELD(type, name, standard)                                                                                                    \
    w.fields += "  " #type " " #name ";\n";                                                                                                \
    w.standards += "  s." #name " = " #standard ";\n";
#define HUE_WHOLE(word, name) w.part(word, "floatBitsToUint(s." #name ")", #name, "uintBitsToFloat(" + Words::at(word) + ")");
#define HUE_FLAGS(word, name) w.part(word, "s." #name, #name, Words::at(word));
#define HUE_RANGE(word, which, name, low, high)                                                                                            \
    w.part(word, "hs_range(s." #name ", " #low ", " #high ")" + std::string((which) ? " << 16" : ""), #name,                               \
           "hs_ofRange(" + Words::half(word, which) + ", " #low ", " #high ")");
#define HUE_WIDE(word, which, name)                                                                                                        \
    w.part(word, "hs_wide(s." #name ")" + std::string((which) ? " << 16" : ""), #name, "hs_ofWide(" + Words::half(word, which) + ")");
#define HUE_DIRECTION(word, name) w.part(word, "hs_octahedral(s." #name ")", #name, "hs_ofOctahedral(" + Words::at(word) + ")");
#include "core/surface/targets.def"
    return w;
}

} // namespace

std::string targetSampler(int target) { return fmt::format("u_target{}", target); }

std::string channelTargetsGlsl(bool full, bool writes) {
    static const Words all = words();
    const size_t targets = full ? kAllTargets : kCoreTargets;
    std::string out = full ? "#define HS_FULL\n" : "";
    out += "struct hs_Surface {\n" + all.fields + "  uint flags;\n  vec3 stretch; // from the angle, where light needs it\n};\n";
    out += fmt::format("const uint kCovered = {}u, kUnlit = {}u, kFrontFace = {}u, kSimpleDiffuse = {}u, kSolid = {}u, "
                       "kHighlightsStay = {}u, kBlend = {}u, kBroken = {}u, kOutside = {}u;\n",
                       uint32_t(kCovered), uint32_t(kUnlit), uint32_t(kFrontFace), uint32_t(kSimpleDiffuse), uint32_t(kSolid),
                       uint32_t(kHighlightsStay), uint32_t(kBlend), uint32_t(kBroken), uint32_t(kOutside));
    out += R"(vec2 hs_signs(vec2 v) { return vec2(v.x >= 0.0 ? 1.0 : -1.0, v.y >= 0.0 ? 1.0 : -1.0); }
// Duff and others, "Building an Orthonormal Basis, Revisited", 2017.
void hs_basis(vec3 n, out vec3 b1, out vec3 b2) {
  float s = n.z >= 0.0 ? 1.0 : -1.0, a = -1.0 / (s + n.z), b = n.x * n.y * a;
  b1 = vec3(1.0 + s * n.x * n.x * a, s * b, -s * n.x);
  b2 = vec3(b, s + n.y * n.y * a, -n.y);
}
hs_Surface hs_plain() {
  hs_Surface s;
)" + all.standards +
           "  s.flags = 0u;\n  s.stretch = vec3(1.0, 0.0, 0.0);\n  return s;\n}\n";
    if (writes) {
        out += R"(uint hs_range(float x, float low, float high) {
  if (isnan(x) || isinf(x)) return 65535u;
  return uint(clamp((x - low) / (high - low), 0.0, 1.0) * 65532.0 + 0.5);
}
uint hs_wide(float x) {
  if (isnan(x) || isinf(x)) return 65535u;
  return x <= 0.0 ? 0u : uint(clamp(log2(x) * 1365.0 + 32768.5, 1.0, 65532.0));
}
uint hs_octahedral(vec3 n) {
  n /= abs(n.x) + abs(n.y) + abs(n.z);
  vec2 p = n.z >= 0.0 ? n.xy : (1.0 - abs(n.yx)) * hs_signs(n.xy);
  return packUnorm2x16(p * 0.5 + 0.5);
}
)";
        std::string body;
        for (size_t t = 0; t < targets; ++t) {
            out += fmt::format("layout(location = {0}) out uvec4 o_target{0};\n", t);
            std::array<std::string, 4> parts;
            for (size_t c = 0; c < 4; ++c) parts[c] = all.put[t * 4 + c].empty() ? "0u" : all.put[t * 4 + c];
            body += fmt::format("  o_target{} = uvec4({});\n", t, fmt::join(parts, ", "));
        }
        return out + "void hs_write(hs_Surface s) {\n" + body + "}\n";
    }
    out += R"(float hs_ofRange(uint code, float low, float high) {
  return code == 65535u ? uintBitsToFloat(0x7fc00000u) : low + float(code) / 65532.0 * (high - low);
}
float hs_ofWide(uint code) {
  if (code == 65535u) return uintBitsToFloat(0x7fc00000u);
  return code == 0u ? 0.0 : exp2((float(code) - 32768.0) / 1365.0);
}
vec3 hs_ofOctahedral(uint code) {
  vec2 p = unpackUnorm2x16(code) * 2.0 - 1.0;
  vec3 n = vec3(p, 1.0 - abs(p.x) - abs(p.y));
  if (n.z < 0.0) n.xy = (1.0 - abs(n.yx)) * hs_signs(n.xy);
  return normalize(n);
}
)";
    std::string body;
    for (size_t t = 0; t < targets; ++t) {
        out += fmt::format("uniform usampler2D {};\n", targetSampler(int(t)));
        body += fmt::format("  w = texelFetch({}, at, 0);\n{}", targetSampler(int(t)), all.take[t]);
    }
    return out + "hs_Surface hs_read(ivec2 at) {\n  hs_Surface s = hs_plain();\n  uvec4 w;\n" + body + "  return s;\n}\n";
}

} // namespace hue
