// The stages that turn channels into radiance and radiance into a picture.
#include "core/surface/surface_glsl.h"

namespace hue {
namespace {

constexpr const char* kVersion = "#version 410 core\n";

/// The light, the eye and the ground: what every lit stage knows of the scene.
constexpr const char* kScene = R"(uniform samplerCube u_environment;
uniform sampler2DShadow u_shadow;
uniform vec3 u_harmonics[9];
uniform vec2 u_rotation; // cosine and sine of the light's turn about Y
uniform vec3 u_eye, u_sunDirection, u_sunRadiance;
uniform mat4 u_toShadow, u_fromClip, u_toClip;
uniform vec2 u_size;
uniform float u_levels;  // of the environment, less one
uniform float u_sunSoft; // radius of the shadow's edge, in texels
uniform float u_floorHeight, u_floorRadius;
uniform vec3 u_floorCentre;

vec3 hs_turned(vec3 d) { return vec3(u_rotation.x * d.x + u_rotation.y * d.z, d.y, u_rotation.x * d.z - u_rotation.y * d.x); }
vec3 hs_far(vec3 d, float level) { return textureLod(u_environment, hs_turned(d), level).rgb; }
vec3 hs_diffuseLight(vec3 world) {
  vec3 d = hs_turned(world);
  return max(u_harmonics[0] * 0.282095 + (u_harmonics[1] * d.y + u_harmonics[2] * d.z + u_harmonics[3] * d.x) * 0.488603 +
         (u_harmonics[4] * d.x * d.y + u_harmonics[5] * d.y * d.z + u_harmonics[7] * d.x * d.z) * 1.092548 +
         u_harmonics[6] * 0.315392 * (3.0 * d.z * d.z - 1.0) + u_harmonics[8] * 0.546274 * (d.x * d.x - d.y * d.y), 0.0);
}
float hs_sunVisible(vec3 p, vec3 n) {
  vec4 s = u_toShadow * vec4(p + n * u_floorRadius * 0.012, 1.0);
  vec3 at = s.xyz / s.w * 0.5 + 0.5;
  if (any(lessThan(at, vec3(0.0))) || any(greaterThan(at, vec3(1.0)))) return 1.0;
  float lit = 0.0, spread = u_sunSoft / 1024.0;
  // Twelve taps on a spiral, turned per pixel by a fixed pattern, make a soft edge without bands.
  float turn = fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715)))) * 6.2831853;
  for (int i = 0; i < 12; ++i) {
    float a = turn + float(i) * 2.3999632, r = sqrt((float(i) + 0.5) / 12.0) * spread;
    lit += texture(u_shadow, vec3(at.xy + r * vec2(cos(a), sin(a)), at.z - 0.0006));
  }
  return lit / 12.0;
}
vec3 hs_ray(vec2 pixel) {
  vec4 far = u_fromClip * vec4(pixel / u_size * 2.0 - 1.0, 1.0, 1.0);
  return normalize(far.xyz / far.w - u_eye);
}
)";

} // namespace

