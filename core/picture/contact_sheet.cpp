#include "core/picture/contact_sheet.h"

#include "core/maps/lettering.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <fmt/format.h>

namespace hue {
namespace {

constexpr uint8_t kPaper = 0xF2, kInk = 0x1A;
constexpr int kGap = 8;

/// Without its last character, which may be of several bytes.
void cutLast(std::string& text) {
    while (!text.empty() && (uint8_t(text.back()) & 0xC0) == 0x80) text.pop_back();
    if (!text.empty()) text.pop_back();
}

} // namespace

int SheetLayout::across() const {
    const int wanted = columns > 0 ? columns : int(std::ceil(std::sqrt(double(count))));
    return std::clamp(wanted, 1, std::max(1, count));
}
int SheetLayout::down() const { return (count + across() - 1) / across(); }
int SheetLayout::lettering() const { return std::clamp(side / 8, 18, 44); }
int SheetLayout::width() const { return across() * (side + kGap) + kGap; }
int SheetLayout::height() const { return down() * (side + lettering() + kGap) + kGap; }

Outcome SheetLayout::fits() const {
    constexpr int kMost = 16384;
    if (count <= 0) return Error{"sheet.empty", "There is nothing to be shown on the sheet. Name what is worn.", {}};
    if (width() > kMost || height() > kMost)
        return Error{"sheet.too-large",
                     fmt::format("A sheet of {} pictures would be {} x {} pixels; at most {} a side. Take fewer or smaller ones.", count,
                                 width(), height(), kMost),
                     {}};
    return Done{};
}

ContactSheet::ContactSheet(const SheetLayout& layout)
    : m_layout(layout), m_rgba(size_t(layout.width()) * size_t(layout.height()) * 4, kPaper) {
    for (size_t i = 3; i < m_rgba.size(); i += 4) m_rgba[i] = 255;
}

void ContactSheet::put(int number, const std::vector<uint8_t>& rgba, const std::string& name) {
    const auto side = size_t(m_layout.side), width = size_t(m_layout.width());
    const auto left = size_t(kGap + number % m_layout.across() * (m_layout.side + kGap));
    const auto top = size_t(kGap + number / m_layout.across() * (m_layout.side + m_layout.lettering() + kGap));
    for (size_t y = 0; y < side; ++y) std::memcpy(&m_rgba[((top + y) * width + left) * 4], &rgba[y * side * 4], side * 4);

    const int capitals = m_layout.lettering() / 2; // which leaves room above and below
    std::string words = name;
    while (true) {
        const Result<Image> letters = lettering(words == name ? name : words + "...", capitals);
        if (!letters) return; // no letter that can be drawn
        if (letters->width > m_layout.side && words.size() > 1) {
            cutLast(words);
            continue;
        }
        const size_t above = top + side;
        for (int y = 0; y < std::min(letters->height, m_layout.lettering()); ++y)
            for (int x = 0; x < std::min(letters->width, m_layout.side); ++x) {
                const float cover = letters->at(x, y, 3);
                uint8_t* to = &m_rgba[((above + size_t(y)) * width + left + size_t(x)) * 4];
                for (int c = 0; c < 3; ++c) to[c] = uint8_t(std::lround(float(kPaper) + (float(kInk) - float(kPaper)) * cover));
            }
        return;
    }
}

} // namespace hue
