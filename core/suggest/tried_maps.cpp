#include "core/suggest/tried_maps.h"

#include "core/base/files.h"
#include "core/base/hash.h"
#include "core/document/names.h"
#include "core/image_files/image_file.h"
#include "core/images/mips.h"
#include "core/make/made_maps.h"

#include <algorithm>
#include <fmt/format.h>

namespace hue {

namespace fs = std::filesystem;

TriedMaps::TriedMaps(Assets& assets, fs::path folder) : m_assets(assets), m_folder(std::move(folder)) {
    if (m_folder.empty()) m_folder = cacheFolder("tried");
    if (m_folder.empty()) m_folder = fs::temp_directory_path() / "huestack-tried";
    m_folder = m_folder.lexically_normal();
}

fs::path TriedMaps::fileFor(const std::string& key, const std::string& name, SampleType type) const {
    std::string plain = name;
    for (char& c : plain)
        if (c == '/' || static_cast<unsigned char>(c) < 32) c = '_';
    Hash hash;
    hash.add(key);
    return m_folder / hash.text() / (plain + (type == SampleType::U8 || type == SampleType::U16 ? ".png" : ".exr"));
}

Result<MapFile> TriedMaps::ofWire(const Project& project, MapFile map) {
    const std::string print = fingerprintOf(project, m_assets, map.origin);
    if (print.empty()) return Error{"make.nothing", fmt::format("There is no wire to make {} of.", map.name), {}};
    const std::scoped_lock one(m_making);
    const fs::path file = fileFor("wire " + print, map.name, map.origin.type);
    Work alone;
    alone.threads = 1;
    // What kind of map it is comes with its picture; the file alone does not say it.
    const auto known = m_kinds.find(print);
    if (known == m_kinds.end() || !fs::exists(file)) {
        const Result<WirePicture> picture = pictureOfWire(project, m_assets, map.origin, alone);
        if (!picture) return picture.error();
        const bool integer = map.origin.type == SampleType::U8 || map.origin.type == SampleType::U16;
        const PixelEncoding as = picture->kind == MapKind::Color && integer ? PixelEncoding::Srgb : PixelEncoding::Data;
        if (Outcome o = writeImage(file, picture->image, as); !o) return o.error();
        m_kinds[print] = picture->kind;
    }
    map.path = file.string();
    map.kind = m_kinds.at(print);
    map.hash = contentHash(file);
    map.origin.fingerprint = print;
    return map;
}

Result<MapFile> TriedMaps::resized(const MapFile& map, int width, int height) {
    const fs::path from = m_assets.resolve(map.path);
    const std::scoped_lock one(m_making);
    const std::string hash = map.hash.empty() ? contentHash(from) : map.hash;
    const Result<ImageFacts> facts = imageFacts(from);
    if (!facts) return facts.error();
    const fs::path file = fileFor(fmt::format("resized {} {} {}x{}", hash, int(map.kind), width, height),
                                  fmt::format("{} {}", from.stem().string(), std::max(width, height)), facts->type);
    if (!fs::exists(file)) {
        Result<Image> image = readImage(from);
        if (!image) return image.error();
        // As the smaller levels of the map are made: colors as light, normals as directions.
        std::vector<Image> levels = hue::levelsOf(std::move(*image), map.kind, {});
        const auto fits =
            std::find_if(levels.begin(), levels.end(), [&](const Image& l) { return l.width == width && l.height == height; });
        const Image small = fits != levels.end() ? *fits : hue::resized(levels[0], width, height, Filter::Box);
        if (Outcome o = writeImage(file, small, map.kind == MapKind::Color ? PixelEncoding::Srgb : PixelEncoding::Data); !o)
            return o.error();
    }
    MapFile out = map;
    out.path = file.string();
    out.hash = contentHash(file);
    return out;
}

Result<MapFile> TriedMaps::packed(const Project& project, Packing& packing) {
    const Result<PackRequest> asked = requestOf(project, m_assets, packing);
    if (!asked) return asked.error();
    PackRequest request = *asked;
    request.threads = 1;
    std::string sources;
    for (const auto& [role, source] : packing.sources)
        if (const MapFile* map = project.map(source)) sources += fmt::format(" {}={}", role, map->hash);
    std::vector<std::string> names;
    for (const auto& m : project.maps) names.push_back(m->name);
    MapFile map;
    map.name = freeName(names, packing.recipe.name);
    const std::scoped_lock one(m_making);
    const fs::path file =
        fileFor(fmt::format("packed {}{}", fingerprintOf(project, m_assets, packing), sources), map.name, packing.recipe.type);
    if (!fs::exists(file))
        if (Outcome o = packToFile(request, file); !o) return o.error();
    map.id = newId('t');
    map.path = file.string();
    map.kind = packing.recipe.srgb ? MapKind::Color : MapKind::Data;
    map.role = "packed";
    map.hash = contentHash(file);
    map.origin.from = MapOrigin::From::Packing;
    packing.map = map.id;
    packing.fingerprint = fingerprintOf(project, m_assets, packing);
    return map;
}

std::shared_ptr<const MapFacts> TriedMaps::factsOf(const MapFile& map) {
    const std::scoped_lock one(m_making);
    auto& known = m_facts[map.path + map.hash];
    if (known) return known;
    const Result<Image> image = readImage(m_assets.resolve(map.path));
    if (!image) return {};
    return known = std::make_shared<MapFacts>(hue::factsOf(*image, 1));
}

Result<Project> TriedMaps::kept(const Project& state) const {
    Project out = state;
    for (auto& slot : out.maps) {
        const fs::path file = m_assets.resolve(slot->path).lexically_normal();
        if (!liesWithin(m_folder, file)) continue;
        const Result<ImageFacts> facts = imageFacts(file);
        if (!facts) return facts.error();
        const fs::path to = pathForMap(m_assets, file.stem().string(), facts->type);
        std::error_code wrong;
        fs::create_directories(to.parent_path(), wrong);
        if (!wrong) fs::copy_file(file, to, wrong);
        if (wrong)
            return Error{"file.cannot-write",
                         fmt::format("{} cannot be written: {}. Make room, or check the folder.", to.string(), wrong.message()),
                         {}};
        auto map = std::make_shared<MapFile>(*slot);
        map->path = m_assets.stored(to);
        slot = std::move(map);
    }
    return out;
}

} // namespace hue
