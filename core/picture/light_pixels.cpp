#include "core/picture/light_pixels.h"

#include "core/base/value.h"
#include "core/base/work.h"
#include "core/surface/environment.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace hue {
namespace {

constexpr float kPi = std::numbers::pi_v<float>, kGoldenAngle = 2.3999632f;

float saturate(float x) { return std::clamp(x, 0.f, 1.f); }
Rgb saturate(const Rgb& c) { return {saturate(c[0]), saturate(c[1]), saturate(c[2])}; }
Rgb times(const Rgb& a, const Rgb& b) { return {a[0] * b[0], a[1] * b[1], a[2] * b[2]}; }
Rgb mix(const Rgb& a, const Rgb& b, float t) { return sum(scaled(a, 1 - t), scaled(b, t)); }
float smoothstep(float low, float high, float x) {
    const float t = saturate((x - low) / (high - low));
    return t * t * (3 - 2 * t);
}
float fract(float x) { return x - std::floor(x); }
bool finite(const Rgb& c) { return std::isfinite(c[0]) && std::isfinite(c[1]) && std::isfinite(c[2]); }
/// The direction that a mirror sends `view` to.
Rgb mirrored(const Rgb& view, const Rgb& normal) { return difference(scaled(normal, 2 * dot(normal, view)), view); }

} // namespace

RadianceLevels::RadianceLevels(std::vector<Rgb> pixels, int width, int height) {
    m_levels.push_back({std::move(pixels), width, height});
    while (m_levels.back().width > 1 || m_levels.back().height > 1) {
        const Level& from = m_levels.back();
        Level to{{}, std::max(1, from.width / 2), std::max(1, from.height / 2)};
        to.pixels.resize(size_t(to.width) * size_t(to.height));
        for (int y = 0; y < to.height; ++y)
            for (int x = 0; x < to.width; ++x) {
                Rgb all{};
                for (int k = 0; k < 4; ++k) {
                    const int sx = std::min(2 * x + (k & 1), from.width - 1), sy = std::min(2 * y + (k >> 1), from.height - 1);
                    all = sum(all, from.pixels[size_t(sy) * size_t(from.width) + size_t(sx)]);
                }
                to.pixels[size_t(y) * size_t(to.width) + size_t(x)] = scaled(all, 0.25f);
            }
        m_levels.push_back(std::move(to));
    }
}

Rgb RadianceLevels::bilinear(const Level& l, float u, float v) {
    const float x = u * float(l.width) - 0.5f, y = v * float(l.height) - 0.5f;
    const int x0 = int(std::floor(x)), y0 = int(std::floor(y));
    const auto at = [&](int i, int j) {
        return l.pixels[size_t(std::clamp(j, 0, l.height - 1)) * size_t(l.width) + size_t(std::clamp(i, 0, l.width - 1))];
    };
    const float fx = x - float(x0), fy = y - float(y0);
    return mix(mix(at(x0, y0), at(x0 + 1, y0), fx), mix(at(x0, y0 + 1), at(x0 + 1, y0 + 1), fx), fy);
}

Rgb RadianceLevels::at(float u, float v, float level) const {
    u = std::clamp(u, -1.f, 2.f);
    v = std::clamp(v, -1.f, 2.f);
    level = std::clamp(level, 0.f, float(levels() - 1));
    const int low = int(level);
    const Rgb a = bilinear(m_levels[size_t(low)], u, v);
    if (level == float(low)) return a;
    return mix(a, bilinear(m_levels[size_t(low) + 1], u, v), level - float(low));
}

PictureLight::PictureLight(const View& view, std::vector<float> shadow) : m_view(view), m_shadow(std::move(shadow)) {}

Rgb PictureLight::far(const Rgb& d, float roughness) const {
    const float c = m_view.turn[0], s = m_view.turn[1];
    return m_view.light.filtered->at({c * d[0] + s * d[2], d[1], c * d[2] - s * d[0]}, roughness);
}

