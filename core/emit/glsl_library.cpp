// The functions that emitted GLSL calls. The noises are twins of core/evaluate/kernels_noise-inl.h.
#include "core/emit/emit_glsl.h"

#include <fmt/format.h>

namespace hue {
namespace {

struct LibraryPart {
    std::string_view name;
    std::string text;
    std::vector<std::string_view> needs;
};

enum class Points { Still, Moving };
enum class Lattice { Endless, Seamless };

/// The distance to the nearest feature point, in two or three dimensions.
std::string worleyText(std::string_view name, int dimensions, Points points, Lattice lattice) {
    const bool flat = dimensions == 2, seamless = lattice == Lattice::Seamless, moving = points == Points::Moving;
    const std::string_view cell = seamless ? "hs_wrap(f + at, period)" : flat ? "ivec2(f + at)" : "ivec3(f + at)";
    std::string out = fmt::format("float {}vec{} p, float jitter{}{}) {{\n", name, dimensions, moving ? ", float turns" : "",
                                  seamless ? ", vec2 period" : "");
    out += fmt::format("  vec{0} f = floor(p), d = p - f;\n  float nearest = 64.0;\n", dimensions);
    if (!flat) out += "  for (int z = -1; z <= 1; ++z)\n";
    out += "  for (int y = -1; y <= 1; ++y)\n    for (int x = -1; x <= 1; ++x) {\n";
    out += fmt::format("      vec{} at = vec{}(x, y{});\n", dimensions, dimensions, flat ? "" : ", z");
    out += fmt::format("      vec{} random = {} - 0.5;\n", dimensions,
                       flat ? fmt::format("hs_halves(hs_hash({})) * (1.0 / 65535.0)", cell)
                            : fmt::format("hs_tens(hs_mix3({})) * (1.0 / 1023.0)", cell));
    if (moving) out += "      random = sin((random + turns) * 6.28318531) * 0.5;\n";
    out += fmt::format("      vec{} way = at + 0.5 + random * jitter - d;\n", dimensions);
    return out + "      nearest = min(nearest, dot(way, way));\n    }\n  return sqrt(nearest);\n}\n";
}

// Order matters: a part stands after what it needs.
const std::vector<LibraryPart>& parts() {
    static const std::vector<LibraryPart> all = {
        {"hs_less",
         R"(float hs_less(float a, float b) { return a < b ? 1.0 : 0.0; }
vec2 hs_less(vec2 a, vec2 b) { return vec2(lessThan(a, b)); }
vec3 hs_less(vec3 a, vec3 b) { return vec3(lessThan(a, b)); }
vec4 hs_less(vec4 a, vec4 b) { return vec4(lessThan(a, b)); }
)",
         {}},
        {"hs_select",
         R"(float hs_select(float a, float b, float c) { return a > 0.0 ? b : c; }
vec2 hs_select(vec2 a, vec2 b, vec2 c) { return mix(c, b, greaterThan(a, vec2(0.0))); }
vec3 hs_select(vec3 a, vec3 b, vec3 c) { return mix(c, b, greaterThan(a, vec3(0.0))); }
vec4 hs_select(vec4 a, vec4 b, vec4 c) { return mix(c, b, greaterThan(a, vec4(0.0))); }
)",
         {}},
        // Anything to the power 0 is 1, 0 as well, which GLSL leaves open.
        {"hs_pow",
         R"(float hs_pow(float a, float b) { return b == 0.0 ? 1.0 : pow(max(a, 0.0), b); }
vec2 hs_pow(vec2 a, vec2 b) { return vec2(hs_pow(a.x, b.x), hs_pow(a.y, b.y)); }
vec3 hs_pow(vec3 a, vec3 b) { return vec3(hs_pow(a.xy, b.xy), hs_pow(a.z, b.z)); }
vec4 hs_pow(vec4 a, vec4 b) { return vec4(hs_pow(a.xy, b.xy), hs_pow(a.zw, b.zw)); }
)",
         {}},
        // The angle of no direction is 0, which GLSL leaves open.
        {"hs_atan2",
         R"(float hs_atan2(float y, float x) { return x == 0.0 && y == 0.0 ? 0.0 : atan(y, x); }
vec2 hs_atan2(vec2 y, vec2 x) { return vec2(hs_atan2(y.x, x.x), hs_atan2(y.y, x.y)); }
vec3 hs_atan2(vec3 y, vec3 x) { return vec3(hs_atan2(y.xy, x.xy), hs_atan2(y.z, x.z)); }
vec4 hs_atan2(vec4 y, vec4 x) { return vec4(hs_atan2(y.xy, x.xy), hs_atan2(y.zw, x.zw)); }
)",
         {}},
        {"hs_smooth",
         R"(float hs_smooth(float x, float low, float high) {
  if (!(high > low)) return x >= low ? 1.0 : 0.0;
  float t = clamp((x - low) / (high - low), 0.0, 1.0);
  return t * t * (3.0 - (t + t));
}
vec2 hs_smooth(vec2 x, vec2 l, vec2 h) { return vec2(hs_smooth(x.x, l.x, h.x), hs_smooth(x.y, l.y, h.y)); }
vec3 hs_smooth(vec3 x, vec3 l, vec3 h) { return vec3(hs_smooth(x.xy, l.xy, h.xy), hs_smooth(x.z, l.z, h.z)); }
vec4 hs_smooth(vec4 x, vec4 l, vec4 h) { return vec4(hs_smooth(x.xy, l.xy, h.xy), hs_smooth(x.zw, l.zw, h.zw)); }
)",
         {}},
        {"hs_normalize",
         R"(float hs_normalize(float v) { return sign(v); }
vec2 hs_normalize(vec2 v) { float d = dot(v, v); return d > 0.0 ? v / sqrt(d) : vec2(0.0); }
vec3 hs_normalize(vec3 v) { float d = dot(v, v); return d > 0.0 ? v / sqrt(d) : vec3(0.0); }
vec4 hs_normalize(vec4 v) { float d = dot(v, v); return d > 0.0 ? v / sqrt(d) : vec4(0.0); }
)",
         {}},
        {"hs_hash",
         R"(uint hs_hash(ivec2 p) {
  uint h = uint(p.x) * 0x8DA6B343u + uint(p.y) * 0xD8163841u;
  h = (h ^ (h >> 15)) * 0x2C1B3C6Du;
  h = (h ^ (h >> 12)) * 0x297A2D39u;
  return h ^ (h >> 15);
}
vec2 hs_halves(uint h) { return vec2(float(h & 0xFFFFu), float(h >> 16)); }
)",
         {}},
        {"hs_cell2",
         R"(float hs_cell2(vec2 p) { return float(hs_hash(ivec2(floor(p))) >> 8) * (1.0 / 16777216.0); }
)",
         {"hs_hash"}},
        {"hs_noise2",
         R"(float hs_corner(ivec2 i, vec2 d) { return dot(hs_halves(hs_hash(i)) * (1.0 / 32767.5) - 1.0, d); }
float hs_noise2(vec2 p) {
  vec2 f = floor(p), d = p - f;
  ivec2 i = ivec2(f);
  float a = hs_corner(i, d), b = hs_corner(i + ivec2(1, 0), d - vec2(1.0, 0.0));
  float c = hs_corner(i + ivec2(0, 1), d - vec2(0.0, 1.0)), e = hs_corner(i + ivec2(1, 1), d - vec2(1.0));
  vec2 s = d * d * d * (d * (d * 6.0 - 15.0) + 10.0);
  return mix(mix(a, b, s.x), mix(c, e, s.x), s.y) * 1.2;
}
)",
         {"hs_hash"}},
        {"hs_wrap",
         R"(ivec2 hs_wrap(vec2 cell, vec2 period) { return ivec2(cell - period * floor((cell + 0.5) / period)); }
)",
         {}},
        {"hs_cell2s",
         R"(float hs_cell2s(vec2 p, vec2 period) { return float(hs_hash(hs_wrap(floor(p), period)) >> 8) * (1.0 / 16777216.0); }
)",
         {"hs_hash", "hs_wrap"}},
        {"hs_noise2s",
         R"(float hs_cornerS(ivec2 i, vec2 d) { return dot(hs_halves(hs_hash(i)) * (1.0 / 32767.5) - 1.0, d); }
float hs_noise2s(vec2 p, vec2 period) {
  vec2 f = floor(p), d = p - f;
  ivec2 i = hs_wrap(f, period), k = hs_wrap(f + 1.0, period);
  float a = hs_cornerS(i, d), b = hs_cornerS(ivec2(k.x, i.y), d - vec2(1.0, 0.0));
  float c = hs_cornerS(ivec2(i.x, k.y), d - vec2(0.0, 1.0)), e = hs_cornerS(k, d - vec2(1.0));
  vec2 s = d * d * d * (d * (d * 6.0 - 15.0) + 10.0);
  return mix(mix(a, b, s.x), mix(c, e, s.x), s.y) * 1.2;
}
)",
         {"hs_hash", "hs_wrap"}},
        {"hs_mix3",
         R"(uint hs_mix3(ivec3 p) {
  uint h = uint(p.x) * 0x8DA6B343u + uint(p.y) * 0xD8163841u + uint(p.z) * 0xCB1AB31Fu;
  h = (h ^ (h >> 15)) * 0x2C1B3C6Du;
  h = (h ^ (h >> 12)) * 0x297A2D39u;
  return h ^ (h >> 15);
}
vec3 hs_tens(uint h) { return vec3(float(h & 1023u), float((h >> 10) & 1023u), float((h >> 20) & 1023u)); }
)",
         {}},
        {"hs_worley2(", worleyText("hs_worley2(", 2, Points::Still, Lattice::Endless), {"hs_hash"}},
        {"hs_worley2m(", worleyText("hs_worley2m(", 2, Points::Moving, Lattice::Endless), {"hs_hash"}},
        {"hs_worley2s(", worleyText("hs_worley2s(", 2, Points::Still, Lattice::Seamless), {"hs_hash", "hs_wrap"}},
        {"hs_worley2ms(", worleyText("hs_worley2ms(", 2, Points::Moving, Lattice::Seamless), {"hs_hash", "hs_wrap"}},
        {"hs_worley3(", worleyText("hs_worley3(", 3, Points::Still, Lattice::Endless), {"hs_mix3"}},
        {"hs_worley3m(", worleyText("hs_worley3m(", 3, Points::Moving, Lattice::Endless), {"hs_mix3"}},
        {"hs_cell3",
         R"(float hs_cell3(vec3 p) { return float(hs_mix3(ivec3(floor(p))) >> 8) * (1.0 / 16777216.0); }
)",
         {"hs_mix3"}},
        {"hs_noise3",
         R"(float hs_corner3(ivec3 i, vec3 d) { return dot(hs_tens(hs_mix3(i)) * (1.0 / 511.5) - 1.0, d); }
float hs_noise3(vec3 p) {
  vec3 f = floor(p), d = p - f;
  ivec3 i = ivec3(f);
  vec4 row[2];
  for (int z = 0; z < 2; ++z) {
    row[z].x = hs_corner3(i + ivec3(0, 0, z), d - vec3(0.0, 0.0, float(z)));
    row[z].y = hs_corner3(i + ivec3(1, 0, z), d - vec3(1.0, 0.0, float(z)));
    row[z].z = hs_corner3(i + ivec3(0, 1, z), d - vec3(0.0, 1.0, float(z)));
    row[z].w = hs_corner3(i + ivec3(1, 1, z), d - vec3(1.0, 1.0, float(z)));
  }
  vec3 s = d * d * d * (d * (d * 6.0 - 15.0) + 10.0);
  vec2 near = mix(row[0].xz, row[0].yw, s.x), far = mix(row[1].xz, row[1].yw, s.x);
  return mix(mix(near.x, near.y, s.y), mix(far.x, far.y, s.y), s.z) * 1.2;
}
)",
         {"hs_mix3"}},
        {"hs_fractal3",
         R"(float hs_fractal3(vec3 p, float lacunarity, float diminish, int octaves) {
  float sum = 0.0, weights = 0.0, weight = 1.0;
  for (int o = 0; o < octaves; ++o) {
    sum += hs_noise3(p) * weight;
    weights += weight;
    weight *= diminish;
    p = p * lacunarity + vec3(17.25, 5.75, 11.5);
  }
  return sum / weights;
}
)",
         {"hs_noise3"}},
        // Where the derivatives of neighbours do not tell, as for a vertex, hs_framed0 reads level 0.
        {"hs_framedAt",
         R"(vec2 hs_framedAt(vec2 texels, vec2 uv, vec2 corner, vec2 size, float level) {
  vec2 low = vec2(0.0), high = vec2(1.0);
  for (int k = 0; k < 2; ++k) {
    vec2 at = max(floor(texels / exp2(k == 0 ? floor(level) : ceil(level))), 1.0);
    low = max(low, (ceil(corner * at / size - 0.501) + 0.5) / at);
    high = min(high, (ceil((corner + 1.0) * at / size - 0.501) - 0.5) / at);
  }
  vec2 middle = (low + high) * 0.5;
  return clamp((corner + fract(uv)) / size, min(low, middle), max(high, middle));
}
)",
         {}},
        {"hs_framed(",
         R"(vec4 hs_framed(sampler2D map, vec2 uv, vec2 corner, vec2 size) {
  vec2 texels = vec2(textureSize(map, 0)), frame = texels / size, x = dFdx(uv) * frame, y = dFdy(uv) * frame;
  float span = max(dot(x, x), dot(y, y));
  float level = span > 1.0 ? 0.5 * log2(span) : 0.0;
  level = min(level, floor(log2(max(min(frame.x, frame.y), 1.0))));
  return textureLod(map, hs_framedAt(texels, uv, corner, size, level), level);
}
)",
         {"hs_framedAt"}},
        {"hs_framed0(",
         R"(vec4 hs_framed0(sampler2D map, vec2 uv, vec2 corner, vec2 size) {
  return textureLod(map, hs_framedAt(vec2(textureSize(map, 0)), uv, corner, size, 0.0), 0.0);
}
)",
         {"hs_framedAt"}},
        {"hs_fractal2",
         R"(float hs_fractal2(vec2 p, float lacunarity, float diminish, int octaves) {
  float sum = 0.0, weights = 0.0, weight = 1.0;
  for (int o = 0; o < octaves; ++o) {
    sum += hs_noise2(p) * weight;
    weights += weight;
    weight *= diminish;
    p = p * lacunarity + vec2(17.25, 5.75);
  }
  return sum / weights;
}
)",
         {"hs_noise2"}},
    };
    return all;
}

} // namespace

std::string glslLibraryFor(std::string_view code) {
    std::vector<bool> wanted(parts().size());
    for (size_t i = parts().size(); i-- > 0;) {
        const LibraryPart& part = parts()[i];
        if (!wanted[i]) wanted[i] = code.find(part.name) != std::string_view::npos;
        if (!wanted[i]) continue;
        for (std::string_view need : part.needs)
            for (size_t k = 0; k < i; ++k)
                if (parts()[k].name == need) wanted[k] = true;
    }
    std::string out;
    for (size_t i = 0; i < parts().size(); ++i)
        if (wanted[i]) out += parts()[i].text;
    return out;
}

} // namespace hue
