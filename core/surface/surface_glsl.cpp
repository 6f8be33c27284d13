#include "core/surface/surface_glsl.h"

namespace hue {

std::string reflectanceGlsl() {
    return R"(const float kPi = 3.14159265358979;
// glTF 2.0, appendix B; GGX with height-correlated Smith visibility.
vec3 hs_reflect(vec3 baseColor, float metallic, float rough, vec3 n, vec3 v, vec3 l) {
  float nDotL = dot(n, l), nDotV = max(dot(n, v), 1e-4);
  vec3 sum = v + l;
  float len = length(sum);
  if (nDotL <= 0.0 || len <= 0.0) return vec3(0.0);
  vec3 h = sum / len;
  float r = max(rough, 0.04), alpha = r * r, a2 = alpha * alpha;
  float grazing = 1.0 - clamp(dot(v, h), 0.0, 1.0);
  grazing = grazing * grazing * grazing * grazing * grazing;
  float nDotH = clamp(dot(n, h), 0.0, 1.0), f = nDotH * nDotH * (a2 - 1.0) + 1.0;
  float d = a2 / (kPi * f * f);
  float smith = nDotL * sqrt(nDotV * nDotV * (1.0 - a2) + a2) + nDotV * sqrt(nDotL * nDotL * (1.0 - a2) + a2);
  float specular = d * 0.5 / smith;
  vec3 f0 = mix(vec3(0.04), baseColor, metallic);
  vec3 fresnel = f0 + (1.0 - f0) * grazing;
  vec3 diffuse = (1.0 - fresnel) * baseColor * (1.0 - metallic) / kPi;
  return (diffuse + fresnel * specular) * nDotL;
}
)";
}

std::string lightingFragmentStage() {
    return "#version 410 core\n" + reflectanceGlsl() + R"(
uniform sampler2D u_base, u_normal, u_emissive, u_point, u_flags;
uniform samplerCube u_environment;
uniform sampler2D u_splitSum;
uniform sampler2DShadow u_shadow;
uniform vec3 u_harmonics[9];
uniform vec3 u_eye, u_sunDirection, u_sunRadiance;
uniform mat4 u_toShadow, u_fromClip;
uniform vec2 u_size;
uniform float u_exposure;  // factor
uniform float u_levels;    // of the environment, less one
uniform int u_view;        // index into the list of views
uniform float u_floorHeight, u_floorRadius;
uniform vec3 u_floorCentre, u_surround;
uniform int u_layer;       // 0: opaque with the ground, 1: see-through layer over what is there
layout(location = 0) out vec4 o_color;

vec3 diffuseLight(vec3 d) {
  return u_harmonics[0] * 0.282095 + (u_harmonics[1] * d.y + u_harmonics[2] * d.z + u_harmonics[3] * d.x) * 0.488603 +
         (u_harmonics[4] * d.x * d.y + u_harmonics[5] * d.y * d.z + u_harmonics[7] * d.x * d.z) * 1.092548 +
         u_harmonics[6] * 0.315392 * (3.0 * d.z * d.z - 1.0) + u_harmonics[8] * 0.546274 * (d.x * d.x - d.y * d.y);
}

float sunVisible(vec3 p, vec3 n) {
  vec4 s = u_toShadow * vec4(p + n * u_floorRadius * 0.012, 1.0);
  vec3 at = s.xyz / s.w * 0.5 + 0.5;
  if (any(lessThan(at, vec3(0.0))) || any(greaterThan(at, vec3(1.0)))) return 1.0;
  float lit = 0.0;
  float spread = 1.7 / 1024.0;
  // Twelve taps on a spiral, turned per pixel by a fixed pattern, make a soft edge without bands.
  float turn = fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715)))) * 6.2831853;
  for (int i = 0; i < 12; ++i) {
    float a = turn + float(i) * 2.3999632, r = sqrt((float(i) + 0.5) / 12.0) * spread;
    lit += texture(u_shadow, vec3(at.xy + r * vec2(cos(a), sin(a)), at.z - 0.0006));
  }
  return lit / 12.0;
}

// Khronos PBR Neutral tone mapper, as the Khronos Group specifies it (2024).
vec3 toneCurve(vec3 c) {
  float low = min(c.r, min(c.g, c.b));
  float offset = low < 0.08 ? low - 6.25 * low * low : 0.04;
  c -= offset;
  float peak = max(c.r, max(c.g, c.b));
  const float start = 0.8 - 0.04;
  if (peak < start) return c;
  const float d = 1.0 - start;
  float newPeak = 1.0 - d * d / (peak + d - start);
  c *= newPeak / peak;
  float g = 1.0 - 1.0 / (0.15 * (peak - newPeak) + 1.0);
  return mix(c, vec3(newPeak), g);
}

vec3 encode(vec3 c) {
  c = clamp(c, 0.0, 1.0);
  return mix(1.055 * pow(c, vec3(1.0 / 2.4)) - 0.055, c * 12.92, lessThanEqual(c, vec3(0.0031308)));
}

