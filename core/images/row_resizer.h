#pragma once
// Changes the size of a map whose rows come one after another, so that only the rows around those in work are kept. Gives the very
// values of `resized` for whole planes.
// Threads: an object belongs to one at a time.
#include "core/images/image.h"

#include <deque>

namespace hue {

class RowResizer {
  public:
    RowResizer(int width, int height, int toWidth, int toHeight, Filter filter);
    /// Edges wrap, so the first results need so many rows from the end of the map. They are pushed first, then all from the top.
    int above() const { return m_above; }
    /// `count` rows of `width` values, the next ones.
    void push(const float* rows, int count, int threads);
    /// How many further rows of the result could be taken now.
    int ready() const;
    /// The next rows of the result, at most `ready()`.
    void take(float* rows, int count, int threads);
    /// Rows of floats kept at most while strips of `strip` rows are pushed and all that is ready is taken.
    int keptRows(int strip) const;

    /// For each place of a line: which pixels count, and how much.
    struct Taps {
        std::vector<int> first;    ///< may lie outside; it wraps
        std::vector<float> weight; ///< `count` for each place
        int count = 1;
    };

  private:
    int m_width, m_height, m_toWidth, m_toHeight;
    Taps m_across, m_down;
    int m_above = 0, m_below = 0;          ///< rows that wrap around the upper and the lower edge
    std::deque<std::vector<float>> m_rows; ///< already of the new width
    std::vector<std::vector<float>> m_top; ///< the first rows, which come again below the last
    int m_first = 0;                       ///< row number of m_rows[0]; those above the map are negative
    int m_next = 0;                        ///< of the result
};

} // namespace hue
