#include "core/images/row_resizer.h"

#include <algorithm>
#include <cmath>

namespace hue {
namespace {

float lanczos(float x) {
    x = std::fabs(x);
    if (x < 1e-5f) return 1;
    if (x >= 3) return 0;
    const float p = 3.14159265f * x;
    return 3 * std::sin(p) * std::sin(p / 3) / (p * p);
}

RowResizer::Taps tapsFor(int from, int to, Filter filter) {
    const float ratio = float(from) / float(to), widen = std::max(ratio, 1.f);
    const float reach = filter == Filter::Lanczos ? 3 * widen : filter == Filter::Triangle ? widen : 0.5f * widen;
    RowResizer::Taps t;
    t.count = filter == Filter::Nearest ? 1 : int(std::ceil(2 * reach)) + 1;
    for (int i = 0; i < to; ++i) {
        const float middle = (float(i) + 0.5f) * ratio;
        if (filter == Filter::Nearest) {
            t.first.push_back(std::min(int(middle), from - 1));
            t.weight.push_back(1);
            continue;
        }
        const int first = int(std::floor(middle - reach));
        t.first.push_back(first);
        float sum = 0;
        const size_t at = t.weight.size();
        for (int k = 0; k < t.count; ++k) {
            const float left = float(first + k), x = (left + 0.5f - middle) / widen;
            float w;
            if (filter == Filter::Box) w = std::max(0.f, std::min(left + 1, middle + reach) - std::max(left, middle - reach));
            else if (filter == Filter::Triangle) w = std::max(0.f, 1 - std::fabs(x));
            else w = lanczos(x);
            t.weight.push_back(w);
            sum += w;
        }
        for (int k = 0; k < t.count; ++k) t.weight[at + size_t(k)] /= sum;
    }
    return t;
}

/// One row to another width.
void across(const RowResizer::Taps& taps, const float* row, int width, float* out, int toWidth) {
    for (int x = 0; x < toWidth; ++x) {
        const int first = taps.first[size_t(x)];
        const float* weight = &taps.weight[size_t(x) * size_t(taps.count)];
        float sum = 0;
        if (first >= 0 && first + taps.count <= width) {
            for (int k = 0; k < taps.count; ++k) sum += weight[k] * row[first + k];
        } else {
            for (int k = 0; k < taps.count; ++k) sum += weight[k] * row[(((first + k) % width) + width) % width];
        }
        out[x] = sum;
    }
}

/// One row of the result; `rowAt` gives rows of the new width by number, which may lie outside.
template <class RowAt> void down(const RowResizer::Taps& taps, int y, float* out, int toWidth, RowAt rowAt) {
    std::fill_n(out, toWidth, 0.f);
    for (int k = 0; k < taps.count; ++k) {
        const float w = taps.weight[size_t(y) * size_t(taps.count) + size_t(k)];
        if (w == 0) continue;
        const float* row = rowAt(taps.first[size_t(y)] + k);
        for (int x = 0; x < toWidth; ++x) out[x] += w * row[x];
    }
}

/// The last row with a weight for a row of the result.
int lastRow(const RowResizer::Taps& taps, int y) {
    int k = taps.count - 1;
    while (k > 0 && taps.weight[size_t(y) * size_t(taps.count) + size_t(k)] == 0) --k;
    return taps.first[size_t(y)] + k;
}

} // namespace

Plane resized(const Plane& plane, int width, int height, Filter filter) {
    if (plane.width == width && plane.height == height) return plane;
    const RowResizer::Taps x = tapsFor(plane.width, width, filter), y = tapsFor(plane.height, height, filter);
    Plane half(width, plane.height), out(width, height);
    forRows(plane.height, 0, [&](int from, int to) {
        for (int row = from; row < to; ++row)
            across(x, &plane.values[size_t(row) * size_t(plane.width)], plane.width, &half.values[size_t(row) * size_t(width)], width);
    });
    forRows(height, 0, [&](int from, int to) {
        for (int row = from; row < to; ++row)
            down(y, row, &out.values[size_t(row) * size_t(width)], width,
                 [&](int n) { return &half.values[size_t(((n % plane.height) + plane.height) % plane.height) * size_t(width)]; });
    });
    return out;
}

Image resized(const Image& image, int width, int height, Filter filter) {
    std::vector<Plane> planes;
    for (int c = 0; c < image.channels; ++c) planes.push_back(resized(planeOf(image, c), width, height, filter));
    return imageOf(planes, image.type);
}

RowResizer::RowResizer(int width, int height, int toWidth, int toHeight, Filter filter)
    : m_width(width),
      m_height(height),
      m_toWidth(toWidth),
      m_toHeight(toHeight),
      m_across(tapsFor(width, toWidth, filter)),
      m_down(tapsFor(height, toHeight, filter)) {
    // A filter may reach around more than once where a map is only a few rows high: those rows are all kept.
    for (int y = 0; y < toHeight; ++y) {
        m_above = std::max(m_above, -m_down.first[size_t(y)]);
        m_below = std::max(m_below, lastRow(m_down, y) + 1 - height);
    }
    m_above = std::min(m_above, m_height);
    m_below = std::min(m_below, m_height);
    m_first = -m_above;
}

void RowResizer::push(const float* rows, int count, int threads) {
    const size_t before = m_rows.size();
    m_rows.resize(before + size_t(count));
    forRows(count, threads, [&](int from, int to) {
        for (int y = from; y < to; ++y) {
            std::vector<float>& row = m_rows[before + size_t(y)];
            row.resize(size_t(m_toWidth));
            across(m_across, rows + size_t(y) * size_t(m_width), m_width, row.data(), m_toWidth);
        }
    });
    for (size_t n = before; n < m_rows.size(); ++n) {
        const int row = m_first + int(n);
        if (row >= 0 && row < m_below) m_top.push_back(m_rows[n]);
    }
    // The rows of the top come again below the last.
    if (m_first + int(m_rows.size()) == m_height)
        for (std::vector<float>& row : m_top) m_rows.push_back(std::move(row));
}

int RowResizer::ready() const {
    const int end = m_first + int(m_rows.size());
    if (end == m_height + m_below) return m_toHeight - m_next;
    int y = m_next;
    while (y < m_toHeight && lastRow(m_down, y) < end) ++y;
    return y - m_next;
}

void RowResizer::take(float* rows, int count, int threads) {
    // Where a filter reaches further than the map is high, a row stands in for its repetitions.
    auto rowAt = [&](int n) {
        const int end = m_first + int(m_rows.size());
        while (n < m_first) n += m_height;
        while (n >= end) n -= m_height;
        return m_rows[size_t(n - m_first)].data();
    };
    forRows(count, threads, [&](int from, int to) {
        for (int y = from; y < to; ++y) down(m_down, m_next + y, rows + size_t(y) * size_t(m_toWidth), m_toWidth, rowAt);
    });
    m_next += count;
    if (m_down.count >= m_height) return;
    const int needed = m_next < m_toHeight ? m_down.first[size_t(m_next)] : m_first + int(m_rows.size());
    while (m_first < needed && !m_rows.empty()) {
        m_rows.pop_front();
        ++m_first;
    }
}

int RowResizer::keptRows(int strip) const {
    return std::min(m_height + m_above + m_below, strip + m_down.count + m_above + m_below + m_below);
}

} // namespace hue
