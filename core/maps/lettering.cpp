#include "core/maps/lettering.h"

#include "core/maps/glyphs.h"
#include "core/maps/mask.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <sstream>

namespace hue {
namespace {

// In heights of a capital.
constexpr float kLine = 1.6f;    ///< from baseline to baseline
constexpr float kAbove = 0.4f;   ///< accents, and a margin
constexpr float kBelow = 0.45f;  ///< what hangs below the line, and a margin
constexpr float kBeside = 0.25f; ///< at either side

struct Line {
    std::string text;
    float width = 0;
};

/// Without what is empty at either end.
std::vector<Line> linesOf(const std::string& text) {
    std::vector<Line> out;
    std::istringstream in(text);
    for (std::string line; std::getline(in, line);) {
        const auto first = line.find_first_not_of(" \t\r"), last = line.find_last_not_of(" \t\r");
        Line l{first == std::string::npos ? std::string() : line.substr(first, last + 1 - first)};
        std::replace(l.text.begin(), l.text.end(), '\t', ' ');
        if (l.text.empty() && out.empty()) continue;
        if (!l.text.empty()) l.width = outlineOf(l.text).width;
        out.push_back(std::move(l));
    }
    while (!out.empty() && out.back().text.empty()) out.pop_back();
    return out;
}

int inBlocks(float pixels) { return std::max(4, int(std::ceil(pixels / 4)) * 4); }

} // namespace

Result<Image> lettering(const std::string& text, int capitals) {
    const auto refuse = [](std::string sentence) { return Error{"mask.text", std::move(sentence), {}}; };
    // Of UTF-8, all bytes but those that go on with a character.
    const auto characters = size_t(std::count_if(text.begin(), text.end(), [](char c) { return (c & 0xC0) != 0x80; }));
    if (characters > kMostLettering)
        return refuse(
            fmt::format("That text has {} characters, and a decal shows {} at most. Take a part of it.", characters, kMostLettering));
    const std::vector<Line> lines = linesOf(text);
    if (lines.empty()) return refuse("There are no letters in that text. Type a word or a number.");
    float wide = 0;
    for (const Line& l : lines) wide = std::max(wide, l.width);
    wide += 2 * kBeside;
    const float high = kAbove + 1 + kLine * float(lines.size() - 1) + kBelow;
    constexpr float kMost = 4096;
    const float capital = std::min(float(std::max(1, capitals)), (kMost - 4) / std::max(wide, high));
    MaskDrawing drawing;
    drawing.width = inBlocks(wide * capital), drawing.height = inBlocks(high * capital);
    for (size_t k = 0; k < lines.size(); ++k) {
        if (lines[k].text.empty()) continue;
        MaskShape s;
        s.kind = MaskShape::Kind::Text;
        s.text = lines[k].text;
        s.x = 0, s.width = 1;
        s.y = (kAbove + kLine * float(k)) * capital / float(drawing.height), s.height = capital / float(drawing.height);
        drawing.shapes.push_back(std::move(s));
    }
    const Result<Plane> letters = drawMask(drawing);
    if (!letters) return letters.error();
    const Plane white(drawing.width, drawing.height, 1);
    return imageOf({white, white, white, *letters}, SampleType::U8);
}

std::string nameOfLettering(const std::string& text) {
    std::istringstream in(text);
    std::string out;
    constexpr size_t kMost = 24;
    for (std::string word; in >> word && out.size() + word.size() < kMost;) out += (out.empty() ? "" : " ") + word;
    return out.empty() ? "Text" : out;
}

} // namespace hue
