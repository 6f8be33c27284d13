// Savings of maps: their sizes and formats, what is read of them, and what could be one or none.
#include "core/base/vectors.h"
#include "core/compress/block_format.h"
#include "core/image_files/image_file.h"
#include "core/make/flat_limits.h"
#include "core/nodes/assembly_card.h"
#include "core/suggest/rules_private.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace hue {
namespace {

constexpr int kSmallest = 64;    ///< pixels a side below which no map is made smaller
constexpr int kMadeSide = 512;   ///< of maps in the place of cards
constexpr int kWorthMaking = 24; ///< operations above which cards are tried as a map
constexpr size_t kMostMade = 6;  ///< maps in the place of cards that are tried, the dearest first
constexpr int kWorthFetches = 2; ///< or so many fetches, such as those of a normal from neighbouring heights

/// Letters of rgba in their order, each once.
std::string inOrder(const std::string& letters) {
    std::string out;
    for (const char c : {'r', 'g', 'b', 'a'})
        if (letters.find(c) != letters.npos) out += c;
    return out;
}

double bitsOf(BlockFormat format) {
    const BlockFormatInfo& info = infoOf(format);
    return info.bytes * 8. / (info.width * info.height);
}

} // namespace

std::vector<Rules::Reading> Rules::readings() const {
    std::vector<Reading> out;
    for (const auto& [id, node] : m_master->graph.nodes) {
        const NodeDef* def = nodeDefOf(m_project, *node);
        const PortDef* port = def ? def->input("map") : nullptr;
        if (!port || port->width != kMapPort || node->muted || !m_cards.contains(id)) continue;
        Reading r{node.get(), nullptr, {}};
        const auto wire = node->wires.find("map");
        if (wire == node->wires.end()) {
            if (const auto own = node->settings.find("map"); own != node->settings.end()) r.map = own->second;
        } else {
            const Node* card = m_master->graph.find(wire->second.node);
            const auto of = card ? card->settings.find("parameter") : decltype(card->settings.find("")){};
            if (!card || card->kind != "parameter" || of == card->settings.end()) continue;
            r.parameter = m_master->parameter(of->second);
            const auto value = m_resolved.values.find(of->second);
            if (!r.parameter || value == m_resolved.values.end()) continue;
            r.map = value->second.value.map;
        }
        if (m_project.map(r.map)) out.push_back(r);
    }
    return out;
}

std::set<Id> Rules::mapsRead() const {
    std::set<Id> out;
    for (const Id& id : mapsWornBy(m_project, m_master->id))
        if (m_project.map(id)) out.insert(id);
    for (const auto& [id, entry] : m_resolved.values)
        if (m_project.map(entry.value.map)) out.insert(entry.value.map);
    return out;
}

bool Rules::isOwnOfInstances(const Id& parameter) const {
    const Parameter* p = m_master->parameter(parameter);
    return m_owned.contains(parameter) || (p && m_owned.contains(p->ofSet));
}

std::string Rules::channelsRead(const Id& map) const {
    std::string out;
    for (const Program* p : {m_compiled->program.get(), m_compiled->offset.get()}) {
        if (!p) continue;
        std::set<int32_t> reads;
        for (size_t k = 0; k < p->code.size(); ++k) {
            const Instruction& i = p->code[k];
            if (isFetch(i.op)) {
                const MapSlot& slot = p->maps[i.imm];
                const auto value = m_resolved.values.find(slot.parameter);
                const Id& its = slot.parameter.empty() || value == m_resolved.values.end() ? slot.map : value->second.value.map;
                if (its == map) reads.insert(int32_t(k));
            }
            for (int a = 0; a < i.operands; ++a) {
                if (!reads.contains(i.args[size_t(a)])) continue;
                if (i.op != Op::Swizzle) return "rgba";
                for (int c = 0; c < i.width; ++c) out += "rgba"[(i.imm >> (2 * c)) & 3];
            }
        }
        for (const Program::Output& o : p->outputs)
            if (reads.contains(o.value)) return "rgba";
    }
    return inOrder(out);
}

