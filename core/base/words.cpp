#include "core/base/words.h"

#include <algorithm>
#include <fmt/format.h>
#include <utility>
#include <vector>

namespace hue {
namespace {

/// Letters to put in, take out or change.
size_t changesBetweenWords(std::string_view a, std::string_view b) {
    std::vector<size_t> row(b.size() + 1);
    for (size_t j = 0; j < row.size(); ++j) row[j] = j;
    for (size_t i = 1; i <= a.size(); ++i) {
        size_t corner = std::exchange(row[0], i);
        for (size_t j = 1; j <= b.size(); ++j) {
            const size_t change = corner + (a[i - 1] != b[j - 1]);
            corner = row[j];
            row[j] = std::min({row[j] + 1, row[j - 1] + 1, change});
        }
    }
    return row.back();
}

constexpr size_t kLongestWord = 64; ///< longer ones are no slips of the hand

} // namespace

std::string_view nearestWord(std::string_view word, std::span<const std::string_view> known) {
    std::string_view best;
    if (word.size() > kLongestWord) return best;
    // More than half of the letters changed is another word.
    size_t least = std::max<size_t>(2, word.size() / 2) + 1;
    for (std::string_view k : known)
        if (const size_t changes = changesBetweenWords(word, k); changes < least) {
            least = changes;
            best = k;
        }
    return best;
}

std::string nearestSentence(std::string_view word, std::span<const std::string_view> known) {
    const std::string_view nearest = nearestWord(word, known);
    return nearest.empty() ? std::string() : fmt::format(" The nearest is {}.", nearest);
}

std::string anyOf(std::span<const std::string_view> words) {
    std::string out;
    for (size_t i = 0; i < words.size(); ++i) out += fmt::format("{}{}", i == 0 ? "" : i + 1 == words.size() ? " or " : ", ", words[i]);
    return out;
}

} // namespace hue
