#include "core/make/decal_atlas.h"

#include "core/compile/compile.h"
#include "core/compress/block_format.h"
#include "core/decals/decal_box.h"

#include <bit>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace hue {
namespace {

/// What several decals may show, in metres as large as the largest of them.
struct Wanted {
    Id worn;
    float across = 0, up = 0;
};

std::vector<Wanted> wantedBy(std::span<const Decal> decals, std::span<const size_t> which) {
    std::vector<Wanted> out;
    for (const size_t k : which) {
        const Decal& d = decals[k];
        auto at = std::find_if(out.begin(), out.end(), [&](const Wanted& w) { return w.worn == d.wears; });
        if (at == out.end()) at = out.insert(out.end(), {d.wears, 0, 0});
        at->across = std::max(at->across, d.width), at->up = std::max(at->up, d.height);
    }
    return out;
}

/// Where pictures lie on a sheet of squares of kAtlasPadding pixels, each with one such square around it.
struct Laid {
    std::vector<SheetPlace> squares;
    float perMetre = 0;
    int rows = 0; ///< that are taken
};

std::optional<Laid> laidAt(float perMetre, const std::vector<Wanted>& wanted, int side) {
    std::vector<std::array<int, 2>> sizes;
    const auto squares = [&](float metres) { return 2 + std::max(1, int(std::lround(metres * perMetre / kAtlasPadding))); };
    for (const Wanted& w : wanted) sizes.push_back({squares(w.across), squares(w.up)});
    std::optional<std::vector<SheetPlace>> places = placesOnSheet(sizes, side, side);
    if (!places) return {};
    Laid out{std::move(*places), perMetre, 0};
    for (const SheetPlace& p : out.squares) out.rows = std::max(out.rows, p.y + p.height);
    return out;
}

/// As large as there is room for.
std::optional<Laid> laidOut(const std::vector<Wanted>& wanted, int side) {
    float largest = 0;
    for (const Wanted& w : wanted) largest = std::max({largest, w.across, w.up});
    float high = float(side * kAtlasPadding) / largest, low = 0;
    std::optional<Laid> best = laidAt(low, wanted, side);
    for (int step = 0; best && step < 24; ++step) {
        const float middle = (low + high) / 2;
        if (std::optional<Laid> laid = laidAt(middle, wanted, side)) {
            best = std::move(laid);
            low = middle;
        } else {
            high = middle;
        }
    }
    return best;
}

/// For each pixel the nearest that is seen at all in eight bits.
std::vector<uint32_t> nearestCovered(const Picture& base) {
    std::vector<bool> seen(size_t(base.width) * size_t(base.height), true);
    for (size_t i = 0; i < seen.size() && base.channels == 4; ++i) seen[i] = base.values[4 * i + 3] > 0.5f / 255;
    return nearestSeen(seen, base.width, base.height, false);
}

/// Copies a picture to its place and kAtlasPadding pixels around it. All channels but alpha are those of `nearest`.
void place(Picture& sheet, const Picture& from, const SheetPlace& at, const std::vector<uint32_t>& nearest, float factor) {
    for (int y = -kAtlasPadding; y < at.height + kAtlasPadding; ++y)
        for (int x = -kAtlasPadding; x < at.width + kAtlasPadding; ++x) {
            const size_t own = size_t(std::clamp(y, 0, at.height - 1)) * size_t(at.width) + size_t(std::clamp(x, 0, at.width - 1));
            const float *values = &from.values[size_t(nearest[own]) * size_t(from.channels)],
                        *alpha = &from.values[own * size_t(from.channels)];
            float* to = &sheet.values[(size_t(at.y + y) * size_t(sheet.width) + size_t(at.x + x)) * size_t(sheet.channels)];
            for (int c = 0; c < 3; ++c) to[c] = values[c] * factor;
            if (sheet.channels == 4) to[3] = from.channels == 4 ? alpha[3] : 1;
        }
}

/// The set that all pictures come into: nothing is seen, and its normals are flat.
BakedSet emptySet(const std::vector<BakedSet>& sets, int width, int height) {
    BakedSet out;
    out.normalIsFlat = out.emissiveIsBlack = true;
    out.emissiveStrength = 0;
    for (const BakedSet& s : sets) {
        out.normalIsFlat &= s.normalIsFlat;
        out.emissiveIsBlack &= s.emissiveIsBlack;
        if (!s.emissiveIsBlack) out.emissiveStrength = std::max(out.emissiveStrength, s.emissiveStrength);
        for (const std::string& c : s.cautions)
            if (std::find(out.cautions.begin(), out.cautions.end(), c) == out.cautions.end()) out.cautions.push_back(c);
    }
    out.emissiveStrength = out.emissiveIsBlack ? 1 : out.emissiveStrength;
    out.surface = sets[0].surface;
    const auto same = [&](auto of) {
        return std::all_of(sets.begin(), sets.end(), [&](const BakedSet& s) { return of(s) == of(sets[0]); });
    };
    if (!same([](const BakedSet& s) { return std::pair(s.surface.alphaMode, s.surface.alphaCutoff); })) {
        out.surface.alphaMode = AlphaMode::Blend;
        out.cautions.push_back("Not all decals blend alike; in one material all of them are blended.");
    }
    if (!same([](const BakedSet& s) { return s.surface.unlit; })) {
        out.surface.unlit = false;
        out.cautions.push_back("Some decals are unlit and some are not; in one material all of them are lit.");
    }
    if (!same([](const BakedSet& s) { return s.surface.doubleSided; })) {
        out.surface.doubleSided = true;
        out.cautions.push_back("Some decals are double sided; in one material all of them are.");
    }
    const size_t pixels = size_t(width) * size_t(height);
    const std::array<std::array<float, 4>, 4> neutral{{{0, 0, 0, 0}, {1, 1, 0, 0}, {0.5f, 0.5f, 1, 0}, {0, 0, 0, 0}}};
    for (size_t m = 0; m < neutral.size(); ++m) {
        const BakedMap& like = sets[0].maps[m];
        Picture p{width, height, m == 0 ? 4 : 3, {}};
        p.values.reserve(pixels * size_t(p.channels));
        for (size_t i = 0; i < pixels; ++i) p.values.insert(p.values.end(), neutral[m].begin(), neutral[m].begin() + p.channels);
        out.maps.push_back({like.name, std::move(p), like.encoding, 0});
    }
    return out;
}

/// Settings of a decal that no material has.
void cautionOf(const Decal& d, std::vector<std::string>& cautions) {
    std::string lost;
    const auto add = [&](std::string_view what) { lost += (lost.empty() ? "" : ", ") + std::string(what); };
    if (std::any_of(d.weights.begin(), d.weights.end(), [](float w) { return w != 1; })) add("the weights of its channels");
    if (d.depthFade > 0 || d.fadeFrom < d.fadeTo) add("where it fades");
    if (!lost.empty()) cautions.push_back(fmt::format("{}: what is cut does not hold {}.", d.name, lost));
}

/// One slot of all, with UVs that lead to the places of their pictures on a sheet of that size.
Mesh ledTo(const std::vector<AtlasPicture>& pictures, CutDecals cut, std::span<const Decal> decals, int width, int height) {
    std::vector<bool> led(cut.mesh.vertices.size()); // vertices are of one slot each
    for (size_t s = 0; s < cut.decals.size(); ++s) {
        const Id& worn = decals[cut.decals[s]].wears;
        const SheetPlace& at = std::find_if(pictures.begin(), pictures.end(), [&](const AtlasPicture& p) { return p.worn == worn; })->place;
        const MeshSlot& slot = cut.mesh.slots[s];
        for (uint32_t k = slot.firstIndex; k < slot.firstIndex + slot.indexCount; ++k) {
            const uint32_t vertex = cut.mesh.indices[k];
            if (led[vertex]) continue;
            led[vertex] = true;
            auto& uv = cut.mesh.vertices[vertex].uv0;
            uv = {(float(at.x) + uv[0] * float(at.width)) / float(width), (float(at.y) + uv[1] * float(at.height)) / float(height)};
        }
    }
    cut.mesh.slots = {{"Decals", 0, uint32_t(cut.mesh.indices.size())}};
    return std::move(cut.mesh);
}

void countMemory(DecalAtlas& out, const Project& project, Assets& assets) {
    std::set<const Map*> counted;
    for (const AtlasPicture& p : out.pictures) {
        const Resolved worn = resolve(project, p.worn);
        const Compilation compiled = compileSurface(project, *worn.master);
        for (const MapSlot& slot : compiled.program->maps)
            if (const MapPtr map = assets.map(project, worn, slot); map && counted.insert(map.get()).second)
                out.bytesApart += map->cardBytes();
    }
    out.mapsApart = counted.size();
    for (const BakedMap* m : out.set.read()) {
        const Picture& p = m->picture;
        out.bytesTogether += cardBytes({}, p.width, p.height, p.channels, SampleType::U8);
        out.bytesInBlocks += cardBytes(BlockFormat::Bc7, p.width, p.height, p.channels);
    }
}

} // namespace