Rgb PictureLight::diffuse(const Rgb& n) const {
    const float c = m_view.turn[0], s = m_view.turn[1];
    const Rgb light = diffuseLight(*m_view.light.filtered, {c * n[0] + s * n[2], n[1], c * n[2] - s * n[0]});
    return {std::max(light[0], 0.f), std::max(light[1], 0.f), std::max(light[2], 0.f)};
}

float PictureLight::sunVisible(const Rgb& p, const Rgb& n, float x, float y) const {
    const glm::vec4 s = m_view.toShadow * glm::vec4(vectorOf(p) + vectorOf(n) * (m_view.radius * 0.012f), 1);
    const glm::vec3 at = glm::vec3(s) / s.w * 0.5f + 0.5f;
    for (int i = 0; i < 3; ++i)
        if (at[i] < 0 || at[i] > 1) return 1;
    const float spread = kSunSoft / kShadowSize;
    const float turn = fract(52.9829189f * fract(x * 0.06711056f + y * 0.00583715f)) * 6.2831853f;
    float lit = 0;
    const auto open = [&](int i, int j) {
        i = std::clamp(i, 0, kShadowSize - 1);
        j = std::clamp(j, 0, kShadowSize - 1);
        return at.z - 0.0006f <= m_shadow[size_t(j) * kShadowSize + size_t(i)] ? 1.f : 0.f;
    };
    // Where all that the taps can reach is lit, or nothing of it, they need not be taken.
    constexpr int reach = int(kSunSoft) + 2;
    const int ci = int(at.x * kShadowSize), cj = int(at.y * kShadowSize);
    int openOnes = 0;
    for (int j = -reach; j <= reach; ++j)
        for (int i = -reach; i <= reach; ++i) openOnes += open(ci + i, cj + j) > 0;
    if (openOnes == 0) return 0;
    if (openOnes == (2 * reach + 1) * (2 * reach + 1)) return 1;
    for (int k = 0; k < 12; ++k) {
        const float a = turn + float(k) * kGoldenAngle, r = std::sqrt((float(k) + 0.5f) / 12) * spread;
        const float u = (at.x + r * std::cos(a)) * kShadowSize - 0.5f, v = (at.y + r * std::sin(a)) * kShadowSize - 0.5f;
        const int i = int(std::floor(u)), j = int(std::floor(v));
        const float fu = u - float(i), fv = v - float(j);
        lit += (open(i, j) * (1 - fu) + open(i + 1, j) * fu) * (1 - fv) + (open(i, j + 1) * (1 - fu) + open(i + 1, j + 1) * fu) * fv;
    }
    return lit / 12;
}

Rgb PictureLight::seenBehind(const RadianceLevels& behind, float u, float v, float roughness) const {
    const float most = float(std::max(1, int(std::log2(float(std::max(m_view.width, m_view.height)))) - 1));
    const float level = std::clamp(std::log2(float(m_view.width)) * roughness, 0.f, most);
    if (level < 0.05f) return behind.at(u, v, 0);
    const float wide = std::exp2(level) * 0.6f;
    Rgb all{};
    for (int i = 0; i < 9; ++i) {
        const float a = float(i) * kGoldenAngle, r = std::sqrt((float(i) + 0.3f) / 9) * wide;
        all = sum(all, behind.at(u + r * std::cos(a) / float(m_view.width), v + r * std::sin(a) / float(m_view.height),
                                 std::max(level - 0.8f, 0.f)));
    }
    return scaled(all, 1.f / 9);
}