bool outside(vec4 v, float low, float high) { return any(lessThan(v, vec4(low - 1e-4))) || any(greaterThan(v, vec4(high + 1e-4))); }
bool broken(vec4 v) { return any(isnan(v)) || any(isinf(v)); }

vec3 ground(out float strength) {
  vec2 ndc = gl_FragCoord.xy / u_size * 2.0 - 1.0;
  vec4 far = u_fromClip * vec4(ndc, 1.0, 1.0);
  vec3 ray = normalize(far.xyz / far.w - u_eye);
  strength = 1.0;
  if (ray.y >= -1e-3 || u_eye.y < u_floorHeight) return u_surround;
  vec3 hit = u_eye + ray * ((u_floorHeight - u_eye.y) / ray.y);
  float way = length(hit.xz - u_floorCentre.xz) / u_floorRadius;
  float fade = 1.0 - smoothstep(1.2, 3.4, way);
  float contact = 1.0 - 0.42 * (1.0 - smoothstep(0.35, 1.35, way));
  float sun = mix(0.62, 1.0, sunVisible(hit, vec3(0.0, 1.0, 0.0)));
  return u_surround * mix(1.0, contact * sun, fade);
}

void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  vec4 flags = texelFetch(u_flags, at, 0);
  if (flags.x < 0.5) {
    float strength;
    if (u_layer == 1) discard;
    o_color = vec4(u_view == 0 ? ground(strength) : u_surround, 1.0);
    return;
  }
  vec4 base = texelFetch(u_base, at, 0), normal = texelFetch(u_normal, at, 0);
  vec4 emissive = texelFetch(u_emissive, at, 0), point = texelFetch(u_point, at, 0);
  float alpha = u_layer == 1 ? clamp(base.a, 0.0, 1.0) : 1.0;
  vec3 shown;
  if (u_view == 1) shown = encode(base.rgb);                     // unlit
  else if (u_view == 2) { shown = encode(base.rgb); alpha = 1.0; } // base color
  else if (u_view == 3) shown = vec3(emissive.a);
  else if (u_view == 4) shown = vec3(normal.a);
  else if (u_view == 5) shown = normalize(normal.xyz) * 0.5 + 0.5;
  else if (u_view == 6) shown = vec3(point.a);
  else if (u_view == 7) shown = encode(toneCurve(max(emissive.rgb, 0.0)));
  else if (u_view == 8) { shown = vec3(base.a); alpha = 1.0; }
  else if (u_view == 9) {
    bool nan = broken(base) || broken(normal) || broken(emissive) || broken(point);
    bool range = outside(base, 0.0, 1.0) || outside(vec4(normal.a, emissive.a, point.a, 0.0), 0.0, 1.0) || any(lessThan(emissive.rgb, vec3(0.0)));
    float grey = 0.25 + 0.35 * clamp(dot(normalize(normal.xyz), normalize(u_eye - point.xyz)), 0.0, 1.0);
    shown = vec3(broken(normal) || broken(point) ? 0.3 : grey);
    int pattern = (at.x + at.y) / 6;
    if (nan) shown = (pattern & 1) == 0 ? vec3(0.83, 0.07, 0.05) : vec3(0.0);
    else if (range) shown = (pattern & 1) == 0 ? vec3(0.95, 0.66, 0.1) : vec3(shown);
    alpha = 1.0;
  } else {
    vec3 color;
    if (flags.y > 0.5) {
      color = base.rgb;
    } else {
      vec3 n = normalize(normal.xyz), v = normalize(u_eye - point.xyz);
      vec3 b = clamp(base.rgb, 0.0, 1.0);
      float metallic = clamp(emissive.a, 0.0, 1.0), rough = clamp(normal.a, 0.0, 1.0), occlusion = clamp(point.a, 0.0, 1.0);
      color = hs_reflect(b, metallic, rough, n, v, u_sunDirection) * u_sunRadiance * sunVisible(point.xyz, n);
      float nDotV = clamp(dot(n, v), 1e-3, 1.0);
      vec3 f0 = mix(vec3(0.04), b, metallic);
      vec2 split = texture(u_splitSum, vec2(nDotV, rough)).xy;
      vec3 specular = f0 * split.x + split.y;
      vec3 mirrored = reflect(-v, n);
      // Near the ground the reflection sees the surface itself; occlusion dims it less where it is sharp (Lagarde 2014).
      float dim = clamp(pow(nDotV + occlusion, exp2(-16.0 * rough - 1.0)) - 1.0 + occlusion, 0.0, 1.0);
      color += textureLod(u_environment, mirrored, rough * u_levels).rgb * specular * dim;
      color += diffuseLight(n) * b * (1.0 - metallic) * (1.0 - specular) * occlusion;
      color += max(emissive.rgb, 0.0);
    }
    shown = encode(toneCurve(max(color, 0.0) * u_exposure));
    if (broken(vec4(color, 0.0))) shown = vec3(0.0);
  }
  o_color = vec4(shown, alpha);
}
)";
}

} // namespace hue
