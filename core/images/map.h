#pragma once
// A map in memory: RGBA, with mip levels, ready to be read by the evaluator and to be sent to the graphics card.
// Threads: any. A map is made once and never changed.
#include "core/base/value.h"
#include "core/images/image.h"
#include "core/images/map_kind.h"

#include <cstdint>
#include <memory>
#include <span>

namespace hue {

enum class TexelFormat { U8, U16, F32 };

/// Immutable once loaded; any thread may read it. Row 0 is the top, where V is 0.
class Map {
  public:
    struct Level {
        int width = 0, height = 0;
        std::vector<std::byte> texels; ///< RGBA, rows without padding
    };

    /// `texels`: width*height RGBA of the format. `encoded`: red, green and blue are sRGB (U8 only); alpha never is.
    Map(int width, int height, TexelFormat format, bool encoded, Wrap wrap, std::vector<std::byte> texels);
    /// A single texel, for stand-ins.
    static Map uniform(const Value& rgba);

    int width() const { return m_levels[0].width; }
    int height() const { return m_levels[0].height; }
    int levels() const { return int(m_levels.size()); }
    const Level& level(int i) const { return m_levels[size_t(i)]; }
    TexelFormat format() const { return m_format; }
    bool encoded() const { return m_encoded; }
    Wrap wrap() const { return m_wrap; }
    size_t bytes() const;

    /// The next smaller level, as it is.
    void addLevel(Level level) { m_levels.push_back(std::move(level)); }
    /// Filters over the levels below the first; without them every read is of the full map. With `normals` red, green and
    /// blue are an encoded normal, averaged as directions.
    void makeMips(bool normals = false);

    /// Bytes on the graphics card with all levels, in the format that the map is compressed to or as its file is; bytes() when that is not
    /// known.
    size_t cardBytes() const { return m_cardBytes ? m_cardBytes : bytes(); }
    void setCardBytes(size_t bytes) { m_cardBytes = bytes; }

    /// Trilinear read at a UV; linear values. `level` counts from 0, fractions blend. NaN reads the first texel.
    void sample(float u, float v, float level, float rgba[4]) const;
    /// One texel, linear.
    void texel(int level, int x, int y, float rgba[4]) const;

  private:
    void bilinear(int level, float u, float v, float rgba[4]) const;
    int wrapped(int x, int size) const;

    TexelFormat m_format;
    bool m_encoded;
    Wrap m_wrap;
    std::vector<Level> m_levels;
    size_t m_cardBytes = 0;
};
using MapPtr = std::shared_ptr<const Map>;

/// What a parameter or Image shows when no map is set: white, a flat normal, or mid grey, by its kind.
Value neutralOf(MapKind kind);
MapPtr neutralMap(MapKind kind);

} // namespace hue