// KHR_materials_transmission and _volume: screen-space refraction.
Rgb PictureLight::through(const PixelSurface& s, const Rgb& v, const Rgb& n, float ior, float x, float y,
                          const RadianceLevels& behind) const {
    const float rough = s.roughness * saturate(s.ior * 2 - 2);
    const float hereU = x / float(m_view.width), hereV = y / float(m_view.height);
    if (!(s.flags & kSolid) || !(s.thickness > 0)) return seenBehind(behind, hereU, hereV, rough);
    const float eta = 1 / ior, cosine = dot(n, v), k = 1 - eta * eta * (1 - cosine * cosine);
    const Rgb way = k < 0 ? Rgb{} : sum(scaled(v, -eta), scaled(n, eta * cosine - std::sqrt(k)));
    const glm::vec4 exit = m_view.clip * glm::vec4(vectorOf(arrayOf(s.position)) + vectorOf(way) * s.thickness, 1);
    const float u = exit.x / exit.w * 0.5f + 0.5f, w = exit.y / exit.w * 0.5f + 0.5f;
    const auto inside = [](float a) { return smoothstep(-0.02f, 0.03f, a) * smoothstep(-0.02f, 0.03f, 1 - a); };
    const Rgb found = mix(far(way, s.roughness), seenBehind(behind, u, w, rough), inside(u) * inside(w));
    // Beer-Lambert: the attenuation color after the attenuation distance.
    Rgb out;
    for (size_t c = 0; c < 3; ++c)
        out[c] = found[c] * std::pow(std::max(s.attenuation_color[int(c)], 1e-4f), s.thickness / std::max(s.attenuation_distance, 1e-5f));
    return out;
}

