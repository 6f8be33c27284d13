#include "core/project/map_index.h"

#include "core/base/diagnostic.h"
#include "core/base/files.h"
#include "core/base/hash.h"
#include "core/base/json_text_private.h"
#include "core/edits/edits.h"
#include "core/image_files/image_file.h"
#include "core/images/mips.h"

#include <algorithm>
#include <cstring>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <fstream>
#include <sstream>

namespace hue {
namespace {

namespace fs = std::filesystem;

constexpr char kMark[8] = {'H', 'U', 'E', 'M', 'A', 'P', '0', '2'};

/// Everything that lies flat in memory, in one order for reading and writing.
template <class Stream> void each(Stream& s, MapKnowledge& k) {
    MapFacts& f = k.facts;
    s(f.width), s(f.height), s(f.channels), s(f.type), s(f.channel), s(f.grey), s(f.likeness), s(f.smoothness), s(f.normals), s(f.pixels);
    s.list(f.sketch);
    s(k.thumbnailWidth), s(k.thumbnailHeight);
    s.list(k.thumbnail);
    s(k.fileBytes);
}
struct Out {
    std::string bytes;
    template <class T> void operator()(const T& v) { bytes.append(reinterpret_cast<const char*>(&v), sizeof v); }
    template <class T> void list(const std::vector<T>& v) {
        (*this)(uint32_t(v.size()));
        bytes.append(reinterpret_cast<const char*>(v.data()), v.size() * sizeof(T));
    }
};
struct In {
    std::string bytes;
    size_t at = 0;
    bool good = true;
    void take(void* to, size_t n) {
        good = good && n <= bytes.size() - at;
        if (!good) return;
        std::memcpy(to, bytes.data() + at, n);
        at += n;
    }
    template <class T> void operator()(T& v) { take(&v, sizeof v); }
    template <class T> void list(std::vector<T>& v) {
        uint32_t n = 0;
        (*this)(n);
        if (!good || n > (1 << 20)) return void(good = false);
        v.resize(n);
        take(v.data(), n * sizeof(T));
    }
};

std::string cacheName(const fs::path& file, fs::file_time_type changed, uintmax_t bytes) {
    Hash hash;
    hash.add(fmt::format("{}|{}|{}", file.string(), changed.time_since_epoch().count(), bytes));
    return hash.text() + ".map";
}

void makeThumbnail(const Image& image, MapKnowledge& k) {
    Image small = image;
    while (small.width >= 4 * MapKnowledge::kThumbnail && small.height >= 4 * MapKnowledge::kThumbnail) small = halved(small, false);
    const float ratio = std::min(1.f, float(MapKnowledge::kThumbnail) / float(std::max(small.width, small.height)));
    small = resized(small, std::max(1, int(float(small.width) * ratio)), std::max(1, int(float(small.height) * ratio)), Filter::Triangle);
    k.thumbnailWidth = small.width, k.thumbnailHeight = small.height;
    k.thumbnail.assign(size_t(small.width) * size_t(small.height) * 4, 255);
    for (int y = 0; y < small.height; ++y)
        for (int x = 0; x < small.width; ++x)
            for (int c = 0; c < 3; ++c) {
                const float v = small.at(x, y, small.channels >= 3 ? c : 0);
                k.thumbnail[size_t((y * small.width + x) * 4 + c)] = uint8_t(v > 0 ? std::min(v, 1.f) * 255 + 0.5f : 0);
            }
}

} // namespace

MapIndex::MapIndex(fs::path cache) : m_cache(std::move(cache)) {}

fs::path MapIndex::defaultCache() { return cacheFolder("maps"); }

MapKnowledgePtr MapIndex::known(const fs::path& file) const {
    std::error_code missing;
    const auto changed = fs::last_write_time(file, missing);
    const std::lock_guard lock(m_mutex);
    const auto it = m_entries.find(file.string());
    return it != m_entries.end() && !missing && it->second.changed == changed ? it->second.knowledge : nullptr;
}

MapKnowledgePtr MapIndex::look(const fs::path& file) {
    if (MapKnowledgePtr there = known(file)) return there;
    std::error_code missing;
    const auto changed = fs::last_write_time(file, missing);
    auto k = std::make_shared<MapKnowledge>();
    k->fileBytes = fs::file_size(file, missing);
    const fs::path cached = m_cache.empty() ? fs::path{} : m_cache / cacheName(file, changed, k->fileBytes);
    bool found = false;
    if (std::ifstream in(cached, std::ios::binary); !cached.empty() && in) {
        std::ostringstream text;
        text << in.rdbuf();
        In s{text.str(), sizeof kMark, true};
        if (s.bytes.starts_with(std::string_view(kMark, sizeof kMark))) {
            each(s, *k);
            found = s.good && s.at == s.bytes.size();
        }
        if (!found) *k = {};
    }
    if (!found) {
        k->fileBytes = fs::file_size(file, missing);
        if (const Result<Image> image = readImage(file)) {
            k->facts = factsOf(*image);
            makeThumbnail(*image, *k);
            if (!cached.empty()) {
                Out s;
                s.bytes.assign(kMark, sizeof kMark);
                each(s, *k);
                // A cache that cannot be written costs time, nothing else.
                (void)writeFile(cached, s.bytes, Folders::Make);
            }
        } else {
            k->problem = image.error().sentence;
        }
    }
    if (k->problem.empty()) k->guess = guessOf(file.filename().string(), k->facts);
    const std::lock_guard lock(m_mutex);
    m_entries[file.string()] = {changed, k};
    return k;
}

std::vector<std::vector<Id>> equalMaps(const Project& project, const Assets& assets, const MapIndex& index) {
    std::map<uint64_t, std::vector<Id>> byPixels;
    for (const auto& m : project.maps)
        if (const auto k = index.known(assets.resolve(m->path)); k && k->problem.empty()) byPixels[k->facts.pixels].push_back(m->id);
    std::vector<std::vector<Id>> out;
    for (auto& [hash, ids] : byPixels)
        if (ids.size() > 1) out.push_back(std::move(ids));
    return out;
}

std::vector<FoundSet> proposedSets(const std::vector<const MapFile*>& maps, const Assets& assets, const MapIndex& index) {
    std::vector<SetCandidate> candidates;
    for (const MapFile* m : maps) {
        const fs::path path = assets.resolve(m->path);
        const auto k = index.known(path);
        candidates.push_back(
            {path.filename().string(), k ? k->guess : guessOfName(path.filename().string()), k ? k->facts.sketch : std::vector<float>{}});
        if (!m->role.empty()) candidates.back().guess.role = m->role;
    }
    return findSets(candidates);
}

std::optional<Interval> boundsOfMap(const Project& project, const Assets& assets, const MapIndex& index, const Id& map) {
    const MapFile* file = project.map(map);
    const MapKnowledgePtr k = file ? index.known(assets.resolve(file->path)) : nullptr;
    if (!k || !k->problem.empty()) return {};
    const MapFacts& f = k->facts;
    const bool whole = f.type == SampleType::U8 || f.type == SampleType::U16, alpha = f.channels == 2 || f.channels == 4;
    const bool encoded = file->kind == MapKind::Color && whole;
    Interval out = alpha ? Interval{f.channel[size_t(f.channels) - 1].least, f.channel[size_t(f.channels) - 1].most} : Interval{1, 1};
    for (size_t c = 0; c < size_t(f.channels - alpha); ++c) {
        const ChannelFacts& its = f.channel[c];
        out.low = std::min(out.low, encoded ? srgbToLinear(its.least) : its.least);
        out.high = std::max(out.high, encoded ? srgbToLinear(its.most) : its.most);
    }
    return out;
}

namespace {

/// Maps that are larger than their parameter means them to be, or have too few channels.
void findUnmeant(const Project& project, const Assets& assets, const MapIndex& index, const Id& only, std::vector<Diagnostic>& out) {
    const auto look = [&](const Parameter& p, const Id& id, const std::string& where) {
        const MapFile* map = id.empty() || (!only.empty() && id != only) ? nullptr : project.map(id);
        const auto k = map ? index.known(assets.resolve(map->path)) : nullptr;
        if (!k || !k->problem.empty()) return;
        const auto say = [&](const std::string& is) {
            out.push_back({Severity::Caution,
                           "map.not-as-meant",
                           {{}, {}, id},
                           fmt::format("{}: {} {}. Give it another map, or change what the parameter asks for.", where, map->name, is),
                           {}});
        };
        if (const int side = std::max(k->facts.width, k->facts.height); p.mostPixels && side > p.mostPixels)
            say(fmt::format("is {} pixels long, and {} asks for at most {}", side, p.name, p.mostPixels));
        if (p.leastChannels && k->facts.channels < p.leastChannels)
            say(fmt::format("has {} {}, and {} asks for {} at least", k->facts.channels, k->facts.channels == 1 ? "channel" : "channels",
                            p.name, p.leastChannels));
    };
    std::map<Id, const Parameter*> asking;
    for (const MasterPtr& m : project.masters)
        for (const Parameter& p : m->parameters)
            if (p.type == ParameterType::Map && (p.mostPixels || p.leastChannels)) {
                asking[p.id] = &p;
                look(p, p.standard.map, m->name);
            }
    if (asking.empty()) return;
    for (const InstancePtr& i : project.instances)
        for (const auto& [parameter, own] : i->own)
            if (const auto p = asking.find(parameter); p != asking.end()) look(*p->second, own.map, project.nameOf(i->id));
}

} // namespace

std::vector<Diagnostic> mapFindings(const Project& project, const Assets& assets, const MapIndex& index, const Id& only) {
    std::vector<Diagnostic> out;
    for (const auto& m : project.maps) {
        if (!only.empty() && m->id != only) continue;
        const Place place{{}, {}, m->id};
        if (edit::readersOf(project, m->id).empty())
            out.push_back({Severity::Advice,
                           "map.unused",
                           place,
                           fmt::format("Nothing reads the map {}.", m->name),
                           {{"Remove it", [id = m->id](const Project& p) { return edit::removeMap(p, id); }}}});
        const fs::path path = assets.resolve(m->path);
        const auto k = index.known(path);
        // What the head of the file does not tell: pixels that are missing or damaged.
        if (k && !k->problem.empty() && imageFacts(path))
            out.push_back({Severity::Error, "map.cannot-use", place, fmt::format("The map {}: {}", m->name, k->problem), {}});
        if (!k || !k->problem.empty()) continue;
        if (const WrongKind wrong = wrongKind(path.filename().string(), k->facts, m->kind); !wrong.sentence.empty()) {
            MapFile better = *m;
            better.kind = wrong.better;
            out.push_back(
                {Severity::Caution,
                 "map.wrong-kind",
                 place,
                 fmt::format("The map {} is taken for {}. {}", m->name, nameOf(m->kind), wrong.sentence),
                 {{fmt::format("Make it {}", nameOf(wrong.better)), [better](const Project& p) { return edit::changeMap(p, better); }}}});
        }
        for (const MapRemark& r : remarksOn(k->facts, m->kind))
            out.push_back({r.code == "value.broken" ? Severity::Caution : Severity::Advice,
                           "map." + r.code,
                           place,
                           fmt::format("The map {}: {}", m->name, r.sentence),
                           {}});
    }
    findUnmeant(project, assets, index, only, out);
    for (const std::vector<Id>& group : equalMaps(project, assets, index)) {
        if (!only.empty() && std::find(group.begin(), group.end(), only) == group.end()) continue;
        std::vector<std::string> names;
        for (const Id& id : group) names.push_back(project.map(id)->name);
        out.push_back({Severity::Caution,
                       "map.equal",
                       {{}, {}, only.empty() ? group[1] : only},
                       fmt::format("{} hold the same pixels and take memory each.", fmt::join(names, " and ")),
                       {}});
    }
    return out;
}

} // namespace hue
