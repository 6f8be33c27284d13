#pragma once
// BC7 blocks: 4x4 pixels RGBA in 16 bytes. Khronos Data Format Specification 1.3, chapter 20 ("BPTC").
#include <cstdint>

namespace hue {

/// `tries`: how many of the 64 partitions of mode 1 are worked out, those that promise most first (0..8).
struct Bc7Effort {
    int tries = 2;
    int refinements = 1;   ///< rounds of least squares for the ends of a line
    bool rotations = true; ///< modes 4 and 5 with each channel apart
    int polish = 2;        ///< rounds of moving the ends of a line by single steps
};

/// `pixels`: 16 RGBA, rows from the top. Writes modes 1, 4, 5 and 6. Every instruction set gives the same block.
void encodeBc7(const uint8_t pixels[64], uint8_t block[16], const Bc7Effort& effort);
/// Reads all eight modes; a reserved block is black and clear.
void decodeBc7(const uint8_t block[16], uint8_t pixels[64]);

/// Which of 64 partitions gives a pixel (0..15) to which of two or three subsets, and the pixels whose highest index bit is
/// left out, by subset.
int bc7Subset(int subsets, int partition, int pixel);
int bc7Anchor(int subsets, int partition, int subset);
/// The 64 two-subset partitions as masks: bit n is the subset of pixel n.
extern const uint16_t kBc7Pairs[64];

} // namespace hue