static std::string lightingText(bool full) {
    return kVersion + channelTargetsGlsl(full, false) + reflectanceGlsl() + kScene + R"(
uniform samplerCube u_local; // what stands around the specimen; alpha: coverage
uniform float u_hasLocal, u_localLevels;
uniform sampler2D u_behind;  // radiance of what has been drawn so far, with mips
uniform float u_behindLevels;
uniform int u_lightOnly;     // 1: white, to judge light alone
layout(location = 0) out vec4 o_color; // premultiplied

vec3 hs_around(vec3 d, float rough) {
  vec3 far = hs_far(d, rough * u_levels);
  if (u_hasLocal < 0.5) return far;
  vec4 near = textureLod(u_local, d, rough * u_localLevels);
  return far * (1.0 - near.a) + near.rgb;
}
#ifdef HS_FULL
vec3 hs_behindAt(vec2 uv, float rough) {
  float level = clamp(log2(u_size.x) * rough, 0.0, u_behindLevels);
  if (level < 0.05) return textureLod(u_behind, uv, 0.0).rgb;
  // Box-shaped mips show; nine taps round them off.
  float wide = exp2(level) * 0.6;
  vec3 sum = vec3(0.0);
  for (int i = 0; i < 9; ++i) {
    float a = float(i) * 2.3999632, r = sqrt((float(i) + 0.3) / 9.0) * wide;
    sum += textureLod(u_behind, uv + r * vec2(cos(a), sin(a)) / u_size, max(level - 0.8, 0.0)).rgb;
  }
  return sum / 9.0;
}
// KHR_materials_transmission and _volume: screen-space refraction.
vec3 hs_through(hs_Surface s, vec3 v, vec3 ior, bool spread) {
  bool solid = (s.flags & kSolid) != 0u;
  float rough = s.roughness * clamp(s.ior * 2.0 - 2.0, 0.0, 1.0);
  vec2 here = gl_FragCoord.xy / u_size;
  if (!solid || s.thickness <= 0.0) return hs_behindAt(here, rough);
  vec3 seen = vec3(0.0);
  for (int c = 0; c < 3; ++c) {
    if (c > 0 && !spread) break;
    vec3 way = refract(-v, s.normal, 1.0 / ior[c]);
    vec4 exit = u_toClip * vec4(s.position + way * s.thickness, 1.0);
    vec2 uv = exit.xy / exit.w * 0.5 + 0.5;
    // Outside of the picture only the surroundings are known.
    vec2 edge = smoothstep(vec2(-0.02), vec2(0.03), uv) * smoothstep(vec2(-0.02), vec2(0.03), 1.0 - uv);
    vec3 found = mix(hs_far(way, s.roughness * u_levels), hs_behindAt(uv, rough), edge.x * edge.y);
    if (spread) seen[c] = found[c];
    else seen = found;
  }
  // Beer-Lambert: the attenuation color after the attenuation distance.
  return seen * pow(max(s.attenuation_color, 1e-4), vec3(s.thickness / max(s.attenuation_distance, 1e-5)));
}
#endif

// Twin of widenedRoughness() in reflectance.cpp.
float hs_widened(float roughness, vec3 across, vec3 up) {
  float spread = min(0.5 * (dot(across, across) + dot(up, up)), 0.18);
  if (!(spread > 0.0)) return roughness;
  float alpha = roughness * roughness;
  return sqrt(sqrt(min(alpha * alpha + spread, 1.0)));
}

void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  hs_Surface s = hs_read(at);
  // Differences to the neighbours, before any of them ends here; only within one part of one mesh.
  vec3 facing_ = s.normal / max(length(s.normal), 1e-6), across = dFdx(facing_), up = dFdy(facing_);
  float part = float(s.flags & 0xff01u);
  bool whole = max(abs(dFdx(part)), abs(dFdy(part))) == 0.0;
  if ((s.flags & kCovered) == 0u) discard;
  float alpha = (s.flags & kBlend) != 0u ? clamp(s.alpha, 0.0, 1.0) : 1.0;
  vec3 v = normalize(u_eye - s.position);
  s.normal = normalize(s.normal);
  vec3 flat_ = s.base_color;
  s.base_color = clamp(s.base_color, 0.0, 1.0);
  s.metallic = clamp(s.metallic, 0.0, 1.0);
  s.roughness = clamp(s.roughness, 0.0, 1.0);
  // Reflections are widened; what is seen through the surface keeps its own roughness.
  float own = s.roughness;
  if (whole) s.roughness = hs_widened(s.roughness, across, up);
  s.occlusion = clamp(s.occlusion, 0.0, 1.0);
  if (u_lightOnly == 1) {
    s.base_color = vec3(0.8); s.metallic = 0.0; s.roughness = 1.0; s.specular = 0.0; s.transmission = 0.0; s.emissive = vec3(0.0);
    s.clearcoat = 0.0; s.sheen_color = vec3(0.0); s.iridescence = 0.0; s.anisotropy = 0.0; s.flags &= ~kUnlit; alpha = 1.0; flat_ = s.base_color;
  }
  if ((s.flags & kUnlit) != 0u) {
    if (any(isnan(flat_)) || any(isinf(flat_))) flat_ = vec3(0.0);
    o_color = vec4(flat_ * alpha, alpha);
    return;
  }
  vec3 b1, b2;
  hs_basis(s.normal, b1, b2);
  s.stretch = cos(s.angle * 6.2831853) * b1 + sin(s.angle * 6.2831853) * b2;

  vec3 scattered, mirrored;
  hs_reflect(s, v, u_sunDirection, scattered, mirrored);
  vec3 sun = u_sunRadiance * hs_sunVisible(s.position, s.normal);
  scattered *= sun;
  mirrored *= sun;
  float nDotV = clamp(dot(s.normal, v), 1e-3, 1.0);
  if ((s.flags & kSimpleDiffuse) != 0u) {
    scattered += hs_diffuseLight(s.normal) * s.base_color * s.occlusion;
  } else {
    hs_Mirror m = hs_mirror(s, nDotV);
    vec3 facing = s.normal;
#ifdef HS_FULL
    if (s.anisotropy > 0.0) {
      // KHR_materials_anisotropy: the environment is read around a normal bent across the stretch.
      vec3 across = cross(s.normal, s.stretch), bent = cross(cross(across, v), across);
      float a = hs_sq(hs_sq(1.0 - s.anisotropy * (1.0 - s.roughness)));
      facing = normalize(mix(normalize(bent), s.normal, a));
    }
#endif
    // Occlusion dims reflections less where they are sharp (Lagarde 2014).
    float dim = clamp(pow(nDotV + s.occlusion, exp2(-16.0 * s.roughness - 1.0)) - 1.0 + s.occlusion, 0.0, 1.0);
    vec3 environment = hs_around(reflect(-v, facing), m.effective) * m.once * dim + hs_diffuseLight(s.normal) * m.often * s.occlusion;
    vec3 body = hs_diffuseLight(s.normal) * s.base_color * (1.0 - s.metallic) * (1.0 - s.transmission) * m.below * s.occlusion;
#ifdef HS_FULL
    if (s.transmission > 0.0) {
      // KHR_materials_dispersion: indices for red and blue around that for green.
      float half_ = (s.ior - 1.0) * 0.025 * s.dispersion;
      hs_Surface pane = s;
      pane.roughness = own;
      vec3 seen = hs_through(pane, v, vec3(s.ior - half_, s.ior, s.ior + half_), s.dispersion > 0.0);
      body += seen * s.base_color * (1.0 - s.metallic) * s.transmission * m.below;
    }
    float sheen = hs_highest(s.sheen_color);
    if (sheen > 0.0) {
      float albedo = hs_table(nDotV, s.sheen_roughness).b, under = 1.0 - sheen * min(albedo, 1.0);
      body = body * under + hs_around(reflect(-v, s.normal), max(s.sheen_roughness, 0.6)) * s.sheen_color * min(albedo, 1.0) * s.occlusion;
      environment *= under;
    }
    if (s.clearcoat > 0.0) {
      float coatV = clamp(dot(s.clearcoat_normal, v), 1e-3, 1.0);
      vec2 coat = hs_table(coatV, max(s.clearcoat_roughness, 0.04)).rg;
      float share = s.clearcoat * clamp(0.04 * coat.x + coat.y, 0.0, 1.0);
      body *= 1.0 - share;
      environment = environment * (1.0 - share) + hs_around(reflect(-v, s.clearcoat_normal), s.clearcoat_roughness) * share * dim;
      s.emissive *= 1.0 - share;
    }
#endif
    scattered += body;
    mirrored += environment;
  }
  scattered += max(s.emissive, 0.0);
  if (any(isnan(scattered)) || any(isinf(scattered))) scattered = vec3(0.0);
  if (any(isnan(mirrored)) || any(isinf(mirrored))) mirrored = vec3(0.0);
  float shine = (s.flags & kHighlightsStay) != 0u ? 1.0 : alpha;
  o_color = vec4(scattered * alpha + mirrored * shine, alpha);
}
)";
}