/// Formats that the target reads and that take less room than what the map has now.
void Rules::formats() {
    for (const Id& id : mapsRead()) {
        const MapFile* map = m_project.map(id);
        const auto takes = [&](std::string_view format) {
            return m_target.formats.empty() ||
                   std::find(m_target.formats.begin(), m_target.formats.end(), format) != m_target.formats.end();
        };
        const std::string read = channelsRead(id);
        const std::optional<BlockFormat> now = blockFormatByKey(map->format);
        for (const BlockFormat f : {BlockFormat::Bc7, BlockFormat::Bc5, BlockFormat::Bc4, BlockFormat::Bc1, BlockFormat::Astc4x4,
                                    BlockFormat::Astc6x6, BlockFormat::Astc8x8}) {
            const BlockFormatInfo& info = infoOf(f);
            if (!takes(info.key) || (now && takes(map->format) && bitsOf(f) >= bitsOf(*now) - 1e-9)) continue;
            // What is read is to be there: single channels in red, two in red and green, three without alpha.
            const bool holds = f == BlockFormat::Bc4   ? read == "r" && map->kind != MapKind::Normal
                               : f == BlockFormat::Bc5 ? map->kind == MapKind::Normal || (read == "rg" && map->kind == MapKind::Data)
                               : f == BlockFormat::Bc1 ? map->kind == MapKind::Color && read.find('a') == read.npos
                                                       : map->kind != MapKind::Normal || f != BlockFormat::Bc7;
            if (!holds) continue;
            MapFile smaller = *map;
            smaller.format = std::string(info.key);
            add("block-format", fmt::format("{}.{}", id, info.key), fmt::format("{} as {}", map->name, info.name),
                f == BlockFormat::Bc4 || (f == BlockFormat::Bc5 && map->kind == MapKind::Data)
                    ? fmt::format("Of this map {} alone {} read.", fmt::join(read, " and "), read.size() == 1 ? "is" : "are")
                    : fmt::format("{} reads it, and it takes less memory.", m_target.name),
                {}, [smaller](const Project& p) { return edit::changeMap(p, smaller); });
        }
    }
}

void Rules::smallerMaps() {
    for (const Id& id : mapsRead()) {
        const MapFile* map = m_project.map(id);
        const Result<ImageFacts> facts = imageFacts(m_maps->assets().resolve(map->path));
        if (!facts || std::min(facts->width, facts->height) < 2 * kSmallest) continue;
        const int width = facts->width / 2, height = facts->height / 2;
        const size_t others = edit::readersOf(m_project, id).size();
        TriedMaps* maps = m_maps;
        edit::Edit change;
        if (map->origin.from == MapOrigin::From::Packing) {
            const auto packing =
                std::find_if(m_project.packings.begin(), m_project.packings.end(), [&](const auto& k) { return k->map == id; });
            if (packing == m_project.packings.end()) continue;
            change = [maps, side = std::max(width, height), like = **packing, was = *map](const Project& p) -> Result<Project> {
                Packing k = like;
                k.recipe.size = side;
                Result<MapFile> made = maps->packed(p, k);
                if (!made) return made.error();
                MapFile now = was;
                now.path = made->path, now.hash = made->hash;
                k.map = was.id;
                const Result<Project> next = edit::changeMap(p, now);
                return next ? edit::changePacking(*next, k) : next;
            };
        } else if (map->origin.from == MapOrigin::From::Wire) {
            change = [maps, width, height, was = *map](const Project& p) -> Result<Project> {
                MapFile now = was;
                now.origin.width = width, now.origin.height = height;
                const Result<MapFile> made = maps->ofWire(p, now);
                return made ? edit::changeMap(p, *made) : Result<Project>(made.error());
            };
        } else if (map->origin.from == MapOrigin::From::File) {
            change = [maps, width, height, was = *map](const Project& p) -> Result<Project> {
                const Result<MapFile> made = maps->resized(was, width, height);
                return made ? edit::changeMap(p, *made) : Result<Project>(made.error());
            };
        } else {
            continue;
        }
        add("smaller-map", id, fmt::format("{} at {} x {}", map->name, width, height),
            fmt::format("It has {} x {} pixels now{}.", facts->width, facts->height,
                        others > 1 ? fmt::format(", and {} places read it", others) : std::string()),
            {}, std::move(change));
    }
}

