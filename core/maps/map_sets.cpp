#include "core/maps/map_sets.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace hue {

std::string setNameOf(const std::string& fileName) {
    std::string out;
    for (const std::string& word : wordsOf(fileName)) {
        // A word alone tells whether it stands for a role.
        if (!guessOfName(word + ".").role.empty() || word == "base" || word == "map" || word == "gl" || word == "dx") continue;
        out += (out.empty() ? "" : " ") + word;
    }
    return out;
}

float sketchLikeness(const std::vector<float>& a, const std::vector<float>& b) {
    if (a.empty() || a.size() != b.size()) return 0;
    double sa = 0, sb = 0;
    for (size_t i = 0; i < a.size(); ++i) sa += a[i], sb += b[i];
    const double ma = sa / double(a.size()), mb = sb / double(b.size());
    double aa = 0, bb = 0, ab = 0;
    for (size_t i = 0; i < a.size(); ++i) {
        aa += (a[i] - ma) * (a[i] - ma), bb += (b[i] - mb) * (b[i] - mb), ab += (a[i] - ma) * (b[i] - mb);
    }
    return aa > 1e-12 && bb > 1e-12 ? float(ab / std::sqrt(aa * bb)) : 0;
}

std::vector<FoundSet> findSets(const std::vector<SetCandidate>& all) {
    std::map<std::string, std::vector<size_t>> byName;
    for (size_t i = 0; i < all.size(); ++i) byName[setNameOf(all[i].name)].push_back(i);
    std::vector<FoundSet> sets;
    std::vector<bool> placed(all.size(), false);
    for (const auto& [name, members] : byName) {
        if (name.empty()) continue;
        FoundSet set{name, {}};
        for (size_t i : members) {
            const Role role = all[i].guess.role;
            const bool taken = std::any_of(set.members.begin(), set.members.end(), [&](const auto& m) { return m.role == role; });
            if (!role.empty() && !taken) set.members.push_back({i, role, false});
        }
        if (set.members.size() < 2) continue;
        for (const auto& m : set.members) placed[m.candidate] = true;
        sets.push_back(std::move(set));
    }
    // Lone normals and heights look for the color map they were made with.
    for (size_t i = 0; i < all.size(); ++i) {
        const Role role = all[i].guess.role;
        if (placed[i] || (role != "normal" && role != "height") || all[i].sketch.empty()) continue;
        float best = 0, second = 0;
        size_t color = all.size();
        for (size_t k = 0; k < all.size(); ++k) {
            if (all[k].guess.role != "base color" || k == i) continue;
            const float likeness = sketchLikeness(all[i].sketch, all[k].sketch);
            if (likeness > best) second = best, best = likeness, color = k;
            else second = std::max(second, likeness);
        }
        if (color == all.size() || best < 0.35f || best - second < 0.1f) continue;
        auto home = std::find_if(sets.begin(), sets.end(), [&](const FoundSet& s) {
            return std::any_of(s.members.begin(), s.members.end(), [&](const auto& m) { return m.candidate == color; });
        });
        if (home == sets.end()) {
            sets.push_back({setNameOf(all[color].name), {{color, "base color", false}}});
            home = sets.end() - 1;
            placed[color] = true;
        }
        const bool taken = std::any_of(home->members.begin(), home->members.end(), [&](const auto& m) { return m.role == role; });
        if (taken) continue;
        home->members.push_back({i, role, true});
        placed[i] = true;
    }
    std::erase_if(sets, [](const FoundSet& s) { return s.members.size() < 2; });
    return sets;
}

} // namespace hue