static std::string viewText(bool full) {
    return kVersion + channelTargetsGlsl(full, false) + R"(
uniform int u_view;     // index into channels(), or one of the numbers below
uniform vec2 u_stretch; // what is shown as black and white
uniform vec3 u_eye;
layout(location = 0) out vec4 o_color; // already encoded for the screen, premultiplied
vec3 hs_encode(vec3 c) {
  c = clamp(c, 0.0, 1.0);
  return mix(1.055 * pow(c, vec3(1.0 / 2.4)) - 0.055, c * 12.92, lessThanEqual(c, vec3(0.0031308)));
}
vec3 stretched(vec3 c) { return (c - u_stretch.x) / (u_stretch.y - u_stretch.x); }
vec3 plain(vec3 c) { return clamp(stretched(c), 0.0, 1.0); }
vec3 plain(float x) { return plain(vec3(x)); }
vec3 color(vec3 c) { return hs_encode(stretched(c)); }
vec3 normal(vec3 n) { return clamp(stretched(normalize(n)) * 0.5 + 0.5, 0.0, 1.0); }
bool broken(vec4 v) { return any(isnan(v)) || any(isinf(v)); }
void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  hs_Surface s = hs_read(at);
  if ((s.flags & kCovered) == 0u) discard;
  float alpha = 1.0;
  vec3 shown = vec3(0.0);
  float turns = s.angle;
  switch (u_view) {
  case 0: shown = color(s.base_color); break;
  case 1: shown = plain(s.metallic); break;
  case 2: shown = plain(s.roughness); break;
  case 3: shown = normal(s.normal); break;
  case 4: shown = plain(s.occlusion); break;
  case 5: shown = color(s.emissive); break;
  case 6: shown = plain(s.emissive_strength); break;
  case 7: shown = plain(s.alpha); break;
  case 9: shown = plain((s.ior - 1.0) / 3.0); break;
  case 10: shown = plain(s.specular); break;
  case 11: shown = color(s.specular_color); break;
  case 12: shown = plain(s.clearcoat); break;
  case 13: shown = plain(s.clearcoat_roughness); break;
  case 14: shown = normal(s.clearcoat_normal); break;
  case 15: shown = plain(s.sheen); break;
  case 16: shown = color(s.sheen_color); break;
  case 17: shown = plain(s.sheen_roughness); break;
  case 18: shown = plain(s.iridescence); break;
  case 19: shown = plain((s.iridescence_ior - 1.0) / 3.0); break;
  case 20: shown = plain(s.iridescence_thickness / 1000.0); break;
  case 21: shown = plain(s.anisotropy); break;
  case 22: shown = plain(turns); break;
  case 23: shown = plain(s.transmission); break;
  case 24: shown = plain(s.thickness); break;
  case 25: shown = color(s.attenuation_color); break;
  case 26: shown = plain(s.attenuation_distance); break;
  case 27: shown = plain(s.dispersion); break;
  case 100: shown = color(s.base_color); alpha = (s.flags & kBlend) != 0u ? clamp(s.alpha, 0.0, 1.0) : 1.0; break; // unlit
  case 101: { // invalid and out of range
    vec3 v = normalize(u_eye - s.position);
    vec4 all = vec4(s.normal, s.roughness);
    bool nan = (s.flags & kBroken) != 0u || broken(all) || broken(vec4(s.base_color, s.alpha)) || broken(vec4(s.emissive, s.metallic));
    bool range = (s.flags & kOutside) != 0u;
    float grey = broken(vec4(s.normal, 0.0)) ? 0.3 : 0.25 + 0.35 * clamp(dot(normalize(s.normal), v), 0.0, 1.0);
    shown = vec3(grey);
    int stripe = (at.x + at.y) / 6;
    if (nan) shown = (stripe & 1) == 0 ? vec3(0.83, 0.07, 0.05) : vec3(0.0);
    else if (range) shown = (stripe & 1) == 0 ? vec3(0.95, 0.66, 0.1) : vec3(grey);
    break;
  }
  case 102: shown = plain(s.base_color); break; // a wire that is no color
  default: break;
  }
  if (any(isnan(shown)) || any(isinf(shown))) shown = ((at.x + at.y) / 6 & 1) == 0 ? vec3(0.83, 0.07, 0.05) : vec3(0.0);
  o_color = vec4(shown * alpha, alpha);
}
)";
}

