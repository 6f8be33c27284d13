#pragma once
// Pictures side by side, with a name under each.
// Threads: any, one at a time for each sheet.
#include "core/base/result.h"

#include <cstdint>
#include <string>
#include <vector>

namespace hue {

struct SheetLayout {
    int count = 0;   ///< of pictures
    int columns = 0; ///< 0: about as many as rows
    int side = 256;  ///< pixels of a picture, which is square

    int across() const; ///< columns that there are
    int down() const;
    int lettering() const; ///< pixels under each picture
    int width() const;
    int height() const;
    /// Error: sheet.too-large, above 16384 pixels a side; sheet.empty.
    Outcome fits() const;
};

class ContactSheet {
  public:
    explicit ContactSheet(const SheetLayout& layout);
    /// A picture of RGBA, `side` pixels square, in the next free cell of its number, from the top left. A name that is too long is cut.
    void put(int number, const std::vector<uint8_t>& rgba, const std::string& name);
    /// The sheet as it is so far; rows from the top, of width() * 4 bytes.
    const std::vector<uint8_t>& rgba() const { return m_rgba; }

  private:
    SheetLayout m_layout;
    std::vector<uint8_t> m_rgba;
};

} // namespace hue
