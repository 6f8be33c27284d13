#include "core/base/words.h"

#include <algorithm>
#include <fmt/format.h>
#include <vector>

namespace hue {
namespace {

constexpr size_t kLongestWord = 64; ///< longer ones are no slips of the hand

} // namespace

// Damerau, "A Technique for Computer Detection and Correction of Spelling Errors", 1964, each letter in one change at most.
size_t slipsBetween(std::string_view a, std::string_view b) {
    if (a.size() > kLongestWord || b.size() > kLongestWord) return std::max(a.size(), b.size());
    std::vector<std::vector<size_t>> least(a.size() + 1, std::vector<size_t>(b.size() + 1));
    for (size_t i = 0; i <= a.size(); ++i) least[i][0] = i;
    for (size_t j = 0; j <= b.size(); ++j) least[0][j] = j;
    for (size_t i = 1; i <= a.size(); ++i)
        for (size_t j = 1; j <= b.size(); ++j) {
            least[i][j] = std::min({least[i - 1][j] + 1, least[i][j - 1] + 1, least[i - 1][j - 1] + (a[i - 1] != b[j - 1])});
            if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
                least[i][j] = std::min(least[i][j], least[i - 2][j - 2] + 1);
        }
    return least[a.size()][b.size()];
}

std::string_view nearestWord(std::string_view word, std::span<const std::string_view> known) {
    std::string_view best;
    if (word.size() > kLongestWord) return best;
    // More than half of the letters changed is another word.
    size_t least = std::max<size_t>(2, word.size() / 2) + 1;
    for (std::string_view k : known)
        if (const size_t changes = slipsBetween(word, k); changes < least) {
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