/// What is read of a channel that is the same all over its map is that value.
void Rules::constantChannels() {
    for (const Reading& r : readings()) {
        if (r.parameter && isOwnOfInstances(r.parameter->id)) continue;
        const MapFile* map = m_project.map(r.map);
        if (map->kind == MapKind::Normal) continue;
        const std::shared_ptr<const MapFacts> facts = m_maps->factsOf(*map);
        if (!facts) continue;
        std::vector<edit::Edit> steps;
        std::set<char> letters;
        for (const auto& [card, port] : readersOf(r.card->id)) {
            const Source& wire = wireAt(card, port);
            const char letter = wire.port == "alpha"    ? 'a'
                                : wire.take.size() == 1 ? "rgbargba"[std::string_view("rgbaxyzw").find(wire.take[0])]
                                                        : 0;
            if (!letter) continue;
            // One channel stands in red, green and blue; the alpha that is not there is 1.
            const int at = letter == 'a' ? 3 : facts->channels < 3 ? 0 : letter == 'r' ? 0 : letter == 'g' ? 1 : 2;
            float value = 1;
            if (letter == 'a' && facts->channels == 2) continue;
            if (at < facts->channels) {
                const ChannelFacts& channel = facts->channel[size_t(at)];
                if (!channel.constant()) continue;
                const bool encoded =
                    map->kind == MapKind::Color && letter != 'a' && (facts->type == SampleType::U8 || facts->type == SampleType::U16);
                value = encoded ? srgbToLinear(channel.mean) : channel.mean;
            }
            letters.insert(letter);
            steps.push_back(valueAt(card, port, Value::number(value)));
        }
        if (steps.empty()) continue;
        add("constant-channel", r.card->id, fmt::format("A value in the place of {} of {}", fmt::join(letters, ", "), map->name),
            "It is the same all over the map.", r.card->id, [steps](const Project& p) {
                Result<Project> next = p;
                for (const edit::Edit& step : steps)
                    if (next) next = step(*next);
                return next;
            });
    }
}

/// Maps of which single channels are read in the same place become one.
void Rules::packMaps() {
    struct Wanted {
        Id map;
        const Node* card;
        std::string letters;
    };
    std::map<std::string, std::vector<Wanted>> together; // by how they are read
    for (const Reading& r : readings()) {
        const MapFile* map = m_project.map(r.map);
        if (map->kind == MapKind::Normal || map->kind == MapKind::Color || map->origin.from == MapOrigin::From::Packing ||
            (r.parameter && isOwnOfInstances(r.parameter->id)))
            continue;
        const Result<ImageFacts> facts = imageFacts(m_maps->assets().resolve(map->path));
        if (!facts) continue;
        std::string letters;
        for (const auto& [card, port] : readersOf(r.card->id)) {
            const Source& wire = wireAt(card, port);
            if (wire.port == "alpha") letters += 'a';
            else if (facts->channels == 1) letters += 'r';
            else if (wire.take.size() == 1) letters += "rgbargba"[std::string_view("rgbaxyzw").find(wire.take[0])];
            else letters += "rgba"; // more than can be told apart
        }
        letters = inOrder(letters);
        if (letters.empty() || letters.size() > 3) continue;
        std::string how = r.card->kind + (r.parameter ? "|parameter" : "");
        for (const auto& [port, s] : r.card->wires)
            if (port != "map") how += fmt::format("|{}={}.{}.{}", port, s.node, s.port, s.take);
        for (const auto& [port, v] : r.card->constants) how += fmt::format("|{}={},{},{},{}", port, v[0], v[1], v[2], v[3]);
        for (const auto& [key, v] : r.card->settings)
            if (key != "map") how += fmt::format("|{}={}", key, v);
        std::vector<Wanted>& group = together[how];
        const auto same = std::find_if(group.begin(), group.end(), [&](const Wanted& w) { return w.map == r.map; });
        if (same != group.end()) same->letters = inOrder(same->letters + letters);
        else group.push_back({r.map, r.card, letters});
    }
    for (auto& [how, group] : together) {
        std::stable_sort(group.begin(), group.end(), [](const Wanted& a, const Wanted& b) { return a.letters.size() < b.letters.size(); });
        Packing packing;
        std::vector<std::string> names;
        size_t lane = 0;
        for (const Wanted& w : group) {
            if (lane + w.letters.size() > 4) break;
            const std::string& name = m_project.map(w.map)->name;
            names.push_back(name);
            packing.sources[name] = w.map;
            for (const char letter : w.letters) {
                Lane& l = packing.recipe.lanes[lane++];
                l.from = Lane::From::Map;
                l.source = name;
                l.take = std::string(1, letter);
            }
        }
        if (names.size() < 2) continue;
        packing.recipe.name = fmt::format("{} packed", fmt::join(names, " "));
        packing.recipe.suffix = "_packed";
        add("pack-maps", group[0].card->id, fmt::format("{} in one map", fmt::join(names, ", ")),
            "They are read in the same place, a few channels of each: one read gives all of them.", group[0].card->id,
            [maps = m_maps, packing](const Project& p) -> Result<Project> {
                Packing k = packing;
                k.id = newId('k');
                const Result<MapFile> made = maps->packed(p, k);
                if (!made) return made.error();
                Result<Project> next = edit::addMap(p, *made);
                if (next) next = edit::addPacking(*next, k);
                return next ? edit::usePacked(*next, k.id) : next;
            });
    }
}

