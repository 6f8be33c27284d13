#include "core/compress/bc7.h"

#include <cstring>
#include <utility>

namespace hue {

namespace {

/// Writes bits from the lowest of byte 0 on.
struct BitWriter {
    uint64_t words[2] = {};
    int at = 0;
    void put(uint32_t v, int count) {
        if (at < 64) {
            words[0] |= uint64_t(v) << at;
            if (at + count > 64) words[1] |= uint64_t(v) >> (64 - at);
        } else {
            words[1] |= uint64_t(v) << (at - 64);
        }
        at += count;
    }
};

} // namespace

void writeBc7(Bc7Block b, uint8_t to[16]) {
    const Bc7Mode& m = kBc7Modes[b.mode];
    const bool apart = m.secondBits > 0;
    const int colorBits = b.fineColors ? m.secondBits : m.indexBits, secondBits = b.fineColors ? m.indexBits : m.secondBits;
    const int most = (1 << colorBits) - 1, secondMost = (1 << secondBits) - 1;
    // The highest bit of an anchor's index is not stored: it is made 0 by exchanging the ends.
    for (int s = 0; s < m.subsets; ++s) {
        if (b.index[bc7Anchor(m.subsets, b.partition, s)] <= most / 2) continue;
        for (int k = 0; k < (apart ? 3 : 4); ++k) std::swap(b.end[s][0][k], b.end[s][1][k]);
        std::swap(b.low[s][0], b.low[s][1]);
        for (int i = 0; i < 16; ++i)
            if (bc7Subset(m.subsets, b.partition, i) == s) b.index[i] = uint8_t(most - b.index[i]);
    }
    if (apart && b.second[0] > secondMost / 2) {
        std::swap(b.end[0][0][3], b.end[0][1][3]);
        for (uint8_t& i : b.second) i = uint8_t(secondMost - i);
    }
    BitWriter bits;
    bits.put(1u << b.mode, b.mode + 1);
    bits.put(uint32_t(b.partition), m.partitionBits);
    bits.put(uint32_t(b.rotation), m.rotationBits);
    bits.put(b.fineColors, m.selectorBits);
    for (int k = 0; k < (m.alphaBits ? 4 : 3); ++k)
        for (int s = 0; s < m.subsets; ++s)
            for (int e = 0; e < 2; ++e) bits.put(b.end[s][e][k], k < 3 ? m.colorBits : m.alphaBits);
    for (int s = 0; s < m.subsets; ++s)
        for (int e = 0; e < (m.ownBits ? 2 : m.sharedBits ? 1 : 0); ++e) bits.put(b.low[s][e], 1);
    auto putIndices = [&](const uint8_t* index, int count) {
        for (int i = 0; i < 16; ++i)
            bits.put(index[i], count - (i == bc7Anchor(m.subsets, b.partition, bc7Subset(m.subsets, b.partition, i))));
    };
    // The coarser of two kinds of indices comes first.
    putIndices(b.fineColors ? b.second : b.index, m.indexBits);
    if (apart) putIndices(b.fineColors ? b.index : b.second, m.secondBits);
    std::memcpy(to, bits.words, 16);
}

} // namespace hue