glm::vec4 PictureLight::surface(const PixelSurface& in, float reflecting, float x, float y, const RadianceLevels* behind,
                                bool lightOnly) const {
    PixelSurface s = in;
    float alpha = s.flags & kBlend ? saturate(s.alpha) : 1;
    const Rgb position = arrayOf(s.position), v = unit(difference(m_view.eye, position)), n = unit(arrayOf(s.normal));
    if (lightOnly) {
        const PixelSurface plain;
        s = plain;
        s.position = in.position;
        s.occlusion = in.occlusion;
        s.base_color = glm::vec3(0.8f);
        s.specular = 0;
        s.ior = in.ior;
        s.flags = in.flags & ~uint32_t(kUnlit);
        alpha = 1;
    }
    if (s.flags & kUnlit) {
        Rgb flat = arrayOf(s.base_color);
        if (!finite(flat)) flat = {};
        return {flat[0] * alpha, flat[1] * alpha, flat[2] * alpha, alpha};
    }
    SurfacePoint p;
    p.baseColor = saturate(arrayOf(s.base_color));
    p.metallic = saturate(s.metallic);
    s.roughness = saturate(s.roughness);
    p.roughness = lightOnly ? s.roughness : saturate(reflecting);
    p.normal = n;
    p.ior = s.ior;
    p.specular = s.specular;
    p.specularColor = arrayOf(s.specular_color);
    p.clearcoat = s.clearcoat;
    p.clearcoatRoughness = s.clearcoat_roughness;
    p.clearcoatNormal = arrayOf(s.clearcoat_normal);
    p.sheenColor = arrayOf(s.sheen_color);
    p.sheenRoughness = s.sheen_roughness;
    p.iridescence = s.iridescence;
    p.iridescenceIor = s.iridescence_ior;
    p.iridescenceThickness = s.iridescence_thickness;
    p.anisotropy = s.anisotropy;
    p.transmission = s.transmission;
    p.diffuseOnly = (s.flags & kSimpleDiffuse) != 0;
    const auto [b1, b2] = basisOf(vectorOf(n));
    const float turn = s.angle * 2 * kPi;
    p.anisotropyDirection = arrayOf(b1 * std::cos(turn) + b2 * std::sin(turn));

    const Reflected direct = reflectParts(p, v, m_view.sun.direction);
    const Rgb sun = scaled(m_view.sun.radiance, sunVisible(position, n, x, y));
    Rgb scattered = times(direct.scattered, sun), mirror = times(direct.mirrored, sun);
    const float nDotV = std::clamp(dot(n, v), 1e-3f, 1.f), occlusion = saturate(s.occlusion);
    Rgb emissive = arrayOf(s.emissive);
    if (p.diffuseOnly) {
        scattered = sum(scattered, scaled(times(diffuse(n), p.baseColor), occlusion));
    } else {
        const Mirror m = mirrorOf(p, nDotV);
        Rgb facing = n;
        if (p.anisotropy > 0) {
            // KHR_materials_anisotropy: the environment is read around a normal bent across the stretch.
            const Rgb across = cross(n, p.anisotropyDirection), bent = cross(cross(across, v), across);
            const float a = 1 - p.anisotropy * (1 - p.roughness);
            facing = unit(mix(unit(bent), n, a * a * a * a));
        }
        // Occlusion dims reflections less where they are sharp (Lagarde 2014).
        const float dim = saturate(std::pow(nDotV + occlusion, std::exp2(-16 * p.roughness - 1)) - 1 + occlusion);
        Rgb environment =
            sum(scaled(times(far(mirrored(v, facing), m.roughness), m.once), dim), scaled(times(diffuse(n), m.often), occlusion));
        const float matte = 1 - p.metallic;
        Rgb body = scaled(times(times(diffuse(n), p.baseColor), m.below), matte * (1 - p.transmission) * occlusion);
        if (p.transmission > 0 && behind) {
            // KHR_materials_dispersion: indices for red and blue around that for green.
            const float half = (s.ior - 1) * 0.025f * s.dispersion;
            Rgb seen;
            if (s.dispersion > 0)
                for (size_t c = 0; c < 3; ++c) seen[c] = through(s, v, n, s.ior + (float(c) - 1) * half, x, y, *behind)[c];
            else seen = through(s, v, n, s.ior, x, y, *behind);
            body = sum(body, scaled(times(times(seen, p.baseColor), m.below), matte * p.transmission));
        }
        if (const float sheen = std::max({p.sheenColor[0], p.sheenColor[1], p.sheenColor[2]}); sheen > 0) {
            const float albedo = readSplitSum(nDotV, p.sheenRoughness)[2], under = 1 - sheen * std::min(albedo, 1.f);
            const Rgb fuzz =
                scaled(times(far(mirrored(v, n), std::max(p.sheenRoughness, 0.6f)), p.sheenColor), std::min(albedo, 1.f) * occlusion);
            body = sum(scaled(body, under), fuzz);
            environment = scaled(environment, under);
        }
        if (p.clearcoat > 0) {
            const float coatV = std::clamp(dot(p.clearcoatNormal, v), 1e-3f, 1.f);
            const auto coat = readSplitSum(coatV, std::max(p.clearcoatRoughness, 0.04f));
            const float share = p.clearcoat * saturate(0.04f * coat[0] + coat[1]);
            body = scaled(body, 1 - share);
            environment =
                sum(scaled(environment, 1 - share), scaled(far(mirrored(v, p.clearcoatNormal), p.clearcoatRoughness), share * dim));
            emissive = scaled(emissive, 1 - share);
        }
        scattered = sum(scattered, body);
        mirror = sum(mirror, environment);
    }
    for (size_t c = 0; c < 3; ++c) scattered[c] += std::max(emissive[c], 0.f);
    if (!finite(scattered)) scattered = {};
    if (!finite(mirror)) mirror = {};
    const float shine = s.flags & kHighlightsStay ? 1.f : alpha;
    return {scattered[0] * alpha + mirror[0] * shine, scattered[1] * alpha + mirror[1] * shine, scattered[2] * alpha + mirror[2] * shine,
            alpha};
}

Rgb PictureLight::ray(float x, float y) const {
    const glm::vec4 end = m_view.fromClip * glm::vec4(x / float(m_view.width) * 2 - 1, y / float(m_view.height) * 2 - 1, 1, 1);
    return unit(difference(arrayOf(glm::vec3(end) / end.w), m_view.eye));
}

Rgb PictureLight::lit(const Rgb& albedo, const Rgb& p, const Rgb& n, float x, float y) const {
    const float facing = std::max(dot(n, m_view.sun.direction), 0.f);
    return times(albedo, sum(diffuse(n), scaled(m_view.sun.radiance, facing / kPi * sunVisible(p, n, x, y))));
}

