#include "core/picture/software_picture.h"

#include "core/base/work.h"
#include "core/mesh/things.h"
#include "core/picture/light_pixels.h"
#include "core/picture/raster.h"
#include "core/surface/reflectance.h"

#include <algorithm>

namespace hue {
namespace {

const Error kCancelled{"work.cancelled", "Drawing was cancelled.", {}};

/// Pixels of each slot, of those that `open` holds.
std::vector<std::vector<uint32_t>> pixelsBySlot(const AttributePicture& seen, size_t slots, const std::vector<char>& open) {
    std::vector<std::vector<uint32_t>> out(slots);
    for (size_t i = 0; i < open.size(); ++i)
        if (const int slot = seen.slot(i); slot >= 0 && open[i] && size_t(slot) < slots) out[size_t(slot)].push_back(uint32_t(i));
    return out;
}

Frame litFrame(const DressedSlot& slot, const View& view) {
    Frame frame = seenFrame(slot, view);
    frame.light = std::make_shared<TurnedLight>(view.light.filtered, std::atan2(view.turn[1], view.turn[0]) * 57.29578f);
    return frame;
}

/// A thing as a surface: its vertex color is its base color, alpha its radiance; UV1 holds metallic and roughness.
PixelSurface thingSurface(const AttributePicture& a, size_t i) {
    const auto& p = a.planes;
    const float side = p[0][i][3] < 0 ? -1.f : 1.f;
    PixelSurface s;
    s.base_color = {p[5][i][0], p[5][i][1], p[5][i][2]};
    s.emissive = s.base_color * p[5][i][3];
    s.metallic = p[4][i][0];
    s.roughness = p[4][i][1];
    s.normal = glm::vec3(p[1][i][0], p[1][i][1], p[1][i][2]) * side;
    s.position = {p[0][i][0], p[0][i][1], p[0][i][2]};
    s.flags = kCovered | kFrontFace;
    return s;
}

class SoftwareDrawing {
  public:
    SoftwareDrawing(const DressedSpecimen& specimen, const RenderSettings& settings, const Work& work)
        : m_specimen(specimen),
          m_settings(settings),
          m_work(work),
          m_view(viewOf(specimen, settings, settings.width, settings.height)),
          m_region{m_view.left, m_view.bottom, m_view.across, m_view.tall},
          m_light(m_view, shadow()) {}

    Result<RenderedPicture> run();

  private:
    std::vector<float> shadow() const;
    /// Of the slots that are seen through or not; with them the things, as slots of their own behind those of the mesh.
    std::vector<RasterPart> parts(bool seeThrough) const;
    void things(std::vector<RasterPart>& to, bool castingOnly) const;
    /// Lights a covered pixel of the region over what is there.
    void light(size_t pixel, const PixelSurface& surface, float reflecting, const RadianceLevels* behind);
    /// A pixel's roughness for what it reflects: widened by the spread of the normals around.
    float reflectingAt(const ChannelPicture& channels, size_t pixel, const PixelSurface& surface) const;
    Outcome opaque();
    Outcome layers();
    size_t whole(size_t pixel) const {
        return (size_t(m_region.y) + pixel / size_t(m_region.width)) * size_t(m_view.width) + size_t(m_region.x) +
               pixel % size_t(m_region.width);
    }
    bool lightOnly() const { return views()[size_t(m_settings.view)].number == 1; }

