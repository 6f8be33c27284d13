#pragma once
// What a block format does to a map, in numbers and as a picture, and which one to take.
// Threads: any. Nothing is kept between calls.
#include "core/compress/block_format.h"
#include "core/document/project.h"
#include "core/maps/statistics.h"

namespace hue {

/// Whether a channel counts in the figure of the whole map.
enum class Judged {
    Yes,
    Constant, ///< the same everywhere, so that its error says nothing of the rest
    Follows   ///< the third component of a normal, which shaders make of the other two
};

struct ChannelError {
    Judged judged = Judged::Yes;
    double psnr = 99;   ///< decibels against full range; 99: equal
    double worst = 0;   ///< largest difference, 0..1
    double visible = 0; ///< mean of FLIP's error for the channel shown as grey, 0 (same) to 1
};

struct FormatReport {
    BlockFormat format = BlockFormat::Plain8;
    size_t bytes = 0;        ///< with all levels
    double bitsPerPixel = 0; ///< of level 0
    int channels = 0;        ///< of the map
    std::array<ChannelError, 4> channel;
    double psnr = 99;   ///< over the channels that are judged
    double visible = 0; ///< mean of FLIP's error in the middle of the picture (480 pixels a side), 0..1; of colors
    /// Normals derived from the map (its slopes as a height, or itself): mean and 99th percentile of the angle by which
    /// they turned, in degrees. Stair steps and block marks show there first.
    double normalError = 0, normalWorst = 0;
    double blockMarks = 1; ///< error steps at the borders of blocks against those inside; above 1.5 one sees blocks
    Image decoded;         ///< with the channels of the map
};
/// "all channels", "red and green (blue is the same everywhere)", "no channel (each is the same everywhere)": what the figure speaks of.
std::string judgedChannels(const FormatReport& report);
/// `kind` decides what is judged: normals by their angle. Of large maps a part of at most `side` pixels a side, from the
/// middle, is compressed and judged. Errors: those of encodeBlocks.
Result<FormatReport> reportOn(const Image& image, MapKind kind, BlockFormat format, const EncodeOptions& options, int side = 16384);

/// Formats that can carry what a map holds, the plain one first.
std::vector<BlockFormat> formatsFor(const Image& image, MapKind kind);

/// The part of a map that is judged: at most `side` pixels a side, from the middle, on the borders of every format's blocks.
Image judgedPart(const Image& image, int side);
/// |original - compressed| * gain, as 8-bit RGB (or grey).
Image errorPicture(const Image& original, const Image& decoded, float gain);

/// Channels of a map that carry something and must survive.
std::array<bool, 4> meaningfulChannels(const MapFacts& facts, MapKind kind);

enum class FormatFamily { Bc, Astc };
struct ChooseRequest {
    FormatFamily family = FormatFamily::Bc;
    double leastPsnr = 38;        ///< decibels over the channels that matter
    double mostNormalError = 1.5; ///< degrees; of normals and heights
    size_t mostBytes = SIZE_MAX;  ///< with mips
};
struct Choice {
    BlockFormat format = BlockFormat::Plain8;
    std::string reason;              ///< why this one and not the next smaller
    bool fits = true;                ///< within the error and the memory that are allowed
    std::vector<FormatReport> tried; ///< from the smallest, without pictures
};
/// Tries the formats that can carry the map, smallest first, and takes the first that is good enough.
Result<Choice> chooseFormat(const Image& image, const MapFacts& facts, MapKind kind, const ChooseRequest& request, int threads = 0);

} // namespace hue
