#pragma once
// What the harnesses share: a reason is a sentence, and trees of JSON that change by chance.
#include "core/base/result.h"

#include <cstdlib>
#include <nlohmann/json.hpp>
#include <random>
#include <span>
#include <string>

namespace hue::fuzz {

inline void isReason(const Error& e) {
    if (e.code.empty() || e.sentence.size() < 10) std::abort();
}

inline std::string textOf(const uint8_t* data, size_t size) { return {reinterpret_cast<const char*>(data), size}; }

/// One change somewhere in a tree: a value of another kind, an entry twice, gone, or moved elsewhere.
inline void changeSomewhere(nlohmann::json& tree, std::mt19937& random) {
    std::vector<nlohmann::json*> all;
    const std::function<void(nlohmann::json&, int)> collect = [&](nlohmann::json& j, int depth) {
        all.push_back(&j);
        if (depth < 60 && j.is_structured())
            for (auto& inner : j) collect(inner, depth + 1);
    };
    collect(tree, 0);
    const auto any = [&](size_t n) { return size_t(random() % std::max<size_t>(1, n)); };
    nlohmann::json& at = *all[any(all.size())];
    const nlohmann::json other = *all[any(all.size())];
    switch (random() % 10) {
    case 0: at = nullptr; break;
    case 1: at = int64_t(random()) - 0x40000000; break;
    case 2: at = std::vector<double>{1e300, -1e300, 1e-320, -0.0, 0.5, 4294967296.0, 9007199254740993.0}[any(7)]; break;
    case 3: at = std::vector<std::string>{"", "m", "../../x", "shape:sphere", "\xC3\xA9", std::string(300, 'x'), "n1000"}[any(7)]; break;
    case 4: at = other; break;
    case 5:
        if (at.is_array() && !at.empty()) at.push_back(at[any(at.size())]);
        else at = nlohmann::json::array({other, other});
        break;
    case 6:
        if (at.is_array() && !at.empty()) at.erase(any(at.size()));
        else if (at.is_object() && !at.empty()) at.erase(std::next(at.begin(), long(any(at.size()))).key());
        break;
    case 7:
        if (at.is_object()) at["later"] = other;
        break;
    case 8:
        if (at.is_number()) at = at.get<double>() * (random() % 2 ? -1 : 1000);
        break;
    default: at = nlohmann::json::object({{"deep", at}});
    }
}

/// For LLVMFuzzerCustomMutator: the text as a tree, changed; as it is where it is no JSON. 0 when the result has no room.
inline size_t changedText(std::string text, uint8_t* data, size_t room, unsigned seed) {
    nlohmann::json tree = nlohmann::json::parse(text, nullptr, false);
    if (tree.is_discarded()) return 0;
    std::mt19937 random(seed);
    for (unsigned k = 0; k <= seed % 3; ++k) changeSomewhere(tree, random);
    text = tree.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
    if (text.size() > room) return 0;
    std::copy(text.begin(), text.end(), data);
    return text.size();
}

} // namespace hue::fuzz

extern "C" size_t LLVMFuzzerMutate(uint8_t* data, size_t size, size_t room);
