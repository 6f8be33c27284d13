#pragma once
// What can be read off the pixels of a map: ranges, levels, whether it is made of normals, and what it seems to be.
// Threads: any. Nothing is kept between calls.
#include "core/images/image.h"
#include "core/images/map_kind.h"

#include <array>
#include <string>

namespace hue {

struct ChannelFacts {
    static constexpr int kBins = 256;
    float least = 0, most = 0, mean = 0, deviation = 0;
    int levels = 0;                ///< distinct values; of float maps, at the precision of 16 bits over their range
    size_t broken = 0;             ///< NaN and infinite samples
    size_t outside = 0;            ///< finite samples below 0 or above 1
    float binLow = 0, binHigh = 1; ///< what the histogram spans
    std::array<float, kBins> share{};
    bool constant() const { return least == most && !broken; }
};

enum class GreenConvention { Unknown, Up, Down };

struct NormalFacts {
    float shortest = 0, meanLength = 0, longest = 0; ///< of the decoded vectors
    float unitShare = 0;                             ///< whose length is within 0.06 of 1
    float awayShare = 0;                             ///< that look into the surface
    float meanZ = 0;
    /// A height has no curl: d(slope x)/dy = d(slope y)/dx. The correlation of the two tells which way green points.
    float greenEvidence = 0; ///< -1 (down) .. 1 (up)
    GreenConvention green = GreenConvention::Unknown;
};

struct MapFacts {
    int width = 0, height = 0, channels = 0;
    SampleType type = SampleType::U8;
    std::array<ChannelFacts, 4> channel; ///< of those there are
    bool grey = false;                   ///< red, green and blue are the same everywhere
    float likeness = 1;                  ///< least correlation among red, green and blue; colors are alike, packed masks are not
    float smoothness = 0;                ///< share of the variance that neighbours have in common, 0..1
    NormalFacts normals;                 ///< of maps with three or four channels
    uint64_t pixels = 0;                 ///< equal for equal pixels, whatever the file
    /// Structure at 32 x 32: strength of edges, for finding which normal map belongs to which color map.
    static constexpr int kSketch = 32;
    std::vector<float> sketch;
};
MapFacts factsOf(const Image& image, int threads = 0);

/// Sentences on what is worth knowing of a map: unused levels, constant channels, invalid values, short normals.
struct MapRemark {
    std::string code; ///< "levels.few", "channel.constant", "alpha.full", "grey.spread", "value.broken", "normal.length", "green.down"
    std::string sentence;
};
std::vector<MapRemark> remarksOn(const MapFacts& facts, MapKind kind);

/// What maps hold, by the trade's words: "base color", "normal", "height", "roughness", "metallic", "occlusion", "emissive",
/// "opacity", "gloss", "specular", "mask", "packed"; empty when unknown.
using Role = std::string;
const std::vector<Role>& roles();
MapKind kindOf(const Role& role);

struct Guess {
    MapKind kind = MapKind::Color;
    Role role;
    std::string reason; ///< a sentence for people
    bool sure = true;   ///< name and pixels agree, or one of them speaks clearly
};
/// `name`: of the file, without folder.
Guess guessOf(const std::string& name, const MapFacts& facts);
/// From the name alone; role empty when it tells nothing.
Guess guessOfName(const std::string& name);
/// Words of a name, in lower case: "Setts_BaseColor-2k.png" -> setts, base, color, 2k.
std::vector<std::string> wordsOf(const std::string& name);

/// Why the declared kind cannot be right, with the right one; empty sentence when it may be right.
struct WrongKind {
    MapKind better = MapKind::Color;
    std::string sentence;
};
WrongKind wrongKind(const std::string& name, const MapFacts& facts, MapKind declared);

} // namespace hue
