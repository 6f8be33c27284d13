// How channels are written to and read from the targets, in GLSL; the twin of channel_targets.cpp.
#include "core/surface/surface_glsl.h"

namespace hue {

std::string channelTargetsGlsl(bool full, bool writes) {
    std::string out = full ? "#define HS_FULL\n" : "";
    out += R"(struct hs_Surface {
  vec3 base_color; float alpha;
  float metallic, roughness, occlusion;
  vec3 normal, emissive; // emissive with its strength
  float emissive_strength;
  vec3 position;
  uint flags;
  float ior, specular; vec3 specular_color;
  float clearcoat, clearcoat_roughness; vec3 clearcoat_normal;
  vec3 sheen_color; float sheen_roughness;
  float iridescence, iridescence_ior, iridescence_thickness;
  float anisotropy; vec3 stretch; float angle; // of the stretch, in turns
  float transmission, thickness, attenuation_distance, dispersion;
  vec3 attenuation_color;
};
const uint kCovered = 1u, kUnlit = 2u, kFrontFace = 4u, kSimpleDiffuse = 8u, kSolid = 16u, kHighlightsStay = 32u, kBlend = 64u;
const uint kBroken = 65536u, kOutside = 131072u;
vec2 hs_signs(vec2 v) { return vec2(v.x >= 0.0 ? 1.0 : -1.0, v.y >= 0.0 ? 1.0 : -1.0); }
// Duff and others, "Building an Orthonormal Basis, Revisited", 2017.
void hs_basis(vec3 n, out vec3 b1, out vec3 b2) {
  float s = n.z >= 0.0 ? 1.0 : -1.0, a = -1.0 / (s + n.z), b = n.x * n.y * a;
  b1 = vec3(1.0 + s * n.x * n.x * a, s * b, -s * n.x);
  b2 = vec3(b, s + n.y * n.y * a, -n.y);
}
)";
    if (writes)
        return out + R"(layout(location = 0) out vec4 o_base;
layout(location = 1) out vec4 o_normal;
layout(location = 2) out vec4 o_emissive;
layout(location = 3) out vec4 o_point;
layout(location = 4) out uvec4 o_words0;
#ifdef HS_FULL
layout(location = 5) out uvec4 o_words1;
layout(location = 6) out uvec4 o_words2;
layout(location = 7) out uvec4 o_words3;
#endif
uint hs_pair(float a, float b) { return packUnorm2x16(vec2(a, b)); }
uint hs_octahedral(vec3 n) {
  n /= abs(n.x) + abs(n.y) + abs(n.z);
  vec2 p = n.z >= 0.0 ? n.xy : (1.0 - abs(n.yx)) * hs_signs(n.xy);
  return packUnorm2x16(p * 0.5 + 0.5);
}
void hs_write(hs_Surface s) {
  o_base = vec4(s.base_color, s.alpha);
  o_normal = vec4(s.normal, s.roughness);
  o_emissive = vec4(s.emissive, s.metallic);
  o_point = vec4(s.position, s.occlusion);
  o_words0 = uvec4(s.flags, floatBitsToUint(s.thickness), hs_pair((s.ior - 1.0) / 3.0, s.dispersion / 20.0), hs_pair(s.specular, s.transmission));
#ifdef HS_FULL
  o_words1 = uvec4(hs_pair(s.specular_color.r, s.specular_color.g), hs_pair(s.specular_color.b, s.clearcoat),
                   hs_pair(s.clearcoat_roughness, s.sheen_roughness), hs_octahedral(s.clearcoat_normal));
  o_words2 = uvec4(hs_pair(s.sheen_color.r, s.sheen_color.g), hs_pair(s.sheen_color.b, s.iridescence),
                   hs_pair((s.iridescence_ior - 1.0) / 3.0, s.iridescence_thickness / 2000.0), hs_pair(s.anisotropy, s.angle));
  o_words3 = uvec4(hs_pair(s.attenuation_color.r, s.attenuation_color.g), hs_pair(s.attenuation_color.b, 0.0),
                   floatBitsToUint(s.attenuation_distance), floatBitsToUint(s.emissive_strength));
#endif
}
)";
    return out + R"(uniform sampler2D u_base, u_normal, u_emissive, u_point;
uniform usampler2D u_words0, u_words1, u_words2, u_words3;
vec3 hs_fromOctahedral(vec2 p) {
  p = p * 2.0 - 1.0;
  vec3 n = vec3(p, 1.0 - abs(p.x) - abs(p.y));
  if (n.z < 0.0) n.xy = (1.0 - abs(n.yx)) * hs_signs(n.xy);
  return normalize(n);
}
hs_Surface hs_read(ivec2 at) {
  hs_Surface s;
  vec4 base = texelFetch(u_base, at, 0), normal = texelFetch(u_normal, at, 0), emissive = texelFetch(u_emissive, at, 0);
  vec4 point = texelFetch(u_point, at, 0);
  uvec4 w = texelFetch(u_words0, at, 0);
  s.base_color = base.rgb; s.alpha = base.a;
  s.normal = normal.xyz; s.roughness = normal.a;
  s.emissive = emissive.rgb; s.metallic = emissive.a;
  s.position = point.xyz; s.occlusion = point.a;
  s.flags = w.x;
  vec2 a = unpackUnorm2x16(w.z), b = unpackUnorm2x16(w.w);
  s.thickness = uintBitsToFloat(w.y);
  s.ior = 1.0 + a.x * 3.0; s.dispersion = a.y * 20.0;
  s.specular = b.x; s.transmission = b.y;
  s.specular_color = vec3(1.0); s.clearcoat = 0.0; s.clearcoat_roughness = 0.05; s.clearcoat_normal = s.normal;
  s.sheen_color = vec3(0.0); s.sheen_roughness = 0.5; s.iridescence = 0.0; s.iridescence_ior = 1.3; s.iridescence_thickness = 400.0;
  s.anisotropy = 0.0; s.angle = 0.0; s.stretch = vec3(1.0, 0.0, 0.0);
  s.attenuation_color = vec3(1.0); s.attenuation_distance = 1.0; s.emissive_strength = 1.0;
#ifdef HS_FULL
  w = texelFetch(u_words1, at, 0);
  a = unpackUnorm2x16(w.y); b = unpackUnorm2x16(w.z);
  s.specular_color = vec3(unpackUnorm2x16(w.x), a.x);
  s.clearcoat = a.y; s.clearcoat_roughness = b.x; s.sheen_roughness = b.y;
  s.clearcoat_normal = hs_fromOctahedral(unpackUnorm2x16(w.w));
  w = texelFetch(u_words2, at, 0);
  a = unpackUnorm2x16(w.y); b = unpackUnorm2x16(w.z);
  s.sheen_color = vec3(unpackUnorm2x16(w.x), a.x);
  s.iridescence = a.y; s.iridescence_ior = 1.0 + b.x * 3.0; s.iridescence_thickness = b.y * 2000.0;
  a = unpackUnorm2x16(w.w);
  s.anisotropy = a.x; s.angle = a.y;
  w = texelFetch(u_words3, at, 0);
  s.attenuation_color = vec3(unpackUnorm2x16(w.x), unpackUnorm2x16(w.y).x);
  s.attenuation_distance = uintBitsToFloat(w.z);
  s.emissive_strength = uintBitsToFloat(w.w);
#endif
  return s;
}
)";
}

} // namespace hue
