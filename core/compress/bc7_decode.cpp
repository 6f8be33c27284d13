#include "core/compress/bc7.h"

#include <algorithm>
#include <cstring>

namespace hue {

const Bc7Mode kBc7Modes[8] = {{3, 4, 0, 0, 4, 0, true, false, 3, 0},  {2, 6, 0, 0, 6, 0, false, true, 3, 0},
                              {3, 6, 0, 0, 5, 0, false, false, 2, 0}, {2, 6, 0, 0, 7, 0, true, false, 2, 0},
                              {1, 0, 2, 1, 5, 6, false, false, 2, 3}, {1, 0, 2, 0, 7, 8, false, false, 2, 2},
                              {1, 0, 0, 0, 7, 7, true, false, 4, 0},  {2, 6, 0, 0, 5, 5, true, false, 2, 0}};

namespace {

// Tables of the specification (section 20.1, partition tables and anchor indices).
constexpr uint16_t kPairs[64] = {0xCCCC, 0x8888, 0xEEEE, 0xECC8, 0xC880, 0xFEEC, 0xFEC8, 0xEC80, 0xC800, 0xFFEC, 0xFE80, 0xE800, 0xFFE8,
                                 0xFF00, 0xFFF0, 0xF000, 0xF710, 0x008E, 0x7100, 0x08CE, 0x008C, 0x7310, 0x3100, 0x8CCE, 0x088C, 0x3110,
                                 0x6666, 0x366C, 0x17E8, 0x0FF0, 0x718E, 0x399C, 0xAAAA, 0xF0F0, 0x5A5A, 0x33CC, 0x3C3C, 0x55AA, 0x9696,
                                 0xA55A, 0x73CE, 0x13C8, 0x324C, 0x3BDC, 0x6996, 0xC33C, 0x9966, 0x0660, 0x0272, 0x04E4, 0x4E40, 0x2720,
                                 0xC936, 0x936C, 0x39C6, 0x639C, 0x9336, 0x9CC6, 0x817E, 0xE718, 0xCCF0, 0x0FCC, 0x7744, 0xEE22};

constexpr uint32_t kTriples[64] = {
    0xAA685050, 0x6A5A5040, 0x5A5A4200, 0x5450A0A8, 0xA5A50000, 0xA0A05050, 0x5555A0A0, 0x5A5A5050, 0xAA550000, 0xAA555500, 0xAAAA5500,
    0x90909090, 0x94949494, 0xA4A4A4A4, 0xA9A59450, 0x2A0A4250, 0xA5945040, 0x0A425054, 0xA5A5A500, 0x55A0A0A0, 0xA8A85454, 0x6A6A4040,
    0xA4A45000, 0x1A1A0500, 0x0050A4A4, 0xAAA59090, 0x14696914, 0x69691400, 0xA08585A0, 0xAA821414, 0x50A4A450, 0x6A5A0200, 0xA9A58000,
    0x5090A0A8, 0xA8A09050, 0x24242424, 0x00AA5500, 0x24924924, 0x24499224, 0x50A50A50, 0x500AA550, 0xAAAA4444, 0x66660000, 0xA5A0A5A0,
    0x50A050A0, 0x69286928, 0x44AAAA44, 0x66666600, 0xAA444444, 0x54A854A8, 0x95809580, 0x96969600, 0xA85454A8, 0x80959580, 0xAA141414,
    0x96960000, 0xAAAA1414, 0xA05050A0, 0xA0A5A5A0, 0x96000000, 0x40804080, 0xA9A8A9A8, 0xAAAAAA44, 0x2A4A5254};

constexpr uint8_t kPairAnchor[64] = {15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 2,  8, 2, 2, 8,
                                     8,  15, 2,  8,  2,  2,  8,  8,  2,  2,  15, 15, 6,  8,  2,  8,  15, 15, 2, 8, 2, 2,
                                     2,  15, 15, 6,  6,  2,  6,  8,  15, 15, 2,  2,  15, 15, 15, 15, 15, 2,  2, 15};
constexpr uint8_t kTripleAnchor1[64] = {3,  3,  15, 15, 8, 3,  15, 15, 8,  8,  6, 6,  6, 5,  3, 3,  3,  3,  8,  15, 3,  3,
                                        6,  10, 5,  8,  8, 6,  8,  5,  15, 15, 8, 15, 3, 5,  6, 10, 8,  15, 15, 3,  15, 5,
                                        15, 15, 15, 15, 3, 15, 5,  5,  5,  8,  5, 10, 5, 10, 8, 13, 15, 12, 3,  3};
constexpr uint8_t kTripleAnchor2[64] = {15, 8, 8, 3,  15, 15, 3,  8,  15, 15, 15, 15, 15, 15, 15, 8,  15, 8,  15, 3,  15, 8,
                                        15, 8, 3, 15, 6,  10, 15, 15, 10, 8,  15, 3,  15, 10, 10, 8,  9,  10, 6,  15, 8,  15,
                                        3,  6, 6, 8,  15, 3,  15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 3,  15, 15, 8};

class Bits {
  public:
    explicit Bits(const uint8_t* p) : m_p(p) {}
    uint32_t take(int count) {
        uint32_t v = 0;
        for (int k = 0; k < count; ++k, ++m_at) v |= uint32_t((m_p[m_at >> 3] >> (m_at & 7)) & 1) << k;
        return v;
    }

