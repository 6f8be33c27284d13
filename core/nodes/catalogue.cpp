#include "core/nodes/catalogue.h"

#include "core/nodes/assembly_card.h"
#include "core/nodes/finish.h"

#include "core/base/words.h"

#include <algorithm>
#include <cctype>
#include <fmt/format.h>
#include <sstream>
#include <unordered_map>

namespace hue {

template <class List> static auto find(const List& list, std::string_view key) -> decltype(&list.front()) {
    for (const auto& entry : list)
        if (entry.key == key) return &entry;
    return nullptr;
}

const PortDef* NodeDef::input(std::string_view port) const { return find(inputs, port); }
const PortDef* NodeDef::output(std::string_view port) const { return find(outputs, port); }
const SettingDef* NodeDef::setting(std::string_view k) const { return find(settings, k); }

const std::vector<NodeDef>& catalogue() {
    static const std::vector<NodeDef> all = [] {
        std::vector<NodeDef> list;
        addInputNodes(list);
        addMapNodes(list);
        addUvNodes(list);
        addTimeNodes(list);
        addMathNodes(list);
        addFormulaNode(list);
        addRangeNodes(list);
        addLogicNodes(list);
        addVectorNodes(list);
        addSpaceNodes(list);
        addColorNodes(list);
        addCompositingNodes(list);
        addNoiseNodes(list);
        addSolidNoiseNodes(list);
        addViewNodes(list);
        addNormalNodes(list);
        addFinishNodes(list);
        addDecalNodes(list);
        addNoteNode(list);
        return list;
    }();
    return all;
}

const NodeDef* findNodeDef(std::string_view key) {
    static const auto index = [] {
        std::unordered_map<std::string_view, const NodeDef*> map;
        for (const NodeDef& def : catalogue()) map[def.key] = &def;
        return map;
    }();
    auto it = index.find(key);
    return it == index.end() ? nullptr : it->second;
}

namespace {

std::string lowerCase(std::string_view text) {
    std::string out(text);
    for (char& c : out) c = char(std::tolower(static_cast<unsigned char>(c)));
    return out;
}

/// 0 is best; -1 is no match.
int matchRank(const NodeDef& def, const std::string& typed) {
    const std::string name = lowerCase(def.name);
    if (name == typed) return 0;
    if (name.starts_with(typed)) return 1;
    if (name.find(" " + typed) != std::string::npos) return 2;
    const std::string words = " " + lowerCase(def.words) + " ";
    if (words.find(" " + typed + " ") != std::string::npos) return 3;
    if (words.find(" " + typed) != std::string::npos) return 4;
    if (name.find(typed) != std::string::npos) return 5;
    return -1;
}

std::vector<std::string> wordsOf(std::string_view text) {
    std::vector<std::string> out;
    std::istringstream in{std::string(text)};
    for (std::string word; in >> word;) out.push_back(word);
    return out;
}

/// As matchRank, each word on its own and in any order; the worst of them counts, behind what was typed as it stands.
int matchRankOfWords(const NodeDef& def, const std::vector<std::string>& typed) {
    int worst = typed.size() > 1 ? 0 : -1;
    for (const std::string& word : typed) {
        const int rank = matchRank(def, word);
        if (rank < 0 || worst < 0) return -1;
        worst = std::max(worst, rank);
    }
    return worst < 0 ? -1 : worst + 6;
}

/// The slips that lie between what was typed and the words of a node, each typed word against the nearest; -1: too many. Only words of four
/// letters and more, and no more than one slip to four letters.
int slipsOf(const NodeDef& def, const std::vector<std::string>& typed) {
    std::vector<std::string> known = wordsOf(lowerCase(def.name));
    for (std::string& word : wordsOf(lowerCase(def.words))) known.push_back(std::move(word));
    int sum = 0;
    for (const std::string& word : typed) {
        size_t least = word.size();
        for (const std::string& k : known) {
            least = std::min(least, slipsBetween(word, k));
            // The word may not be typed to its end.
            if (k.size() > word.size()) least = std::min(least, slipsBetween(word, k.substr(0, word.size())));
        }
        if (least > word.size() / 4) return -1;
        sum += int(least);
    }
    return sum;
}

} // namespace

std::vector<const NodeDef*> searchCatalogue(std::string_view typed, const Uses& uses, const std::vector<const NodeDef*>& more) {
    std::vector<const NodeDef*> all;
    for (const NodeDef& def : catalogue()) all.push_back(&def);
    all.insert(all.end(), more.begin(), more.end());
    const std::string text = lowerCase(typed);
    const std::vector<std::string> words = wordsOf(text);
    std::vector<std::pair<int, const NodeDef*>> ranked;
    for (const NodeDef* def : all) {
        int rank = text.empty() ? 0 : matchRank(*def, text);
        // Of those that hold all words, the one with the fewest others.
        if (rank < 0)
            if (const int ofWords = matchRankOfWords(*def, words); ofWords >= 0) rank = ofWords * 100 + int(def->name.size());
        if (rank >= 0) ranked.emplace_back(rank, def);
    }
    // Only what nothing is called is taken for a slip.
    if (ranked.empty())
        for (const NodeDef* def : all)
            if (const int slips = slipsOf(*def, words); slips >= 0) ranked.emplace_back(slips, def);
    const auto used = [&](const NodeDef* def) { return uses && !text.empty() ? uses(def->key) : 0; };
    std::stable_sort(ranked.begin(), ranked.end(), [&](const auto& a, const auto& b) {
        return a.first != b.first ? a.first < b.first : used(a.second) > used(b.second);
    });
    std::vector<const NodeDef*> out;
    for (const auto& [rank, def] : ranked) out.push_back(def);
    return out;
}

bool readsInput(const Node& node, const NodeDef& def, const PortDef& port) { return !def.readsInput || def.readsInput(node, port.key); }

bool showsInput(const Node& node, const NodeDef& def, const PortDef& port) {
    return node.wires.contains(std::string(port.key)) || readsInput(node, def, port);
}

std::string_view settingOf(const Node& node, const NodeDef& def, std::string_view key) {
    if (auto it = node.settings.find(std::string(key)); it != node.settings.end()) return it->second;
    const SettingDef* setting = def.setting(key);
    return setting ? setting->standard : std::string_view{};
}

Node parameterCard(const Parameter& p, Point position) {
    const bool finish = p.type == ParameterType::Finish;
    Node out = makeNode(finish ? kFinishOfKind : std::string_view("parameter"), position);
    out.settings[finish ? std::string(kFinishOfSetting) : "parameter"] = p.id;
    return out;
}

Value constantOf(const Node& node, const PortDef& port) {
    auto it = node.constants.find(std::string(port.key));
    return it == node.constants.end() ? port.standard : it->second;
}

std::string cardTitle(const Project& project, const Master& master, const Node& node) {
    if (!node.title.empty()) return node.title;
    if (const auto it = node.settings.find("parameter"); node.kind == "parameter" && it != node.settings.end())
        if (const Parameter* p = master.parameter(it->second)) return p->name;
    // A short formula says best what it is.
    if (const auto it = node.settings.find("formula");
        node.kind == "formula" && it != node.settings.end() && it->second.size() <= 24 && it->second.find('\n') == std::string::npos)
        return it->second;
    if (const Parameter* p = finishParameter(master, node)) return p->name;
    if (const Id worn = finishOf(node); !worn.empty())
        if (const std::string name = project.nameOf(worn); !name.empty()) return name;
    const NodeDef* def = nodeDefOf(project, node);
    return def ? std::string(def->name) : node.kind;
}

std::string cardTitle(const Project& project, const Master& master, const Id& id) {
    const Node* node = master.graph.find(id);
    return node ? cardTitle(project, master, *node) : "a missing card";
}

std::string sentenceWithCard(const Project& project, const Error& error) {
    const auto on = [&](const Master& board) { return board.graph.find(error.place.node) != nullptr; };
    const auto told = [&](const Master& board) {
        return fmt::format("{} It is about {}, in {}.", error.sentence, cardTitle(project, board, error.place.node), board.name);
    };
    for (const auto& master : project.masters)
        if (on(*master)) return told(*master);
    for (const auto& assembly : project.assemblies)
        if (on(*assembly)) return told(*assembly);
    return error.sentence;
}

Node makeNode(std::string_view kind, Point position) {
    Node node;
    node.id = newId('n');
    node.kind = kind;
    node.position = position;
    return node;
}

} // namespace hue
