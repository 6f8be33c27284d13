// The encoder: the pixels of a block lie on a line through color space (mode 6), on two lines that share the block by one
// of 64 partitions (mode 1), or on a line and an axis of their own (modes 4 and 5). Each is fitted by the main axis of the pixels
// and refined by least squares; the best of them is written.
#define HWY_DISABLED_TARGETS (HWY_SSSE3 | HWY_SSE4 | HWY_AVX3_DL)
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/compress/bc7_encode.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "core/compress/bc7.h"

#include <cmath>
#include <cstring>
#include <utility>

HWY_BEFORE_NAMESPACE();
namespace hue::HWY_NAMESPACE {
namespace bc7 {

namespace hn = hwy::HWY_NAMESPACE;

// Eight lanes at most: what is added up in another order would give other bits on other machines.
using D = hn::CappedTag<float, 8>;
using V = hn::Vec<D>;

struct alignas(64) Pixels {
    float c[4][16];
};

/// Sums in one fixed order, whatever the width of a vector.
float Sum16(const float* p) {
    float s[8];
    for (int k = 0; k < 8; ++k) s[k] = p[k] + p[k + 8];
    return ((s[0] + s[4]) + (s[1] + s[5])) + ((s[2] + s[6]) + (s[3] + s[7]));
}

struct Line {
    float from[4], to[4]; ///< 0..255
};

/// The main axis of the pixels with weight 1 (others 0), through their mean, as long as they reach. Channels from first to last.
Line FitLine(const Pixels& p, const float* weight, float count, int channels) {
    const D d;
    alignas(64) float buffer[16];
    float mean[4] = {};
    for (int c = 0; c < channels; ++c) {
        for (size_t i = 0; i < 16; i += hn::Lanes(d)) hn::Store(hn::Mul(hn::Load(d, p.c[c] + i), hn::Load(d, weight + i)), d, buffer + i);
        mean[c] = Sum16(buffer) / count;
    }
    float cov[4][4] = {};
    for (int a = 0; a < channels; ++a)
        for (int b = a; b < channels; ++b) {
            const V ma = hn::Set(d, mean[a]), mb = hn::Set(d, mean[b]);
            for (size_t i = 0; i < 16; i += hn::Lanes(d)) {
                const V x = hn::Sub(hn::Load(d, p.c[a] + i), ma), y = hn::Sub(hn::Load(d, p.c[b] + i), mb);
                hn::Store(hn::Mul(hn::Mul(x, y), hn::Load(d, weight + i)), d, buffer + i);
            }
            cov[a][b] = cov[b][a] = Sum16(buffer);
        }
    // Power iteration from the channel that varies most.
    int widest = 0;
    for (int c = 1; c < channels; ++c)
        if (cov[c][c] > cov[widest][widest]) widest = c;
    float axis[4] = {};
    for (int c = 0; c < channels; ++c) axis[c] = cov[widest][c];
    for (int round = 0; round < 4; ++round) {
        float next[4] = {}, most = 0;
        for (int a = 0; a < channels; ++a) {
            for (int b = 0; b < channels; ++b) next[a] += cov[a][b] * axis[b];
            most = std::fmax(most, std::fabs(next[a]));
        }
        if (most < 1e-6f) break;
        for (int c = 0; c < channels; ++c) axis[c] = next[c] / most;
    }
    float square = 0;
    for (int c = 0; c < channels; ++c) square += axis[c] * axis[c];
    Line line{};
    if (square < 1e-9f) {
        for (int c = 0; c < channels; ++c) line.from[c] = line.to[c] = mean[c];
        return line;
    }
    float low = 1e9f, high = -1e9f;
    for (size_t i = 0; i < 16; i += hn::Lanes(d)) {
        V t = hn::Zero(d);
        for (int c = 0; c < channels; ++c)
            t = hn::Add(t, hn::Mul(hn::Sub(hn::Load(d, p.c[c] + i), hn::Set(d, mean[c])), hn::Set(d, axis[c])));
        hn::Store(t, d, buffer + i);
    }
    for (int i = 0; i < 16; ++i)
        if (weight[i] > 0) low = std::fmin(low, buffer[i]), high = std::fmax(high, buffer[i]);
    for (int c = 0; c < channels; ++c) {
        line.from[c] = std::fmin(std::fmax(mean[c] + axis[c] * low / square, 0.f), 255.f);
        line.to[c] = std::fmin(std::fmax(mean[c] + axis[c] * high / square, 0.f), 255.f);
    }
    return line;
}

/// Indices 0..steps for every pixel along a line of whole values, and the squared error. Weights are those of the format:
/// the index times 64 / steps, rounded.
float Index(const Pixels& p, const float* weight, const Line& line, int first, int channels, float steps, float* index) {
    const D d;
    float delta[4], square = 0;
    for (int c = first; c < channels; ++c) delta[c] = line.to[c] - line.from[c], square += delta[c] * delta[c];
    const V scale = hn::Set(d, square > 0 ? steps / square : 0.f), half = hn::Set(d, 0.5f);
    const V toWeight = hn::Set(d, 64.f / steps), top = hn::Set(d, steps), zero = hn::Zero(d), rounding = hn::Set(d, 32.f),
            part = hn::Set(d, 1 / 64.f);
    alignas(64) float error[16];
    for (size_t i = 0; i < 16; i += hn::Lanes(d)) {
        V t = zero;
        for (int c = first; c < channels; ++c)
            t = hn::Add(t, hn::Mul(hn::Sub(hn::Load(d, p.c[c] + i), hn::Set(d, line.from[c])), hn::Set(d, delta[c])));
        const V n = hn::Floor(hn::Add(hn::Min(hn::Max(hn::Mul(t, scale), zero), top), half));
        hn::Store(n, d, index + i);
        const V w = hn::Floor(hn::Add(hn::Mul(n, toWeight), half));
        V sum = zero;
        for (int c = first; c < channels; ++c) {
            const V value =
                hn::Floor(hn::Mul(hn::Add(hn::Add(hn::Set(d, 64 * line.from[c]), hn::Mul(w, hn::Set(d, delta[c]))), rounding), part));
            const V off = hn::Sub(value, hn::Load(d, p.c[c] + i));
            sum = hn::Add(sum, hn::Mul(off, off));
        }
        hn::Store(hn::Mul(sum, hn::Load(d, weight + i)), d, error + i);
    }
    return Sum16(error);
}

/// The line that fits the indices best, by least squares; false when they do not tell (all the same).
bool Refit(const Pixels& p, const float* weight, const float* index, float steps, int first, int channels, Line& line) {
    float aa = 0, ab = 0, bb = 0;
    alignas(64) float t[16];
    for (int i = 0; i < 16; ++i) {
        t[i] = std::floor(index[i] * (64 / steps) + 0.5f) * (1 / 64.f);
        const float s = 1 - t[i];
        aa += weight[i] * s * s, ab += weight[i] * s * t[i], bb += weight[i] * t[i] * t[i];
    }
    const float det = aa * bb - ab * ab;
    if (det < 1e-4f) return false;
    for (int c = first; c < channels; ++c) {
        alignas(64) float fromSum[16], toSum[16];
        for (int i = 0; i < 16; ++i) {
            const float v = weight[i] * p.c[c][i];
            fromSum[i] = v * (1 - t[i]), toSum[i] = v * t[i];
        }
        const float x = Sum16(fromSum), y = Sum16(toSum);
        line.from[c] = std::fmin(std::fmax((x * bb - y * ab) / det, 0.f), 255.f);
        line.to[c] = std::fmin(std::fmax((y * aa - x * ab) / det, 0.f), 255.f);
    }
    return true;
}

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

struct Candidate {
    float error = 1e30f;
    int mode = 6, partition = 0, rotation = 0;
    bool fineColors = false;    ///< mode 4: the colors have the finer indices
    uint32_t end[2][2][4] = {}; ///< subset, end, channel: as stored, without the lowest bit
    uint32_t low[2][2] = {};    ///< subset, end
    alignas(64) float index[16] = {}, second[16] = {};
};

constexpr float kOnes[16] = {1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1};

uint32_t Rounded(float x, float most) { return uint32_t(std::fmin(std::fmax(x, 0.f), most) + 0.5f); }

/// Mode 6: RGBA with 7 bits and a lowest bit for each end, 16 steps.
void TryMode6(const Pixels& p, const Bc7Effort& effort, Candidate& best) {
    Line line = FitLine(p, kOnes, 16, 4);
    for (int round = 0; round <= effort.refinements; ++round) {
        Candidate c;
        c.mode = 6;
        Line whole{};
        for (int e = 0; e < 2; ++e) {
            const float* wanted = e ? line.to : line.from;
            float least = 1e30f;
            for (uint32_t low = 0; low < 2; ++low) {
                uint32_t q[4];
                float off = 0;
                for (int k = 0; k < 4; ++k) {
                    q[k] = Rounded((wanted[k] - float(low)) / 2, 127);
                    const float d = float(q[k] * 2 + low) - wanted[k];
                    off += d * d;
                }
                if (off >= least) continue;
                least = off;
                c.low[0][e] = low;
                for (int k = 0; k < 4; ++k) {
                    c.end[0][e][k] = q[k];
                    (e ? whole.to : whole.from)[k] = float(q[k] * 2 + low);
                }
            }
        }
        c.error = Index(p, kOnes, whole, 0, 4, 15, c.index);
        if (c.error < best.error) best = c;
        if (round == effort.refinements || !Refit(p, kOnes, c.index, 15, 0, 4, line)) break;
    }
}

/// Moves the ends of a mode 6 block by single steps as long as that helps: least squares knows nothing of rounding.
void PolishMode6(const Pixels& p, int rounds, Candidate& c) {
    if (c.mode != 6) return;
    auto whole = [](const Candidate& k) {
        Line line{};
        for (int i = 0; i < 4; ++i) {
            line.from[i] = float(k.end[0][0][i] * 2 + k.low[0][0]);
            line.to[i] = float(k.end[0][1][i] * 2 + k.low[0][1]);
        }
        return line;
    };
    for (int round = 0; round < rounds; ++round) {
        bool better = false;
        auto offer = [&](Candidate& tried) {
            tried.error = Index(p, kOnes, whole(tried), 0, 4, 15, tried.index);
            if (tried.error >= c.error) return false;
            c = tried;
            return better = true;
        };
        for (int e = 0; e < 2; ++e) {
            for (int k = 0; k < 4; ++k)
                for (int step : {1, -1}) {
                    Candidate tried = c;
                    const int value = int(tried.end[0][e][k]) + step;
                    if (value < 0 || value > 127) continue;
                    tried.end[0][e][k] = uint32_t(value);
                    if (offer(tried)) break;
                }
            Candidate tried = c;
            tried.low[0][e] ^= 1;
            offer(tried);
        }
        if (!better) return;
    }
}

/// A channel apart: RGB on a line, alpha on an axis of its own, and a channel that may change places with alpha. Mode 5 has 7 and
/// 8 bits for the ends and 4 steps each; mode 4 has 5 and 6 bits, and 8 steps for the colors (`fineColors`) or for the axis.
struct Apart {
    int mode;
    bool fineColors;
    float colorMost, alphaMost; ///< of a stored end
    float colorSteps, alphaSteps;
    uint32_t Color(uint32_t q) const { return mode == 5 ? (q << 1) | (q >> 6) : (q << 3) | (q >> 2); }
    uint32_t Alpha(uint32_t q) const { return mode == 5 ? q : (q << 2) | (q >> 4); }
};
constexpr Apart kApart[] = {{5, false, 127, 255, 3, 3}, {4, false, 31, 63, 3, 7}, {4, true, 31, 63, 7, 3}};

void TryApart(const Pixels& original, const Apart& m, int rotation, const Bc7Effort& effort, Candidate& best) {
    Pixels p = original;
    if (rotation) {
        std::memcpy(p.c[3], original.c[rotation - 1], sizeof p.c[3]);
        std::memcpy(p.c[rotation - 1], original.c[3], sizeof p.c[3]);
    }
    Candidate c;
    c.mode = m.mode, c.rotation = rotation, c.fineColors = m.fineColors;
    // The channel apart.
    float low = 255, high = 0;
    for (int i = 0; i < 16; ++i) low = std::fmin(low, p.c[3][i]), high = std::fmax(high, p.c[3][i]);
    Line alpha{};
    alpha.from[3] = low, alpha.to[3] = high;
    float alphaError = 1e30f;
    for (int round = 0; round <= effort.refinements; ++round) {
        Line whole{};
        const uint32_t q[2] = {Rounded(alpha.from[3] * (m.alphaMost / 255), m.alphaMost),
                               Rounded(alpha.to[3] * (m.alphaMost / 255), m.alphaMost)};
        whole.from[3] = float(m.Alpha(q[0])), whole.to[3] = float(m.Alpha(q[1]));
        alignas(64) float index[16];
        const float error = Index(p, kOnes, whole, 3, 4, m.alphaSteps, index);
        if (error < alphaError) {
            alphaError = error;
            c.end[0][0][3] = q[0], c.end[0][1][3] = q[1];
            std::memcpy(c.second, index, sizeof index);
        }
        if (!Refit(p, kOnes, index, m.alphaSteps, 3, 4, alpha)) break;
    }
    if (alphaError >= best.error) return;
    Line line = FitLine(p, kOnes, 16, 3);
    float colorError = 1e30f;
    for (int round = 0; round <= effort.refinements; ++round) {
        Line whole{};
        uint32_t q[2][3];
        for (int e = 0; e < 2; ++e)
            for (int k = 0; k < 3; ++k) {
                q[e][k] = Rounded((e ? line.to : line.from)[k] * (m.colorMost / 255), m.colorMost);
                (e ? whole.to : whole.from)[k] = float(m.Color(q[e][k]));
            }
        alignas(64) float index[16];
        const float error = Index(p, kOnes, whole, 0, 3, m.colorSteps, index);
        if (error < colorError) {
            colorError = error;
            for (int e = 0; e < 2; ++e)
                for (int k = 0; k < 3; ++k) c.end[0][e][k] = q[e][k];
            std::memcpy(c.index, index, sizeof index);
        }
        if (!Refit(p, kOnes, index, m.colorSteps, 0, 3, line)) break;
    }
    c.error = alphaError + colorError;
    if (c.error < best.error) best = c;
}

/// For each of the 64 partitions, how much would be left beside two lines; lanes are partitions.
void Promise(const Pixels& p, float* left) {
    const D d;
    float whole[9] = {};
    float moments[9][16];
    for (int i = 0; i < 16; ++i) {
        const float r = p.c[0][i] - 128, g = p.c[1][i] - 128, b = p.c[2][i] - 128;
        const float m[9] = {r, g, b, r * r, g * g, b * b, r * g, r * b, g * b};
        for (int k = 0; k < 9; ++k) moments[k][i] = m[k], whole[k] += m[k];
    }
    for (size_t first = 0; first < 64; first += hn::Lanes(d)) {
        alignas(64) float member[16][8];
        alignas(64) float count[8] = {};
        for (size_t l = 0; l < hn::Lanes(d); ++l)
            for (int i = 0; i < 16; ++i) {
                member[i][l] = float((kBc7Pairs[first + l] >> i) & 1);
                count[l] += member[i][l];
            }
        V sum[9];
        for (int k = 0; k < 9; ++k) sum[k] = hn::Zero(d);
        for (int i = 0; i < 16; ++i) {
            const V in = hn::Load(d, member[i]);
            for (int k = 0; k < 9; ++k) sum[k] = hn::Add(sum[k], hn::Mul(in, hn::Set(d, moments[k][i])));
        }
        V total = hn::Zero(d);
        for (int subset = 0; subset < 2; ++subset) {
            V s[9];
            for (int k = 0; k < 9; ++k) s[k] = subset ? sum[k] : hn::Sub(hn::Set(d, whole[k]), sum[k]);
            V n = hn::Load(d, count);
            if (!subset) n = hn::Sub(hn::Set(d, 16.f), n);
            const V per = hn::Div(hn::Set(d, 1.f), n);
            const V rr = hn::Sub(s[3], hn::Mul(hn::Mul(s[0], s[0]), per)), gg = hn::Sub(s[4], hn::Mul(hn::Mul(s[1], s[1]), per)),
                    bb = hn::Sub(s[5], hn::Mul(hn::Mul(s[2], s[2]), per)), rg = hn::Sub(s[6], hn::Mul(hn::Mul(s[0], s[1]), per)),
                    rb = hn::Sub(s[7], hn::Mul(hn::Mul(s[0], s[2]), per)), gb = hn::Sub(s[8], hn::Mul(hn::Mul(s[1], s[2]), per));
            // Largest eigenvalue by two rounds of the power method; squares only matter for the order.
            V x = hn::Add(rr, hn::Add(rg, rb)), y = hn::Add(gg, hn::Add(rg, gb)), z = hn::Add(bb, hn::Add(rb, gb));
            const V tiny = hn::Set(d, 1e-6f);
            V length = tiny, grown = tiny;
            for (int round = 0; round < 3; ++round) {
                const V nx = hn::Add(hn::Mul(rr, x), hn::Add(hn::Mul(rg, y), hn::Mul(rb, z)));
                const V ny = hn::Add(hn::Mul(rg, x), hn::Add(hn::Mul(gg, y), hn::Mul(gb, z)));
                const V nz = hn::Add(hn::Mul(rb, x), hn::Add(hn::Mul(gb, y), hn::Mul(bb, z)));
                length = hn::Add(tiny, hn::Sqrt(hn::Add(hn::Mul(x, x), hn::Add(hn::Mul(y, y), hn::Mul(z, z)))));
                grown = hn::Sqrt(hn::Add(hn::Mul(nx, nx), hn::Add(hn::Mul(ny, ny), hn::Mul(nz, nz))));
                const V scale = hn::Div(hn::Set(d, 1.f), hn::Add(tiny, grown));
                x = hn::Mul(nx, scale), y = hn::Mul(ny, scale), z = hn::Mul(nz, scale);
                if (round < 2) continue;
                total = hn::Add(total, hn::Sub(hn::Add(rr, hn::Add(gg, bb)), hn::Div(grown, length)));
            }
        }
        hn::StoreU(total, d, left + first);
    }
}

/// Mode 1: two subsets, RGB with 6 bits and a lowest bit for both ends, 8 steps. Only where nothing is clear.
void TryMode1(const Pixels& p, int partition, const Bc7Effort& effort, Candidate& best) {
    Candidate c;
    c.mode = 1, c.partition = partition, c.error = 0;
    for (int subset = 0; subset < 2; ++subset) {
        alignas(64) float weight[16];
        float count = 0;
        for (int i = 0; i < 16; ++i) {
            weight[i] = float(((kBc7Pairs[partition] >> i) & 1) == subset);
            count += weight[i];
        }
        Line line = FitLine(p, weight, count, 3);
        float least = 1e30f;
        alignas(64) float index[16], kept[16] = {};
        for (int round = 0; round <= effort.refinements; ++round) {
            alignas(64) float bestIndex[16] = {};
            float roundLeast = 1e30f;
            for (uint32_t low = 0; low < 2; ++low) {
                Line whole{};
                uint32_t q[2][3];
                for (int e = 0; e < 2; ++e)
                    for (int k = 0; k < 3; ++k) {
                        q[e][k] = Rounded(((e ? line.to : line.from)[k] * (127 / 255.f) - float(low)) / 2, 63);
                        const uint32_t seven = q[e][k] * 2 + low;
                        (e ? whole.to : whole.from)[k] = float((seven << 1) | (seven >> 6));
                    }
                const float error = Index(p, weight, whole, 0, 3, 7, index);
                if (error < roundLeast) {
                    roundLeast = error;
                    std::memcpy(bestIndex, index, sizeof index);
                }
                if (error >= least) continue;
                least = error;
                std::memcpy(kept, index, sizeof index);
                for (int e = 0; e < 2; ++e) {
                    c.low[subset][e] = low;
                    for (int k = 0; k < 3; ++k) c.end[subset][e][k] = q[e][k];
                }
            }
            if (round == effort.refinements || !Refit(p, weight, bestIndex, 7, 0, 3, line)) break;
        }
        for (int i = 0; i < 16; ++i)
            if (weight[i] > 0) c.index[i] = kept[i];
        c.error += least;
        if (c.error >= best.error) return;
    }
    best = c;
}

void Write(Candidate& c, uint8_t* block) {
    BitWriter bits;
    const int subsets = c.mode == 1 ? 2 : 1;
    const bool apart = c.mode == 5 || c.mode == 4;
    const float steps = c.mode == 6 ? 15 : c.mode == 1 || c.fineColors ? 7 : 3, secondSteps = c.mode == 4 && !c.fineColors ? 7 : 3;
    // The highest bit of an anchor's index is not stored: it is made 0 by exchanging the ends.
    for (int s = 0; s < subsets; ++s) {
        const int anchor = bc7Anchor(subsets, c.partition, s);
        if (c.index[anchor] <= steps / 2) continue;
        for (int k = 0; k < (apart ? 3 : 4); ++k) std::swap(c.end[s][0][k], c.end[s][1][k]);
        std::swap(c.low[s][0], c.low[s][1]);
        for (int i = 0; i < 16; ++i)
            if (bc7Subset(subsets, c.partition, i) == s) c.index[i] = steps - c.index[i];
    }
    if (apart && c.second[0] > secondSteps / 2) {
        std::swap(c.end[0][0][3], c.end[0][1][3]);
        for (float& i : c.second) i = secondSteps - i;
    }
    bits.put(1u << c.mode, c.mode + 1);
    if (c.mode == 1) {
        bits.put(uint32_t(c.partition), 6);
        for (int k = 0; k < 3; ++k)
            for (int s = 0; s < 2; ++s)
                for (int e = 0; e < 2; ++e) bits.put(c.end[s][e][k], 6);
        for (int s = 0; s < 2; ++s) bits.put(c.low[s][0], 1);
        for (int i = 0; i < 16; ++i) bits.put(uint32_t(c.index[i]), 3 - (i == 0 || i == bc7Anchor(2, c.partition, 1)));
    } else if (c.mode == 4) {
        bits.put(uint32_t(c.rotation), 2);
        bits.put(c.fineColors, 1);
        for (int k = 0; k < 3; ++k)
            for (int e = 0; e < 2; ++e) bits.put(c.end[0][e][k], 5);
        for (int e = 0; e < 2; ++e) bits.put(c.end[0][e][3], 6);
        // The coarser indices come first.
        const float *coarse = c.fineColors ? c.second : c.index, *fine = c.fineColors ? c.index : c.second;
        for (int i = 0; i < 16; ++i) bits.put(uint32_t(coarse[i]), 2 - (i == 0));
        for (int i = 0; i < 16; ++i) bits.put(uint32_t(fine[i]), 3 - (i == 0));
    } else if (c.mode == 5) {
        bits.put(uint32_t(c.rotation), 2);
        for (int k = 0; k < 3; ++k)
            for (int e = 0; e < 2; ++e) bits.put(c.end[0][e][k], 7);
        for (int e = 0; e < 2; ++e) bits.put(c.end[0][e][3], 8);
        for (int i = 0; i < 16; ++i) bits.put(uint32_t(c.index[i]), 2 - (i == 0));
        for (int i = 0; i < 16; ++i) bits.put(uint32_t(c.second[i]), 2 - (i == 0));
    } else {
        for (int k = 0; k < 4; ++k)
            for (int e = 0; e < 2; ++e) bits.put(c.end[0][e][k], 7);
        for (int e = 0; e < 2; ++e) bits.put(c.low[0][e], 1);
        for (int i = 0; i < 16; ++i) bits.put(uint32_t(c.index[i]), 4 - (i == 0));
    }
    std::memcpy(block, bits.words, 16);
}

} // namespace bc7

void EncodeBlock(const uint8_t* pixels, uint8_t* block, const Bc7Effort& effort) {
    using namespace bc7;
    Pixels p;
    bool clear = false, alphaVaries = false;
    for (int i = 0; i < 16; ++i) {
        for (int c = 0; c < 4; ++c) p.c[c][i] = float(pixels[i * 4 + c]);
        clear = clear || pixels[i * 4 + 3] != 255;
        alphaVaries = alphaVaries || pixels[i * 4 + 3] != pixels[3];
    }
    Candidate best;
    TryMode6(p, effort, best);
    // Below a mean error of about half a step of 8 bits there is little to win.
    constexpr float kGood = 16 * 4 * 0.2f, kFine = 16 * 4 * 0.05f;
    // Quick looks at alpha apart only where it varies.
    for (int r = alphaVaries ? 0 : 1; r <= (effort.rotations ? 3 : 0); ++r)
        for (const Apart& m : kApart)
            if (best.error > kGood) TryApart(p, m, r, effort, best);
    if (best.error > kGood && !clear && effort.tries > 0) {
        alignas(64) float left[64];
        Promise(p, left);
        for (int n = 0; n < effort.tries; ++n) {
            int at = 0;
            for (int k = 1; k < 64; ++k)
                if (left[k] < left[at]) at = k;
            if (left[at] >= best.error) break;
            left[at] = 1e30f;
            TryMode1(p, at, effort, best);
        }
    }
    if (best.error > kFine) PolishMode6(p, effort.polish, best);
    Write(best, block);
}

} // namespace hue::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace hue {
HWY_EXPORT(EncodeBlock);
void encodeBc7(const uint8_t pixels[64], uint8_t block[16], const Bc7Effort& effort) {
    HWY_DYNAMIC_DISPATCH(EncodeBlock)(pixels, block, effort);
}
} // namespace hue
#endif