/// Maps that are the same, or are the same for all that ship.
void Rules::shareSamplers() {
    const std::set<Id> all = mapsRead();
    for (auto a = all.begin(); a != all.end(); ++a)
        for (auto b = std::next(a); b != all.end(); ++b) {
            const MapFile *kept = m_project.map(*a), *gone = m_project.map(*b);
            if (kept->hash.empty() || kept->hash != gone->hash || kept->kind != gone->kind || kept->wrap != gone->wrap) continue;
            add("share-samplers", kept->id + "." + gone->id, fmt::format("{} in the place of {}", kept->name, gone->name),
                "The two are the same pixels, and are kept and read twice.", {},
                [m = m_master->id, kept = kept->id, gone = gone->id](const Project& p) -> Result<Project> {
                    Project next = p;
                    for (MasterPtr& slot : next.masters) {
                        if (slot->id != m) continue;
                        auto master = std::make_shared<Master>(*slot);
                        for (Parameter& q : master->parameters)
                            if (q.type == ParameterType::Map && q.standard.map == gone) q.standard.map = kept;
                        for (auto& [id, node] : master->graph.nodes) {
                            if (std::none_of(node->settings.begin(), node->settings.end(), [&](const auto& s) { return s.second == gone; }))
                                continue;
                            auto copy = std::make_shared<Node>(*node);
                            for (auto& [key, value] : copy->settings)
                                if (value == gone) value = kept;
                            node = std::move(copy);
                        }
                        slot = std::move(master);
                    }
                    return next;
                });
        }
    const std::vector<Parameter>& parameters = m_master->parameters;
    std::vector<std::pair<const Parameter*, const Parameter*>> alike;
    for (size_t a = 0; a < parameters.size(); ++a)
        for (size_t b = a + 1; b < parameters.size(); ++b)
            if (parameters[a].type == ParameterType::Map && parameters[b].type == ParameterType::Map &&
                parameters[a].mapKind == parameters[b].mapKind)
                alike.emplace_back(&parameters[a], &parameters[b]);
    // Whoever gives the two of a pair different maps tells them apart.
    for (const Id& user : m_users) {
        if (alike.empty()) break;
        const Resolved r = resolve(m_project, user);
        std::erase_if(alike, [&](const auto& pair) {
            const Id& its = r.values.at(pair.first->id).value.map;
            return its.empty() || its != r.values.at(pair.second->id).value.map;
        });
    }
    for (const auto& [kept, gone] : alike)
        if (!m_users.empty())
            add("share-samplers", kept->id + "." + gone->id, fmt::format("{} and {} as one parameter", kept->name, gone->name),
                "Nobody gives the two different maps, and each takes a sampler.", {},
                [m = m_master->id, into = kept->id, out = gone->id](const Project& p) { return edit::mergeParameters(p, m, into, out); });
}