  private:
    const uint8_t* m_p;
    int m_at = 0;
};

int weightOf(int index, int bits) { return (index * 128 + ((1 << bits) - 1)) / (2 * ((1 << bits) - 1)); }

} // namespace

constinit const Bc7Subsets kBc7Subsets = [] {
    Bc7Subsets s{};
    for (int p = 0; p < 64; ++p)
        for (int i = 0; i < 16; ++i) {
            s.of[1][p][i] = (kPairs[p] >> i) & 1, s.of[2][p][i] = (kTriples[p] >> (2 * i)) & 3;
            for (int n = 0; n < 3; ++n) s.members[n][p][s.of[n][p][i]] |= uint16_t(1 << i);
        }
    return s;
}();

int bc7Anchor(int subsets, int partition, int subset) {
    if (subset == 0) return 0;
    if (subsets == 2) return kPairAnchor[partition];
    return subset == 1 ? kTripleAnchor1[partition] : kTripleAnchor2[partition];
}

void decodeBc7(const uint8_t block[16], uint8_t pixels[64]) {
    int number = 0;
    while (number < 8 && !((block[0] >> number) & 1)) ++number;
    if (number == 8) {
        std::memset(pixels, 0, 64);
        return;
    }
    const Bc7Mode& m = kBc7Modes[number];
    Bits bits(block);
    bits.take(number + 1);
    const int partition = int(bits.take(m.partitionBits)), rotation = int(bits.take(m.rotationBits)),
              selector = int(bits.take(m.selectorBits));
    const int ends = m.subsets * 2;
    int value[4][6] = {};
    for (int c = 0; c < 3; ++c)
        for (int e = 0; e < ends; ++e) value[c][e] = int(bits.take(m.colorBits));
    for (int e = 0; e < ends; ++e) value[3][e] = m.alphaBits ? int(bits.take(m.alphaBits)) : 255;
    int colorBits = m.colorBits, alphaBits = m.alphaBits;
    if (m.ownBits || m.sharedBits) {
        int low[6];
        for (int e = 0; e < (m.ownBits ? ends : m.subsets); ++e) low[e] = int(bits.take(1));
        for (int e = 0; e < ends; ++e) {
            const int bit = m.ownBits ? low[e] : low[e / 2];
            for (int c = 0; c < 3; ++c) value[c][e] = value[c][e] * 2 + bit;
            if (m.alphaBits) value[3][e] = value[3][e] * 2 + bit;
        }
        ++colorBits;
        if (alphaBits) ++alphaBits;
    }
    auto widen = [](int v, int n) { return n >= 8 ? v : (v << (8 - n)) | (v >> (2 * n - 8)); };
    for (int e = 0; e < ends; ++e) {
        for (int c = 0; c < 3; ++c) value[c][e] = widen(value[c][e], colorBits);
        if (alphaBits) value[3][e] = widen(value[3][e], alphaBits);
    }
    int index[2][16] = {};
    for (int p = 0; p < 16; ++p) {
        const int s = bc7Subset(m.subsets, partition, p);
        const bool anchor = p == bc7Anchor(m.subsets, partition, s);
        index[0][p] = int(bits.take(m.indexBits - anchor));
    }
    for (int p = 0; p < 16 && m.secondBits; ++p) index[1][p] = int(bits.take(m.secondBits - (p == 0)));
    for (int p = 0; p < 16; ++p) {
        const int s = bc7Subset(m.subsets, partition, p);
        const int color = weightOf(index[selector][p], selector ? m.secondBits : m.indexBits);
        const int alpha = m.secondBits ? weightOf(index[1 - selector][p], selector ? m.indexBits : m.secondBits) : color;
        uint8_t* out = pixels + p * 4;
        for (int c = 0; c < 4; ++c) {
            const int w = c == 3 ? alpha : color;
            out[c] = uint8_t(((64 - w) * value[c][2 * s] + w * value[c][2 * s + 1] + 32) >> 6);
        }
        if (rotation) std::swap(out[3], out[rotation - 1]);
    }
}

} // namespace hue
