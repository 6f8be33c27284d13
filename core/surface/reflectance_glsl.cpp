// The twin of reflectance.cpp.
#include "core/surface/surface_glsl.h"

namespace hue {

std::string reflectanceGlsl() {
    return R"(const float kPi = 3.14159265358979;
uniform sampler2D u_splitSum;
float hs_fifth(float x) { return x * x * x * x * x; }
float hs_sq(float x) { return x * x; }
float hs_f0(float inside, float outside) { return hs_sq((inside - outside) / (inside + outside)); }
float hs_highest(vec3 c) { return max(c.r, max(c.g, c.b)); }
float hs_ggx(float nDotH, float alpha) { float a2 = alpha * alpha, f = nDotH * nDotH * (a2 - 1.0) + 1.0; return a2 / (kPi * f * f); }
float hs_smith(float nDotL, float nDotV, float alpha) {
  float a2 = alpha * alpha;
  float sum = nDotL * sqrt(nDotV * nDotV * (1.0 - a2) + a2) + nDotV * sqrt(nDotL * nDotL * (1.0 - a2) + a2);
  return sum > 0.0 ? 0.5 / sum : 0.0;
}
vec4 hs_table(float nDotV, float roughness) { return texture(u_splitSum, vec2(nDotV, roughness)); }

#ifdef HS_FULL
float hs_sheenL(float x, float alpha) {
  float t = hs_sq(1.0 - alpha);
  return mix(21.5473, 25.3245, t) / (1.0 + mix(3.82987, 3.32435, t) * pow(x, mix(0.19823, 0.16801, t))) + mix(-1.97760, -1.27393, t) * x +
         mix(-4.32054, -4.85967, t);
}
float hs_sheenLambda(float c, float alpha) {
  return abs(c) < 0.5 ? exp(hs_sheenL(c, alpha)) : exp(2.0 * hs_sheenL(0.5, alpha) - hs_sheenL(1.0 - c, alpha));
}
float hs_sheenLobe(float nDotH, float nDotL, float nDotV, float roughness) {
  float alpha = hs_sq(max(roughness, 0.07)), inverse = 1.0 / alpha;
  float sine2 = max(1.0 - nDotH * nDotH, 0.0078125);
  float d = (2.0 + inverse) * pow(sine2, inverse * 0.5) / (2.0 * kPi);
  float visible = clamp(1.0 / ((1.0 + hs_sheenLambda(nDotV, alpha) + hs_sheenLambda(nDotL, alpha)) * (4.0 * nDotV * nDotL)), 0.0, 1.0);
  return d * visible;
}
vec3 hs_filmSensitivity(float pathNm, vec3 shift) {
  float phase = 2.0 * kPi * pathNm * 1e-9;
  const vec3 value = vec3(5.4856e-13, 4.4201e-13, 5.2481e-13), position = vec3(1.6810e+06, 1.7953e+06, 2.2084e+06);
  const vec3 variance = vec3(4.3278e+09, 9.3046e+09, 6.6121e+09);
  vec3 xyz = value * sqrt(2.0 * kPi * variance) * cos(position * phase + shift) * exp(-hs_sq(phase) * variance);
  xyz.x += 9.7470e-14 * sqrt(2.0 * kPi * 4.5282e+09) * cos(2.2399e+06 * phase + shift.x) * exp(-4.5282e+09 * hs_sq(phase));
  xyz /= 1.0685e-7;
  return vec3(dot(vec3(3.2404542, -1.5371385, -0.4985314), xyz), dot(vec3(-0.9692660, 1.8760108, 0.0415560), xyz),
              dot(vec3(0.0556434, -0.2040259, 1.0572252), xyz));
}
vec3 hs_filmFresnel(float outside, float filmIor, float cosine, float thicknessNm, vec3 baseF0) {
  float ior = mix(outside, filmIor, smoothstep(0.0, 0.03, thicknessNm));
  float cosine2 = 1.0 - hs_sq(outside / ior) * (1.0 - hs_sq(cosine));
  if (cosine2 < 0.0) return vec3(1.0);
  float inside = sqrt(cosine2);
  float r0 = hs_f0(ior, outside), r12 = r0 + (1.0 - r0) * hs_fifth(clamp(1.0 - cosine, 0.0, 1.0)), t121 = 1.0 - r12;
  float phi21 = ior < outside ? 0.0 : kPi, path = 2.0 * ior * thicknessNm * inside;
  vec3 s = sqrt(clamp(baseF0, 0.0, 0.9999)), baseIor = (1.0 + s) / (1.0 - s);
  vec3 r1 = (baseIor - ior) / (baseIor + ior);
  r1 *= r1;
  vec3 r23 = r1 + (1.0 - r1) * hs_fifth(clamp(1.0 - inside, 0.0, 1.0));
  vec3 phi = vec3(phi21) + vec3(lessThan(baseIor, vec3(ior))) * kPi;
  vec3 r123 = clamp(r12 * r23, 1e-5, 0.9999), root = sqrt(r123);
  vec3 back = hs_sq(t121) * r23 / (1.0 - r123), reflected = r12 + back, order = back - t121;
  for (int m = 1; m <= 2; ++m) {
    order *= root;
    reflected += order * 2.0 * hs_filmSensitivity(float(m) * path, float(m) * phi);
  }
  return max(reflected, 0.0);
}
#endif

// Reflection face-on and at the outline, film included, and what the reflection leaves for what lies below.
struct hs_Mirror { vec3 f0; float f90, alpha, alphaT, effective, lost, average; vec3 more, once, often, below; };
hs_Mirror hs_mirror(hs_Surface s, float nDotV) {
  hs_Mirror m;
  float rough = max(s.roughness, 0.04);
  m.alpha = rough * rough;
  m.alphaT = mix(m.alpha, 1.0, s.anisotropy * s.anisotropy);
  m.effective = sqrt(sqrt(m.alphaT * m.alpha));
  m.f90 = mix(s.specular, 1.0, s.metallic);
  m.f0 = mix(min(hs_f0(s.ior, 1.0) * s.specular_color, 1.0) * s.specular, s.base_color, s.metallic);
#ifdef HS_FULL
  if (s.iridescence > 0.0) {
    float grazing = hs_fifth(1.0 - clamp(nDotV, 0.0, 1.0));
    vec3 film = hs_filmFresnel(1.0, s.iridescence_ior, nDotV, s.iridescence_thickness, m.f0);
    m.f0 = mix(m.f0, clamp((film - grazing) / max(1.0 - grazing, 1e-3), 0.0, 1.0), s.iridescence);
  }
#endif
  vec4 table = hs_table(nDotV, m.effective);
  m.lost = clamp(1.0 - table.x - table.y, 0.0, 1.0);
  m.average = table.a;
  vec3 fresnel = m.f0 + (m.f90 - m.f0) / 21.0;
  m.more = clamp(fresnel * fresnel * m.average / max(1.0 - fresnel * (1.0 - m.average), 1e-3), 0.0, 1.0);
  m.once = clamp(m.f0 * table.x + m.f90 * table.y, 0.0, 1.0);
  m.often = m.more * m.lost;
  m.below = clamp(1.0 - m.once - m.often, 0.0, 1.0);
  return m;
}

// What is scattered (or shines through) and what is mirrored, for one light.
void hs_reflect(hs_Surface s, vec3 v, vec3 l, out vec3 scattered, out vec3 mirrored) {
  scattered = vec3(0.0);
  mirrored = vec3(0.0);
  vec3 n = s.normal;
  float nDotL = dot(n, l), nDotV = max(dot(n, v), 1e-4);
  if ((s.flags & kSimpleDiffuse) != 0u) { scattered = s.base_color * max(nDotL, 0.0) / kPi; return; }
  hs_Mirror m = hs_mirror(s, nDotV);
  vec3 sum = v + l;
  float len = length(sum);
  if (nDotL > 0.0 && len > 0.0) {
    vec3 h = sum / len;
    float nDotH = clamp(dot(n, h), 0.0, 1.0), lobe;
#ifdef HS_FULL
    if (s.anisotropy > 0.0) {
      vec3 t = s.stretch, b = cross(n, t);
      float a2 = m.alphaT * m.alpha;
      vec3 f = vec3(m.alpha * dot(t, h), m.alphaT * dot(b, h), a2 * nDotH);
      float w2 = a2 / max(dot(f, f), 1e-12);
      float gv = nDotL * length(vec3(m.alphaT * dot(t, v), m.alpha * dot(b, v), nDotV));
      float gl = nDotV * length(vec3(m.alphaT * dot(t, l), m.alpha * dot(b, l), nDotL));
      lobe = a2 * w2 * w2 / kPi * 0.5 / max(gv + gl, 1e-6);
    } else
#endif
    lobe = hs_ggx(nDotH, m.alpha) * hs_smith(nDotL, nDotV, m.alpha);
    float grazing = hs_fifth(1.0 - clamp(dot(v, h), 0.0, 1.0));
    vec4 fromLight = hs_table(nDotL, m.effective);
    float again = m.lost * clamp(1.0 - fromLight.x - fromLight.y, 0.0, 1.0) / (kPi * max(1.0 - m.average, 1e-3));
    mirrored = ((m.f0 + (max(vec3(m.f90), m.f0) - m.f0) * grazing) * lobe + m.more * again) * nDotL;
    scattered = m.below * s.base_color * (1.0 - s.metallic) * (1.0 - s.transmission) / kPi * nDotL;
  }
#ifdef HS_FULL
  else if (nDotL < 0.0 && s.transmission > 0.0) {
    sum = v + l - 2.0 * nDotL * n;
    len = length(sum);
    if (len > 0.0)
      scattered = m.below * s.base_color * (1.0 - s.metallic) * s.transmission *
                  (hs_ggx(clamp(dot(n, sum / len), 0.0, 1.0), m.alpha) * hs_smith(-nDotL, nDotV, m.alpha) * -nDotL);
  }
  sum = v + l;
  len = length(sum);
  vec3 half_ = len > 0.0 ? sum / len : n;
  float sheen = hs_highest(s.sheen_color);
  if (sheen > 0.0) {
    float albedo = hs_table(nDotV, s.sheen_roughness).b, dim = 1.0 - sheen * min(albedo, 1.0), lobe = 0.0;
    if (nDotL > 0.0 && len > 0.0)
      lobe = hs_sheenLobe(clamp(dot(n, half_), 0.0, 1.0), nDotL, nDotV, s.sheen_roughness) * nDotL / max(albedo, 1.0);
    scattered = scattered * dim + s.sheen_color * lobe;
    mirrored *= dim;
  }
  if (s.clearcoat > 0.0) {
    float coatL = dot(s.clearcoat_normal, l), coatV = max(dot(s.clearcoat_normal, v), 1e-4), rough = max(s.clearcoat_roughness, 0.04);
    vec4 coat = hs_table(coatV, rough);
    float dim = 1.0 - s.clearcoat * clamp(0.04 * coat.x + coat.y, 0.0, 1.0), lobe = 0.0;
    if (coatL > 0.0 && len > 0.0) {
      float grazing = hs_fifth(1.0 - clamp(dot(v, half_), 0.0, 1.0));
      lobe = hs_ggx(clamp(dot(s.clearcoat_normal, half_), 0.0, 1.0), rough * rough) * hs_smith(coatL, coatV, rough * rough) *
             (0.04 + 0.96 * grazing) * coatL * s.clearcoat;
    }
    scattered *= dim;
    mirrored = mirrored * dim + lobe;
  }
#endif
}
)";
}

} // namespace hue