Result<DecalAtlas> decalAtlas(const Project& project, Assets& assets, const Specimen& specimen, const AtlasRequest& request) {
    if (const Outcome possible = canBeBaked(request.size); !possible) return possible.error();
    std::string problem;
    const MeshPtr mesh = assets.mesh(project, specimen.mesh, &problem);
    if (!problem.empty()) return Error{"mesh.cannot-use", problem, {}};
    std::vector<Decal> decals;
    std::vector<std::string> cautions;
    for (const Decal& d : specimen.decals)
        if (project.masterOf(d.wears)) decals.push_back(d);
        else if (!d.hidden) cautions.push_back(fmt::format("{}: it wears nothing, and is left out.", d.name));
    Result<CutDecals> cut = cutOutAll(*mesh, decals, request.lift);
    if (!cut) return cut.error();

    const std::vector<Wanted> wanted = wantedBy(decals, cut->decals);
    const std::optional<Laid> laid = laidOut(wanted, request.size / kAtlasPadding);
    if (!laid)
        return Error{"decal.atlas-full",
                     fmt::format("{} {} no room on {} x {} pixels, however small. Choose a larger size.", wanted.size(),
                                 wanted.size() == 1 ? "picture has" : "pictures have", request.size, request.size),
                     {}};
    // No higher than it must be, and so that its levels halve as its width does.
    const int taken = laid->rows * kAtlasPadding,
              height = std::has_single_bit(unsigned(request.size)) ? int(std::bit_ceil(unsigned(taken))) : taken;

    DecalAtlas out;
    out.decals = cut->decals.size();
    out.perMetre = laid->perMetre;
    out.cleanLevels =
        std::min({std::countr_zero(unsigned(kAtlasPadding)), std::countr_zero(unsigned(request.size)), std::countr_zero(unsigned(height))});
    std::vector<BakedSet> sets;
    for (size_t k = 0; k < wanted.size(); ++k) {
        const SheetPlace& squares = laid->squares[k];
        const SheetPlace at{(squares.x + 1) * kAtlasPadding, (squares.y + 1) * kAtlasPadding, (squares.width - 2) * kAtlasPadding,
                            (squares.height - 2) * kAtlasPadding};
        out.pictures.push_back({wanted[k].worn, at});
        BakeRequest one{.worn = wanted[k].worn, .size = at.width, .time = request.time, .control = request.control, .height = at.height};
        if (one.control.progress)
            one.control.progress = [&, k](float p) { request.control.progress((float(k) + p) / float(wanted.size())); };
        Result<BakedSet> set = bake(project, assets, one);
        if (!set) return set.error();
        sets.push_back(std::move(*set));
    }
    out.set = emptySet(sets, request.size, height);
    out.set.cautions.insert(out.set.cautions.end(), cautions.begin(), cautions.end());
    for (size_t k = 0; k < sets.size(); ++k) {
        const std::vector<uint32_t> nearest = nearestCovered(sets[k].maps[0].picture);
        for (size_t m = 0; m < sets[k].maps.size(); ++m) {
            const bool glow = m == 3 && !sets[k].emissiveIsBlack;
            place(out.set.maps[m].picture, sets[k].maps[m].picture, out.pictures[k].place, nearest,
                  glow ? sets[k].emissiveStrength / out.set.emissiveStrength : 1);
            out.set.maps[m].invalid += sets[k].maps[m].invalid;
        }
    }

    for (const size_t k : cut->decals) cautionOf(decals[k], out.set.cautions);
    out.mesh = ledTo(out.pictures, std::move(*cut), decals, request.size, height);
    countMemory(out, project, assets);
    return out;
}

} // namespace hue
