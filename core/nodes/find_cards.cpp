#include "core/nodes/find_cards.h"

#include "core/document/bays.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/catalogue.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <sstream>
#include <tuple>

namespace hue {
namespace {

std::string lowerCase(std::string text) {
    for (char& c : text) c = char(std::tolower(static_cast<unsigned char>(c)));
    return text;
}

/// All that a card can be found by, in lower case, a line each.
std::string wordsOfCard(const Project& project, const Master& master, const Node& node, const std::string& bay) {
    std::string out = cardTitle(project, master, node) + "\n" + node.kind + "\n" + bay;
    if (const NodeDef* def = nodeDefOf(project, node)) out += "\n" + std::string(def->name);
    for (const auto& [key, value] : node.settings) {
        out += "\n" + value;
        if (key == "map")
            if (const MapFile* map = project.map(value)) out += "\n" + map->name + "\n" + map->path;
        if (key != "parameter") continue;
        const Parameter* p = master.parameter(value);
        if (!p) continue;
        out += "\n" + p->name + "\n" + p->codeName;
        if (const MapFile* map = project.map(p->standard.map)) out += "\n" + map->name + "\n" + map->path;
    }
    return lowerCase(std::move(out));
}

} // namespace

std::vector<Id> findCards(const Project& project, const Master& master, std::string_view typed) {
    std::istringstream in(lowerCase(std::string(typed)));
    std::vector<std::string> words;
    for (std::string word; in >> word;) words.push_back(word);
    std::vector<Id> out;
    if (words.empty()) return out;
    std::map<Id, std::string> bays;
    for (const Bay& bay : master.graph.bays)
        for (const Id& n : bay.nodes) bays[n] = bay.name;
    for (const auto& [id, node] : master.graph.nodes) {
        const std::string text = wordsOfCard(project, master, *node, bays[id]);
        if (std::all_of(words.begin(), words.end(), [&](const std::string& w) { return text.find(w) != std::string::npos; }))
            out.push_back(id);
    }
    // A column is about as wide as a card.
    constexpr float column = 166;
    const auto place = [&](const Id& id) {
        const Point at = master.graph.find(id)->position;
        return std::tuple(std::floor(at.x / column), at.y, at.x, id);
    };
    std::sort(out.begin(), out.end(), [&](const Id& a, const Id& b) { return place(a) < place(b); });
    return out;
}

} // namespace hue