static std::string backdropText() {
    return std::string(kVersion) + kScene + R"(
uniform int u_backdrop;  // 0: surround grey with a shadow on the ground, 1: blurred environment, 2: depot floor and wall, 3: plain
uniform vec3 u_surround; // radiance that the screen shows as the surround
uniform float u_wall;    // distance of the wall behind the specimen
layout(location = 0) out vec4 o_color;

float contact(vec3 hit) { return 1.0 - 0.42 * (1.0 - smoothstep(0.35, 1.35, length(hit.xz - u_floorCentre.xz) / u_floorRadius)); }
float hash(vec2 p) { return fract(sin(dot(p, vec2(127.1, 311.7))) * 43758.5453); }
// Lit as a rough dielectric.
vec3 lit(vec3 albedo, vec3 p, vec3 n) {
  float facing = max(dot(n, u_sunDirection), 0.0);
  return albedo * (hs_diffuseLight(n) + u_sunRadiance * facing / 3.14159265 * hs_sunVisible(p, n));
}
vec3 ground(vec3 ray) {
  if (ray.y >= -1e-3 || u_eye.y < u_floorHeight) return u_surround;
  vec3 hit = u_eye + ray * ((u_floorHeight - u_eye.y) / ray.y);
  float fade = 1.0 - smoothstep(1.2, 3.4, length(hit.xz - u_floorCentre.xz) / u_floorRadius);
  float sun = mix(0.62, 1.0, hs_sunVisible(hit, vec3(0.0, 1.0, 0.0)));
  // Dimmed as the screen shows it, so that the grey keeps its meaning.
  return u_surround * mix(1.0, pow(contact(hit) * sun, 2.2), fade);
}
vec3 depot(vec3 ray) {
  vec3 far = hs_far(ray, 2.0);
  float way = 1e9;
  vec3 shown = far;
  float tall = u_floorRadius * 3.0;
  if (ray.z < -1e-3) { // wall of glazed tiles
    float t = (u_floorCentre.z - u_wall - u_eye.z) / ray.z;
    vec3 hit = u_eye + ray * t;
    if (t > 0.0 && hit.y > u_floorHeight && hit.y < u_floorHeight + tall) {
      vec2 tile = (hit.xy - vec2(0.0, u_floorHeight)) / (u_floorRadius * vec2(0.34, 0.17));
      tile.x += 0.5 * mod(floor(tile.y), 2.0);
      vec2 in_ = abs(fract(tile) - 0.5);
      float grout = smoothstep(0.46, 0.49, max(in_.x, in_.y));
      float dado = step(hit.y, u_floorHeight + tall * 0.3);
      vec3 glaze = mix(vec3(0.36, 0.35, 0.32), vec3(0.10, 0.15, 0.14), dado) * (0.85 + 0.3 * hash(floor(tile)));
      shown = mix(lit(mix(glaze, vec3(0.12), grout), hit, vec3(0.0, 0.0, 1.0)), far, smoothstep(6.0, 14.0, abs(hit.x - u_floorCentre.x) / u_floorRadius));
      way = t;
    }
  }
  if (ray.y < -1e-3 && u_eye.y > u_floorHeight) { // concrete slabs with a rail groove
    float t = (u_floorHeight - u_eye.y) / ray.y;
    vec3 hit = u_eye + ray * t;
    if (t < way) {
      vec2 slab = (hit.xz - u_floorCentre.xz) / u_floorRadius;
      vec2 in_ = abs(fract(slab * 0.5 + 0.5) - 0.5);
      float joint = smoothstep(0.485, 0.495, max(in_.x, in_.y));
      float rail = smoothstep(0.05, 0.03, abs(abs(slab.y - 1.9) - 0.5));
      vec3 stone = vec3(0.19, 0.185, 0.175) * (0.9 + 0.2 * hash(floor(slab * 0.5 + 0.5)));
      stone = mix(stone, vec3(0.06), max(joint, rail));
      shown = mix(lit(stone, hit, vec3(0.0, 1.0, 0.0)) * contact(hit), far, smoothstep(6.0, 16.0, length(slab)));
    }
  }
  return shown;
}
void main() {
  vec3 ray = hs_ray(gl_FragCoord.xy);
  vec3 color = u_surround;
  if (u_backdrop == 0) color = ground(ray);
  else if (u_backdrop == 1) color = hs_far(ray, 2.2);
  else if (u_backdrop == 2) color = depot(ray);
  o_color = vec4(color, 1.0);
}
)";
}