    const DressedSpecimen& m_specimen;
    const RenderSettings& m_settings;
    const Work& m_work;
    const View m_view;
    const RasterRegion m_region;
    const PictureLight m_light;
    std::vector<Rgb> m_radiance; ///< of the whole picture
    std::vector<float> m_depth;  ///< of the region
};

void SoftwareDrawing::things(std::vector<RasterPart>& to, bool castingOnly) const {
    for (size_t i = 0; i < m_specimen.things.size(); ++i) {
        const Thing& t = m_specimen.things[i];
        // Kept by the shapes for as long as the program runs.
        const MeshPtr mesh = thingMesh(t.kind);
        if (mesh && (!castingOnly || t.castsShadow))
            to.push_back(
                {mesh.get(), 0, uint32_t(mesh->indices.size()), int(m_specimen.slots.size() + i), true, placed(t.position, t.size)});
    }
}

std::vector<RasterPart> SoftwareDrawing::parts(bool seeThrough) const {
    std::vector<RasterPart> out;
    for (size_t i = 0; i < m_specimen.slots.size(); ++i) {
        const DressedSlot& slot = m_specimen.slots[i];
        const MeshSlot& range = m_specimen.mesh->slots[i];
        if (slot.seeThrough() == seeThrough)
            out.push_back({m_specimen.mesh.get(), range.firstIndex, range.indexCount, int(i), slot.surface.doubleSided, Matrix4(1)});
    }
    if (!seeThrough) things(out, false);
    return out;
}

std::vector<float> SoftwareDrawing::shadow() const {
    std::vector<RasterPart> casting;
    // What lets light through casts none.
    if (m_specimen.castsShadow)
        for (size_t i = 0; i < m_specimen.slots.size(); ++i)
            if (!m_specimen.slots[i].seeThrough())
                casting.push_back({m_specimen.mesh.get(), m_specimen.mesh->slots[i].firstIndex, m_specimen.mesh->slots[i].indexCount, 0,
                                   true, Matrix4(1)});
    things(casting, true);
    return rasteriseDepth(m_view.toShadow, kShadowSize, casting, 2, 4);
}

void SoftwareDrawing::light(size_t pixel, const PixelSurface& surface, float reflecting, const RadianceLevels* behind) {
    const size_t at = whole(pixel);
    const float x = float(at % size_t(m_view.width)) + 0.5f, y = float(at / size_t(m_view.width)) + 0.5f;
    const glm::vec4 c = m_light.surface(surface, reflecting, x, y, behind, lightOnly());
    for (size_t k = 0; k < 3; ++k) m_radiance[at][k] = c[int(k)] + m_radiance[at][k] * (1 - c.a);
}

float SoftwareDrawing::reflectingAt(const ChannelPicture& channels, size_t pixel, const PixelSurface& s) const {
    const float own = std::clamp(s.roughness, 0.f, 1.f);
    const size_t width = size_t(m_region.width), x = pixel % width, y = pixel / width;
    // The pixels of a block of 2 x 2, as a graphics card takes its differences; regions begin at even places.
    const size_t besideX = x ^ 1, besideY = y ^ 1;
    if (besideX >= width || besideY >= size_t(m_region.height)) return own;
    const PixelSurface beside = channels.at(y * width + besideX), above = channels.at(besideY * width + x);
    constexpr uint32_t part = 0xff01;
    if ((beside.flags & part) != (s.flags & part) || (above.flags & part) != (s.flags & part)) return own;
    const auto facing = [](const PixelSurface& p) { return p.normal / std::max(glm::length(p.normal), 1e-6f); };
    return widenedRoughness(own, arrayOf(facing(beside) - facing(s)), arrayOf(facing(above) - facing(s)));
}

Outcome SoftwareDrawing::opaque() {
    const std::vector<RasterPart> drawn = parts(false);
    // Of the last round; things keep their place in all of them.
    AttributePicture seen;
    const auto rasteriseRound = [&](const std::vector<float>* cut) -> Result<AttributePicture> {
        seen = rasterise(m_view.clip, m_view.width, m_view.height, m_region, drawn, Sheet::Nearest, cut);
        seen.painted = m_specimen.mesh->hasColors; // things have colors for another reason
        return seen;
    };
    const Result<ChannelPicture> channels = opaqueChannels(m_specimen, m_view, rasteriseRound, &m_depth, m_work);
    if (!channels) return channels.error();
    forEach(size_t(m_region.height), [&](size_t row) {
        for (size_t i = row * size_t(m_region.width), end = i + size_t(m_region.width); i < end; ++i) {
            PixelSurface s = channels->at(i);
            const bool thing = !(s.flags & kCovered) && seen.slot(i) >= int(m_specimen.slots.size());
            if (thing) s = thingSurface(seen, i);
            if (s.flags & kCovered) light(i, s, thing ? s.roughness : reflectingAt(*channels, i, s), nullptr);
        }
    });
    return Done{};
}

// Layer by layer from behind, as the renderer does it with a graphics card.
Outcome SoftwareDrawing::layers() {
    const std::vector<RasterPart> drawn = parts(true);
    if (drawn.empty()) return Done{};
    bool looksBehind = false;
    for (const DressedSlot& s : m_specimen.slots) looksBehind = looksBehind || s.surface.has(Layer::Transmission);
    std::vector<float> before = m_depth;
    for (int layer = 0; layer < kMostLayers; ++layer) {
        if (m_work.stopped()) return kCancelled;
        AttributePicture seen = rasterise(m_view.clip, m_view.width, m_view.height, m_region, drawn, Sheet::Furthest, &before);
        seen.painted = m_specimen.mesh->hasColors;
        const auto pixels = pixelsBySlot(seen, m_specimen.slots.size(), std::vector<char>(before.size(), 1));
        std::optional<RadianceLevels> behind;
        if (looksBehind) behind.emplace(m_radiance, m_view.width, m_view.height);
        bool any = false;
        ChannelPicture channels;
        channels.resize(m_region.width, m_region.height);
        for (size_t s = 0; s < pixels.size(); ++s) {
            if (pixels[s].empty()) continue;
            any = true;
            const DressedSlot& slot = m_specimen.slots[s];
            const PixelEvaluation evaluation(seen, pixels[s], m_view.eye);
            if (!evaluation.channels(*slot.look->evaluator, litFrame(slot, m_view), slot.surface, int(s), channels, m_work))
                return kCancelled;
            const bool masked = slot.surface.alphaMode == AlphaMode::Mask;
            forEach(pixels[s].size(), [&](size_t k) {
                const uint32_t i = pixels[s][k];
                before[i] = seen.planes[3][i][3];
                if (!masked || channels.alpha[i] >= slot.surface.alphaCutoff) {
                    const PixelSurface surface = channels.at(i);
                    light(i, surface, reflectingAt(channels, i, surface), behind ? &*behind : nullptr);
                }
            });
        }
        if (!any) break;
    }
    return Done{};
}

Result<RenderedPicture> SoftwareDrawing::run() {
    m_radiance.resize(size_t(m_view.width) * size_t(m_view.height));
    forEach(size_t(m_view.height), [&](size_t y) {
        for (int x = 0; x < m_view.width; ++x)
            m_radiance[y * size_t(m_view.width) + size_t(x)] = m_light.backdrop(m_settings.backdrop, float(x) + 0.5f, float(y) + 0.5f);
    });
    if (m_work.stopped()) return kCancelled;
    if (m_region.width > 0 && m_region.height > 0) {
        if (Outcome o = opaque(); !o) return o.error();
        if (Outcome o = layers(); !o) return o.error();
    }
    RenderedPicture out;
    out.width = m_view.width;
    out.height = m_view.height;
    out.fromEvaluator = true;
    out.rgba = toScreen(m_radiance, out.width, out.height, m_settings);
    return out;
}

} // namespace

Result<ChannelPicture> opaqueChannels(const DressedSpecimen& specimen, const View& view, const Rasterise& rasterise,
                                      std::vector<float>* depth, const Work& work) {
    const size_t count = size_t(view.across) * size_t(view.tall);
    ChannelPicture channels;
    channels.resize(view.across, view.tall);
    if (depth) depth->assign(count, 1);
    std::vector<float> cut(count, 0);
    std::vector<char> open(count, 1);
    // What a mask cuts away uncovers what lies behind; more than a few sheets behind each other are rare.
    constexpr int kMostSheets = 6;
    for (int round = 0; round < kMostSheets; ++round) {
        const Result<AttributePicture> seen = rasterise(round ? &cut : nullptr);
        if (!seen) return seen.error();
        const auto pixels = pixelsBySlot(*seen, specimen.slots.size(), open);
        if (depth)
            for (size_t i = 0; i < count; ++i)
                if (open[i]) (*depth)[i] = seen->slot(i) >= 0 ? seen->planes[3][i][3] : 1;
        std::fill(open.begin(), open.end(), 0);
        bool again = false;
        for (size_t s = 0; s < specimen.slots.size(); ++s) {
            if (pixels[s].empty()) continue;
            const DressedSlot& slot = specimen.slots[s];
            const PixelEvaluation evaluation(*seen, pixels[s], view.eye);
            if (!evaluation.channels(*slot.look->evaluator, litFrame(slot, view), slot.surface, int(s), channels, work)) return kCancelled;
            if (slot.surface.alphaMode != AlphaMode::Mask) continue;
            for (uint32_t i : pixels[s]) {
                if (!(channels.alpha[i] < slot.surface.alphaCutoff)) continue;
                for (auto& plane : channels.targets) plane[i] = {};
                cut[i] = seen->planes[3][i][3];
                open[i] = 1;
                again = true;
            }
        }
        if (!again) break;
    }
    return channels;
}

bool drawsInSoftware(const RenderSettings& settings) {
    return settings.view >= 0 && size_t(settings.view) < views().size() && views()[size_t(settings.view)].kind == ViewDef::Kind::Light;
}

Result<RenderedPicture> softwarePicture(const DressedSpecimen& specimen, const RenderSettings& settings, const Work& work) {
    if (Outcome o = drawable(settings); !o) return o.error();
    return SoftwareDrawing(specimen, settings, work).run();
}

} // namespace hue