float PictureLight::contact(const Rgb& hit) const {
    const float way = std::hypot(hit[0] - m_view.centre[0], hit[2] - m_view.centre[2]) / m_view.radius;
    return 1 - 0.42f * (1 - smoothstep(0.35f, 1.35f, way));
}

Rgb PictureLight::ground(const Rgb& ray, float x, float y) const {
    const Rgb surround{m_view.surround, m_view.surround, m_view.surround};
    if (ray[1] >= -1e-3f || m_view.eye[1] < m_view.floor) return surround;
    const Rgb hit = sum(m_view.eye, scaled(ray, (m_view.floor - m_view.eye[1]) / ray[1]));
    const float way = std::hypot(hit[0] - m_view.centre[0], hit[2] - m_view.centre[2]) / m_view.radius;
    const float fade = 1 - smoothstep(1.2f, 3.4f, way);
    const float sun = 0.62f + 0.38f * sunVisible(hit, {0, 1, 0}, x, y);
    // Dimmed as the screen shows it, so that the grey keeps its meaning.
    return scaled(surround, 1 + (std::pow(contact(hit) * sun, 2.2f) - 1) * fade);
}

Rgb PictureLight::depot(const Rgb& ray, float x, float y) const {
    const auto hash = [](float a, float b) { return fract(std::sin(a * 127.1f + b * 311.7f) * 43758.5453f); };
    constexpr float blur = 2.f / (PrefilteredLight::kLevels - 1);
    const Rgb around = far(ray, blur);
    const float unitLength = m_view.radius, floor = m_view.floor, tall = unitLength * 3;
    float way = 1e9f;
    Rgb shown = around;
    if (ray[2] < -1e-3f) { // wall of glazed tiles
        const float t = (m_view.centre[2] - unitLength * 2.6f - m_view.eye[2]) / ray[2];
        const Rgb hit = sum(m_view.eye, scaled(ray, t));
        if (t > 0 && hit[1] > floor && hit[1] < floor + tall) {
            float tx = hit[0] / (unitLength * 0.34f);
            const float ty = (hit[1] - floor) / (unitLength * 0.17f);
            tx += 0.5f * (std::floor(ty) - 2 * std::floor(std::floor(ty) / 2));
            const float grout = smoothstep(0.46f, 0.49f, std::max(std::fabs(fract(tx) - 0.5f), std::fabs(fract(ty) - 0.5f)));
            const float dado = floor + tall * 0.3f >= hit[1] ? 1.f : 0.f;
            const Rgb glaze =
                scaled(mix({0.36f, 0.35f, 0.32f}, {0.10f, 0.15f, 0.14f}, dado), 0.85f + 0.3f * hash(std::floor(tx), std::floor(ty)));
            shown = mix(lit(mix(glaze, {0.12f, 0.12f, 0.12f}, grout), hit, {0, 0, 1}, x, y), around,
                        smoothstep(6, 14, std::fabs(hit[0] - m_view.centre[0]) / unitLength));
            way = t;
        }
    }
    if (ray[1] < -1e-3f && m_view.eye[1] > floor) { // concrete slabs with a rail groove
        const float t = (floor - m_view.eye[1]) / ray[1];
        if (t < way) {
            const Rgb hit = sum(m_view.eye, scaled(ray, t));
            const float sx = (hit[0] - m_view.centre[0]) / unitLength, sz = (hit[2] - m_view.centre[2]) / unitLength;
            const float edge = std::max(std::fabs(fract(sx * 0.5f + 0.5f) - 0.5f), std::fabs(fract(sz * 0.5f + 0.5f) - 0.5f));
            const float joint = smoothstep(0.485f, 0.495f, edge);
            const float rail = smoothstep(0.05f, 0.03f, std::fabs(std::fabs(sz - 1.9f) - 0.5f));
            Rgb stone = scaled({0.19f, 0.185f, 0.175f}, 0.9f + 0.2f * hash(std::floor(sx * 0.5f + 0.5f), std::floor(sz * 0.5f + 0.5f)));
            stone = mix(stone, {0.06f, 0.06f, 0.06f}, std::max(joint, rail));
            shown = mix(scaled(lit(stone, hit, {0, 1, 0}, x, y), contact(hit)), around, smoothstep(6, 16, std::hypot(sx, sz)));
        }
    }
    return shown;
}

