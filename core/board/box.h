#pragma once
// Rectangles on the board, in board units; x grows to the right, y downwards.
// Threads: plain values; each thread has its own.
#include "core/document/project.h"

#include <algorithm>

namespace hue {

struct Box {
    float left = 0, top = 0, right = 0, bottom = 0;
    float width() const { return right - left; }
    float height() const { return bottom - top; }
    Box grown(float by) const { return {left - by, top - by, right + by, bottom + by}; }
    bool meets(const Box& o) const { return left < o.right && o.left < right && top < o.bottom && o.top < bottom; }
    bool operator==(const Box&) const = default;
};

/// The smallest that holds both; one without extent holds nothing.
inline Box around(const Box& a, const Box& b) {
    if (a.width() <= 0) return b;
    if (b.width() <= 0) return a;
    return {std::min(a.left, b.left), std::min(a.top, b.top), std::max(a.right, b.right), std::max(a.bottom, b.bottom)};
}

/// What a bay keeps around its cards: room for its name above.
constexpr float kBayMargin = 14, kBayHead = 24;
/// The most that the name of an underpass takes at its end.
constexpr float kUnderpassWidth = 84;

} // namespace hue