/// What cards give over the UVs as a map, and normals that are made of neighbouring heights.
void Rules::proceduralToMap() {
    struct Made {
        const Node* node;
        Source wire;
        int width, worth;
        bool fetches;
    };
    std::vector<Made> all;
    for (const auto& [id, node] : m_master->graph.nodes) {
        const NodeDef* def = nodeDefOf(m_project, *node);
        const std::vector<std::pair<Id, std::string>> readers = m_cards.contains(id) ? readersOf(id) : decltype(readersOf(id)){};
        if (!def || node->muted || readers.empty() || node->kind == "image") continue;
        const Source wire{id, wireAt(readers[0].first, readers[0].second).port, {}};
        const PortDef* port = def->output(wire.port);
        if (!port || port->finishes || port->width == kFinishPort || port->width == kMapPort) continue;
        const Compilation tap = compileTap(m_project, *m_resolved.master, wire);
        const int32_t at = tap.program->output("tap");
        if (!tap.ok || at < 0) continue;
        const Cost cost = costOf(*tap.program, nullptr, {});
        if (cost.operationsPerPixel() < kWorthMaking && cost.fetches < kWorthFetches) continue;
        // A map holds what is the same for all who wear it, over the UVs, at all times.
        if (!tap.program->reads(Attribute::Uv0) || tap.program->readsTime() || !flatLimits(*tap.program, {"tap"}).empty()) continue;
        const auto own = [&](const Id& parameter) { return isOwnOfInstances(parameter); };
        if (std::any_of(tap.program->parameters.begin(), tap.program->parameters.end(), own) ||
            std::any_of(tap.program->maps.begin(), tap.program->maps.end(), [&](const MapSlot& s) { return own(s.parameter); }))
            continue;
        const int width = tap.program->code[size_t(at)].width;
        if (width == 4) continue;
        all.push_back({node.get(), wire, width, cost.operationsPerPixel() + 20 * cost.fetches, cost.fetches >= kWorthFetches});
    }
    std::stable_sort(all.begin(), all.end(), [](const Made& a, const Made& b) { return a.worth > b.worth; });
    if (all.size() > kMostMade) all.resize(kMostMade);
    for (const Made& made : all) {
        MapFile map;
        std::vector<std::string> names;
        for (const auto& m : m_project.maps) names.push_back(m->name);
        map.name = fmt::format("{} {}", m_master->name, titleOf(*made.node));
        map.origin.from = MapOrigin::From::Wire;
        map.origin.worn = m_master->id;
        map.origin.wire = made.wire;
        map.origin.width = map.origin.height = kMadeSide;
        const bool normal = made.node->kind == "height_to_normal";
        add(normal ? "normal-from-map" : "procedural-to-map", made.node->id,
            normal ? fmt::format("A normal map in the place of {}", titleOf(*made.node))
                   : fmt::format("A map in the place of {}", titleOf(*made.node)),
            fmt::format("{} x {} pixels over the UVs, made again whenever the cards change.", kMadeSide, kMadeSide), made.node->id,
            [maps = m_maps, map, m = m_master->id, wire = made.wire, width = made.width](const Project& p) -> Result<Project> {
                MapFile wanted = map;
                wanted.id = newId('t');
                Result<MapFile> file = maps->ofWire(p, wanted);
                if (!file) return file.error();
                const Result<Project> next = edit::addMap(p, *file);
                return next ? edit::replaceByMap(*next, m, wire, width, file->id) : next;
            });
    }
}

/// A map that was made of a wire of this board gives way to the wire.
void Rules::mapToProcedural() {
    for (const Reading& r : readings()) {
        const MapFile* map = m_project.map(r.map);
        const MapOrigin& o = map->origin;
        // Read where it was made: over the UVs as they are, all of it.
        if (r.parameter || o.from != MapOrigin::From::Wire || m_project.masterOf(o.worn) != m_master || r.card->kind != "image" ||
            !m_master->graph.find(o.wire.node) || r.card->wires.contains("uv") || map->kind == MapKind::Normal)
            continue;
        const auto readers = readersOf(r.card->id);
        const Compilation tap = compileTap(m_project, *m_master, o.wire);
        const int32_t at = tap.ok ? tap.program->output("tap") : -1;
        if (at < 0 || readers.empty()) continue;
        const int width = tap.program->code[size_t(at)].width;
        const auto whole = [&](const auto& reader) { return wireAt(reader.first, reader.second).port == "color"; };
        if (!o.wire.take.empty() || !std::all_of(readers.begin(), readers.end(), whole)) continue;
        std::vector<edit::Edit> steps;
        for (const auto& [card, port] : readers) {
            Source to = o.wire;
            const Source& now = wireAt(card, port);
            // A number was spread over the map's red.
            to.take = width == 1 ? std::string() : now.take;
            steps.push_back([m = m_master->id, card = card, port = port, to](const Project& p) {
                return card.empty() ? edit::connectChannel(p, m, to, port) : edit::connect(p, m, to, card, port);
            });
        }
        add("map-to-procedural", r.card->id, fmt::format("The cards that {} was made of in its place", map->name),
            "They cost operations, and neither memory nor a read.", r.card->id, [steps](const Project& p) {
                Result<Project> next = p;
                for (const edit::Edit& step : steps)
                    if (next) next = step(*next);
                return next;
            });
    }
}

} // namespace hue
