#pragma once
// BC7 blocks: 4x4 pixels RGBA in 16 bytes. Khronos Data Format Specification 1.3, chapter 20 ("BPTC").
// Threads: any. Nothing is kept between calls.
#include <cstddef>
#include <cstdint>

namespace hue {

struct Bc7Effort {
    int pairs = 1;         ///< how many of the 64 partitions in two are worked out for each mode, those that promise most first
    int triples = 0;       ///< the same for partitions in three, where two lines leave much
    int refinements = 1;   ///< rounds of least squares for the ends of a line
    bool rotations = true; ///< modes 4 and 5 with each channel apart; else only with an alpha that varies
    int polish = 1;        ///< rounds of moving the ends of the best lines by single steps
    float good = 0.1f;     ///< mean square of the error (of 255) from which on a block is left as it is
};

/// Encodes `count` blocks: of each 16 RGBA pixels, rows from the top. Writes all eight modes; what is opaque stays opaque. Blocks
/// do not depend on their neighbours, and every instruction set gives the same ones. Faster with many blocks at once.
void encodeBc7(const uint8_t* pixels, size_t count, uint8_t* blocks, const Bc7Effort& effort);
/// Reads all eight modes; a reserved block is black and clear.
void decodeBc7(const uint8_t block[16], uint8_t pixels[64]);

/// What a mode keeps (table 20.1 of the specification).
struct Bc7Mode {
    int subsets, partitionBits, rotationBits, selectorBits, colorBits, alphaBits;
    bool ownBits, sharedBits; ///< a lowest bit for each end, or for both ends of a subset
    int indexBits, secondBits;
};
extern const Bc7Mode kBc7Modes[8];

/// Which of 64 partitions gives a pixel (0..15) to which of one, two or three subsets: [subsets - 1][partition][pixel]. And the other
/// way round: bit n of the members of a subset is pixel n.
struct Bc7Subsets {
    uint8_t of[3][64][16];
    uint16_t members[3][64][3];
};
extern const Bc7Subsets kBc7Subsets;
inline int bc7Subset(int subsets, int partition, int pixel) { return kBc7Subsets.of[subsets - 1][partition][pixel]; }
/// The pixel of a subset whose highest index bit is left out.
int bc7Anchor(int subsets, int partition, int subset);

/// A block before its bits are laid out.
struct Bc7Block {
    float error = 1e30f; ///< sum of squares over pixels and channels
    int mode = 6, partition = 0, rotation = 0;
    bool fineColors = false;   ///< mode 4: the colors have the finer indices
    uint8_t end[3][2][4] = {}; ///< subset, end, channel: as stored, without the lowest bit
    uint8_t low[3][2] = {};    ///< subset, end
    uint8_t index[16] = {};    ///< of colors; of everything where a mode has one kind
    uint8_t second[16] = {};   ///< of the channel apart (modes 4 and 5)
};
/// Exchanges ends where an anchor's index asks for it, and writes.
void writeBc7(Bc7Block block, uint8_t to[16]);

} // namespace hue
