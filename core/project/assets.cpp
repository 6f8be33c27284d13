#include "core/project/assets.h"

#include "core/maps/drawn_map.h"

#include "core/base/diagnostic.h"
#include "core/image_files/image_file.h"
#include "core/pack/pack.h"
#include "core/project/map_library.h"
#include "core/surface/light_files.h"

#include <cstring>
#include <fmt/format.h>
#include <set>

namespace hue {
namespace {

namespace fs = std::filesystem;

/// Checks with a cross through them: nobody takes it for a map.
MapPtr standIn() {
    static const MapPtr map = [] {
        constexpr int size = 64;
        std::vector<std::byte> texels(size * size * 4);
        for (int y = 0; y < size; ++y)
            for (int x = 0; x < size; ++x) {
                const bool cross = std::abs(x - y) < 4 || std::abs(x + y - size + 1) < 4;
                const auto grey = std::byte(cross ? 20 : ((x / 8 + y / 8) & 1) ? 235 : 150);
                std::byte* p = &texels[size_t(y * size + x) * 4];
                p[0] = p[1] = p[2] = grey;
                p[3] = std::byte(255);
            }
        auto made = std::make_shared<Map>(size, size, TexelFormat::U8, true, Wrap::Repeat, std::move(texels));
        made->makeMips();
        return made;
    }();
    return map;
}

} // namespace

void Assets::setFolder(const fs::path& folder, bool own) {
    const std::lock_guard lock(m_mutex);
    m_folder = folder;
    m_ownFolder = own;
}

fs::path Assets::folder() const {
    const std::lock_guard lock(m_mutex);
    return m_folder;
}

fs::path Assets::resolve(const std::string& path) const { return folder() / path; }

std::string Assets::stored(const fs::path& file) const {
    const std::lock_guard lock(m_mutex);
    const fs::path whole = (m_folder / file).lexically_normal();
    const fs::path relative = whole.lexically_relative(m_folder.lexically_normal());
    const bool outside = relative.empty() || *relative.begin() == "..";
    return relative.empty() || (outside && m_ownFolder) ? whole.string() : relative.generic_string();
}

MapPtr Assets::map(const Project& project, const Id& id, MapLibrary::View view) {
    const MapFile* file = project.map(id);
    if (!file && isDrawn(id)) {
        constexpr size_t kMostDrawn = 512; // a drag makes one with every move
        const std::lock_guard lock(m_mutex);
        if (const auto known = m_drawn.find(id); known != m_drawn.end()) return known->second;
        if (m_drawn.size() >= kMostDrawn) m_drawn.clear();
        const Result<Drawn> drawn = drawnFrom(id);
        return m_drawn[id] = drawn ? drawnMap(*drawn) : standIn();
    }
    if (!file) return nullptr;
    MapPtr map = m_maps.get({resolve(file->path), file->kind, file->wrap, file->format, levels(project, *file)}, view);
    return map ? map : standIn();
}

MapLevels Assets::levels(const Project& project, const MapFile& map) const {
    MapLevels how;
    for (const auto& k : project.packings) {
        if (k->map != map.id) continue;
        how.how = MapLevels::How::AsPacked;
        how.meaning = mipMeaningOf(k->recipe);
        const MapFile* its = how.meaning.roughness >= 0 ? project.mapOfSet(map.set, "normal") : nullptr;
        if (its) how.normals = resolve(its->path);
        return how;
    }
    if (const auto cut = m_cutOuts.of(project, map.id)) {
        how.how = MapLevels::How::AsPacked;
        how.meaning.encoded = map.kind == MapKind::Color;
        how.meaning.coverage = cut->channel;
        how.meaning.cutoff = cut->cutoff;
    } else if (map.role == "opacity") {
        how.how = MapLevels::How::Opacity;
    }
    return how;
}

MapPtr Assets::map(const Project& project, const Resolved& resolved, const MapSlot& slot, MapLibrary::View view) {
    if (slot.parameter.empty()) return map(project, slot.map, view);
    auto it = resolved.values.find(slot.parameter);
    return it == resolved.values.end() ? nullptr : map(project, it->second.value.map, view);
}

MeshPtr Assets::mesh(const Project& project, const Id& id, std::string* problem) {
    if (MeshPtr shape = id.starts_with("shape:") ? shapeById(id) : nullptr) return shape;
    const MeshFile* file = project.mesh(id);
    auto fail = [&](const std::string& why) {
        if (problem) *problem = why;
        return shapeById("shape:cube");
    };
    if (!file) return fail("The project does not have this mesh. Drag another one on the specimen.");
    const fs::path path = resolve(file->path);
    std::error_code missing;
    const auto changed = fs::last_write_time(path, missing);
    {
        const std::lock_guard lock(m_mutex);
        auto it = m_meshes.find(path.string());
        if (it != m_meshes.end() && it->second.changed == changed && !missing)
            return it->second.mesh ? it->second.mesh : fail(it->second.problem);
    }
    MeshEntry entry;
    entry.changed = changed;
    if (Result<Mesh> read = readMesh(path)) entry.mesh = std::make_shared<Mesh>(std::move(*read));
    else entry.problem = read.error().sentence;
    {
        const std::lock_guard lock(m_mutex);
        m_meshes[path.string()] = entry;
    }
    return entry.mesh ? entry.mesh : fail(entry.problem);
}

void Assets::keep(const fs::path& file, MeshPtr mesh) {
    std::error_code missing;
    MeshEntry entry;
    entry.mesh = std::move(mesh);
    entry.changed = fs::last_write_time(file, missing);
    const std::lock_guard lock(m_mutex);
    if (!missing) m_meshes[file.string()] = std::move(entry);
}

void Assets::keepOnly(const Project& project) {
    std::set<fs::path> files;
    for (const auto& m : project.maps) files.insert(resolve(m->path));
    m_maps.keepOnly(files);
    std::set<std::string> meshes;
    for (const auto& m : project.meshes) meshes.insert(resolve(m->path).string());
    const std::lock_guard lock(m_mutex);
    std::erase_if(m_meshes, [&](const auto& e) { return !meshes.contains(e.first); });
}

std::vector<Diagnostic> Assets::problems(const Project& project, bool pixels) {
    std::vector<Diagnostic> out;
    for (const auto& m : project.maps) {
        const fs::path path = resolve(m->path);
        Outcome good = Done{};
        if (pixels) good = readable(path);
        else if (const Result<ImageFacts> facts = imageFacts(path); !facts) good = facts.error();
        if (!good)
            out.push_back(
                {Severity::Error, "map.cannot-use", {{}, {}, m->id}, fmt::format("The map {}: {}", m->name, good.error().sentence), {}});
    }
    std::set<std::string> lights{project.lineup.light};
    for (const Specimen& s : project.lineup.specimens) lights.insert(s.light);
    for (const std::string& light : lights) {
        // What has no dot and no slash is a light made by code; unknown ones are told with the other words.
        if (light.find_first_of("./") == std::string::npos || findLight(light)) continue;
        if (const Outcome good = canBeLight(resolve(light)); !good)
            out.push_back({Severity::Error, "light.cannot-use", {}, fmt::format("The light: {}", good.error().sentence), {}});
    }
    if (const Yardstick& y = project.lineup.yardstick; y.what == Yardstick::What::Picture)
        if (const auto facts = imageFacts(resolve(y.picture)); !facts)
            out.push_back({Severity::Error, "yardstick.cannot-use", {}, fmt::format("The yardstick: {}", facts.error().sentence), {}});
    for (const AlphaUse& use : alphaUsesOf(project)) {
        const MapFile* map = project.map(use.map);
        if (!map || use.cut.channel != kCoverageAlpha) continue;
        const Result<ImageFacts> facts = imageFacts(resolve(map->path));
        if (!facts || facts->channels % 2 == 0) continue;
        const bool mask = use.mode == AlphaMode::Mask;
        out.push_back(
            {Severity::Caution,
             "alpha.map-has-none",
             {use.worn, {}, use.map},
             fmt::format("{} is {} by the alpha of the map {}, which has none: {}. Take a map with alpha, or wire one of its other "
                         "channels.",
                         project.nameOf(use.worn), mask ? "cut out" : "see-through", map->name,
                         mask ? "nothing is cut away" : "nothing shines through"),
             {}});
    }
    for (const auto& m : project.meshes) {
        std::string problem;
        mesh(project, m->id, &problem);
        if (!problem.empty())
            out.push_back({Severity::Error, "mesh.cannot-use", {{}, {}, m->id}, fmt::format("The mesh {}: {}", m->name, problem), {}});
    }
    return out;
}

} // namespace hue