static std::string glareText() {
    return std::string(kVersion) + R"(uniform sampler2D u_picture;
uniform vec2 u_size;
uniform float u_exposure;
layout(location = 0) out vec4 o_color;
void main() {
  vec3 c = max(texture(u_picture, gl_FragCoord.xy / u_size).rgb * u_exposure, 0.0);
  float peak = max(c.r, max(c.g, c.b));
  // Only what is brighter than white, and of that not so much that one pixel flickers across the picture.
  float over = max(peak - 1.0, 0.0);
  o_color = vec4(c / max(peak, 1e-4) * min(over, 24.0), 1.0);
}
)";
}

static std::string screenText() {
    return std::string(kVersion) + R"(uniform sampler2D u_picture, u_glareMap;
uniform vec2 u_size;
uniform float u_exposure, u_glare, u_glareLevels;
uniform int u_tone; // 0 linear, 1 filmic, 2 neutral, 3: the picture is already what the screen shows
layout(location = 0) out vec4 o_color;
vec3 hs_encode(vec3 c) {
  c = clamp(c, 0.0, 1.0);
  return mix(1.055 * pow(c, vec3(1.0 / 2.4)) - 0.055, c * 12.92, lessThanEqual(c, vec3(0.0031308)));
}
// Twins of applyTone() in tone.cpp.
vec3 filmic(vec3 c) {
  c = max(c, 0.0) * 0.6;
  return c * (2.51 * c + 0.03) / (c * (2.43 * c + 0.59) + 0.14);
}
vec3 neutral(vec3 c) {
  float low = min(c.r, min(c.g, c.b)), offset = low < 0.08 ? low - 6.25 * low * low : 0.04;
  c -= offset;
  float peak = max(c.r, max(c.g, c.b));
  const float start = 0.76, d = 0.24;
  if (peak < start) return c;
  float newPeak = 1.0 - d * d / (peak + d - start);
  c *= newPeak / peak;
  return mix(c, vec3(newPeak), 1.0 - 1.0 / (0.15 * (peak - newPeak) + 1.0));
}
void main() {
  vec2 uv = gl_FragCoord.xy / u_size;
  vec3 c = texelFetch(u_picture, ivec2(gl_FragCoord.xy), 0).rgb;
  if (u_tone != 3) {
    c = max(c, 0.0) * u_exposure;
    if (u_glare > 0.0) {
      vec3 halo = vec3(0.0);
      float weight = 1.0, sum = 0.0;
      for (float level = 1.0; level <= u_glareLevels; level += 1.0) {
        // Four taps round off the mips.
        vec2 step_ = exp2(level) * 0.75 / u_size;
        vec3 tap = vec3(0.0);
        for (int i = 0; i < 4; ++i)
          tap += textureLod(u_glareMap, uv + step_ * vec2(float(i & 1) * 2.0 - 1.0, float(i >> 1) * 2.0 - 1.0), level).rgb * 0.25;
        halo += tap * weight;
        sum += weight;
        weight *= 0.72;
      }
      c += halo / sum * u_glare;
    }
    if (u_tone == 1) c = filmic(c);
    else if (u_tone == 2) c = neutral(c);
    c = hs_encode(c);
  }
  o_color = vec4(c, 1.0);
}
)";
}

const std::string& lightingFragmentStage(bool full) {
    static const std::string stages[] = {lightingText(false), lightingText(true)};
    return stages[full];
}
const std::string& viewFragmentStage(bool full) {
    static const std::string stages[] = {viewText(false), viewText(true)};
    return stages[full];
}
const std::string& backdropFragmentStage() {
    static const std::string stage = backdropText();
    return stage;
}
const std::string& glareFragmentStage() {
    static const std::string stage = glareText();
    return stage;
}
const std::string& screenFragmentStage() {
    static const std::string stage = screenText();
    return stage;
}

} // namespace hue