Rgb PictureLight::backdrop(Backdrop kind, float x, float y) const {
    const Rgb way = ray(x, y);
    switch (kind) {
    case Backdrop::Surround: return ground(way, x, y);
    case Backdrop::Environment: return far(way, 2.2f / (PrefilteredLight::kLevels - 1));
    case Backdrop::Depot: return depot(way, x, y);
    }
    return {};
}

// What is brighter than white, at half the size as the stage for glare has it, spread over the levels. It is so soft that half the size
// is enough for the sum as well.
static std::vector<Rgb> haloOf(const std::vector<Rgb>& radiance, int width, int height, float exposure) {
    const int w = std::max(1, width / 2), h = std::max(1, height / 2);
    std::vector<Rgb> over(size_t(w) * size_t(h));
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) {
            const int sx = std::min(width - 1, int((float(x) + 0.5f) / float(w) * float(width))),
                      sy = std::min(height - 1, int((float(y) + 0.5f) / float(h) * float(height)));
            const Rgb& seen = radiance[size_t(sy) * size_t(width) + size_t(sx)];
            Rgb c;
            for (size_t k = 0; k < 3; ++k) c[k] = std::max(seen[k] * exposure, 0.f);
            const float peak = std::max({c[0], c[1], c[2]});
            over[size_t(y) * size_t(w) + size_t(x)] = scaled(c, std::min(std::max(peak - 1, 0.f), 24.f) / std::max(peak, 1e-4f));
        }
    const RadianceLevels glare(over, w, h);
    const float levels = std::min(6.f, float(std::max(1, int(std::log2(float(std::max(width, height)))) - 1) - 1));
    forEach(size_t(h), [&](size_t y) {
        for (int x = 0; x < w; ++x) {
            const float u = (float(x) + 0.5f) / float(w), v = (float(y) + 0.5f) / float(h);
            Rgb halo{};
            float weight = 1, all = 0;
            for (float level = 1; level <= levels; level += 1) {
                const float across = std::exp2(level) * 0.75f / float(width), up = std::exp2(level) * 0.75f / float(height);
                Rgb tap{};
                for (int i = 0; i < 4; ++i)
                    tap = sum(tap, glare.at(u + across * float((i & 1) * 2 - 1), v + up * float((i >> 1) * 2 - 1), level));
                halo = sum(halo, scaled(tap, weight * 0.25f));
                all += weight;
                weight *= 0.72f;
            }
            over[y * size_t(w) + size_t(x)] = scaled(halo, 1 / all);
        }
    });
    return over;
}

std::vector<uint8_t> toScreen(const std::vector<Rgb>& radiance, int width, int height, const RenderSettings& settings) {
    const float exposure = std::exp2(settings.exposure);
    std::optional<RadianceLevels> halo;
    if (settings.glare > 0) halo.emplace(haloOf(radiance, width, height, exposure), std::max(1, width / 2), std::max(1, height / 2));
    std::vector<uint8_t> out(size_t(width) * size_t(height) * 4, 255);
    forEach(size_t(height), [&](size_t y) {
        for (int x = 0; x < width; ++x) {
            Rgb c = radiance[y * size_t(width) + size_t(x)];
            for (float& part : c) part = std::max(part, 0.f) * exposure;
            if (halo) c = sum(c, scaled(halo->at((float(x) + 0.5f) / float(width), (float(y) + 0.5f) / float(height), 0), settings.glare));
            c = applyTone(settings.tone, c);
            uint8_t* to = &out[((size_t(height) - 1 - y) * size_t(width) + size_t(x)) * 4];
            for (size_t k = 0; k < 3; ++k) to[k] = uint8_t(std::lround(saturate(linearToSrgb(c[k])) * 255));
        }
    });
    return out;
}

} // namespace hue
