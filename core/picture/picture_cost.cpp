#include "core/picture/picture_cost.h"

#include "core/mesh/things.h"
#include "core/picture/raster.h"
#include "core/picture/view.h"

#include <charconv>
#include <fmt/format.h>

namespace hue {
namespace {

constexpr int kMostBehind = 64; ///< surfaces behind each other that are counted at most

std::vector<RasterPart> partsOf(const DressedSpecimen& s, bool opaque) {
    std::vector<RasterPart> out;
    for (size_t i = 0; i < s.slots.size(); ++i) {
        const MeshSlot& range = s.mesh->slots[i];
        const SurfaceSettings& surface = s.slots[i].surface;
        if ((!s.slots[i].seeThrough() && surface.alphaMode == AlphaMode::Opaque) == opaque)
            out.push_back({s.mesh.get(), range.firstIndex, range.indexCount, int(i), surface.doubleSided, Matrix4(1)});
    }
    if (!opaque) return out;
    for (const Thing& t : s.things)
        if (const MeshPtr mesh = thingMesh(t.kind))
            out.push_back({mesh.get(), 0, uint32_t(mesh->indices.size()), int(s.slots.size()), true, placed(t.position, t.size)});
    return out;
}

/// Adds what a region of the picture shows of each slot.
void count(const DressedSpecimen& s, const View& view, const RasterRegion& region, std::span<const RasterPart> opaque,
           std::span<const RasterPart> layered, std::vector<ShadedSlot>& slots, const Work& work) {
    const size_t pixels = size_t(region.width) * size_t(region.height);
    const auto slotAt = [&](int at) { return at < 0 || size_t(at) >= s.slots.size() ? nullptr : &slots[size_t(at) % slots.size()]; };
    std::vector<float> nearest(pixels, 1.f), behind(pixels);
    const AttributePicture solid = rasterise(view.clip, view.width, view.height, region, opaque);
    for (size_t k = 0; k < pixels; ++k) {
        const int at = solid.slot(k);
        if (at >= 0) nearest[k] = solid.planes[3][k][3];
        if (ShadedSlot* slot = slotAt(at)) ++slot->covered, ++slot->shaded;
    }
    std::vector<std::vector<char>> covered(slots.size());
    for (int layer = 0; layer < kMostBehind && !layered.empty() && !work.stopped(); ++layer) {
        const AttributePicture seen =
            rasterise(view.clip, view.width, view.height, region, layered, Sheet::Nearest, layer ? &behind : nullptr);
        bool any = false;
        for (size_t k = 0; k < pixels; ++k) {
            const int at = seen.slot(k);
            // A pixel without another layer, or whose next lies behind what is opaque, is done with.
            const bool more = at >= 0 && seen.planes[3][k][3] < nearest[k];
            behind[k] = more ? seen.planes[3][k][3] : 2.f;
            if (!more) continue;
            any = true;
            ShadedSlot* slot = slotAt(at);
            if (!slot) continue;
            ++slot->shaded;
            std::vector<char>& its = covered[size_t(slot - slots.data())];
            its.resize(pixels);
            slot->covered += !its[k];
            its[k] = 1;
        }
        if (!any) break;
    }
}

/// The whole picture, in bands: the attributes of a pixel take 128 bytes.
void count(const DressedSpecimen& s, const View& view, std::vector<ShadedSlot>& slots, const Work& work) {
    constexpr int kRows = 64;
    const std::vector<RasterPart> opaque = partsOf(s, true), layered = partsOf(s, false);
    const size_t bands = size_t((view.height + kRows - 1) / kRows);
    std::vector<std::vector<ShadedSlot>> each(bands, slots);
    inBands(bands, 1, work.threads, [&](size_t first, size_t last) {
        for (size_t b = first; b < last && !work.stopped(); ++b) {
            const int y = int(b) * kRows;
            count(s, view, {0, y, view.width, std::min(kRows, view.height - y)}, opaque, layered, each[b], work);
        }
    });
    for (const auto& band : each)
        for (size_t k = 0; k < slots.size(); ++k) slots[k].covered += band[k].covered, slots[k].shaded += band[k].shaded;
}

} // namespace

Result<std::vector<ShadedSlot>> pictureCost(const Project& project, Assets& assets, LookCache& looks, int width, int height, double time,
                                            std::optional<size_t> only, const Work& work) {
    RenderSettings settings;
    settings.width = width;
    settings.height = height;
    if (Outcome o = drawable(settings); !o) return o.error();
    std::vector<ShadedSlot> out;
    const std::vector<Specimen>& specimens = project.lineup.specimens;
    for (size_t k = 0; k < specimens.size(); ++k) {
        if (only && *only != k) continue;
        if (work.stopped()) return Error{"stopped", "Counting the picture was stopped.", {}};
        const DressedSpecimen dressed = dress(project, assets, looks, specimens[k], time);
        if (!dressed.mesh || dressed.slots.empty()) continue;
        settings.camera = specimens[k].orbit.value_or(project.lineup.orbit);
        std::vector<ShadedSlot> slots(std::min(dressed.slotsEach, dressed.slots.size()));
        for (size_t i = 0; i < slots.size(); ++i) {
            const std::vector<Id>& wears = specimens[k].wears;
            ShadedSlot& slot = slots[i];
            slot.specimen = k;
            slot.slot = i;
            if (!wears.empty()) slot.worn = wears[std::min(i, wears.size() - 1)];
            slot.alpha = dressed.slots[i].surface.alphaMode;
            slot.seeThrough = dressed.slots[i].seeThrough();
            if (const LookPtr& look = dressed.slots[i].look) {
                const Cost cost = costOf(look->evaluator->program(), nullptr, {});
                slot.operations = cost.operationsPerPixel();
                slot.fetches = cost.fetches;
            }
        }
        count(dressed, viewOf(dressed, settings, width, height), slots, work);
        out.insert(out.end(), slots.begin(), slots.end());
        if (work.progress) work.progress(float(k + 1) / float(specimens.size()));
    }
    return out;
}

Overdrawn mostOverdrawn(const std::vector<ShadedSlot>& slots, const Target& target) {
    Overdrawn out;
    for (const ShadedSlot& s : slots)
        if ((s.seeThrough || s.alpha != AlphaMode::Opaque) && s.covered && (!out.slot || s.overdraw() > out.slot->overdraw()))
            out.slot = &s;
    for (const LimitDef& d : limitDefs())
        if (out.slot && d.limit == &Limits::overdraw) out.against = {&d, out.slot->overdraw(), double(target.limits.overdraw)};
    return out;
}

Result<std::pair<int, int>> pictureSize(const std::string& words) {
    const Error wrong{"picture.size", fmt::format("\"{}\" is no size of a picture. Write it as 1920x1080.", words), {}};
    const size_t x = words.find('x');
    if (x == words.npos) return wrong;
    int width = 0, height = 0;
    const char *end = words.data() + words.size(), *middle = words.data() + x;
    const auto a = std::from_chars(words.data(), middle, width), b = std::from_chars(middle + 1, end, height);
    if (a.ec != std::errc() || b.ec != std::errc() || a.ptr != middle || b.ptr != end || width < 1 || height < 1) return wrong;
    return std::pair{width, height};
}

} // namespace hue
