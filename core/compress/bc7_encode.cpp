// The search of the encoder of BC7. The pixels of a block lie on a line through color space (mode 6), on lines that share the
// block by a partition (modes 0 to 3 and 7), or on a line and an axis of their own (modes 4 and 5). Blocks go through the modes in
// lists, and leave them as soon as they are good; what is best in the end has its ends polished together with others of its mode.
#include "core/compress/bc7.h"

#define HWY_DISABLED_TARGETS (HWY_SSSE3 | HWY_SSE4 | HWY_AVX3_DL)
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/compress/bc7_encode.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "core/compress/bc7_lanes-inl.h"

#include <algorithm>
#include <initializer_list>
#include <vector>

HWY_BEFORE_NAMESPACE();
namespace hue::HWY_NAMESPACE {
namespace bc7 {

constexpr int kInOrder[4] = {0, 1, 2, 3};

/// What the rounding of pixels to whole values leaves beside a line, though the format rounds the same way.
constexpr float kRounding = 4;

/// Of what lies along a line, the part that one step leaves when pixels are spread as they mostly are: in clusters.
constexpr float kAlong = 0.3f;

Grid ColorGrid(int mode, bool opaque) {
    const Bc7Mode& m = kBc7Modes[mode];
    return {m.colorBits, mode == 6 && opaque ? Low::Set : m.ownBits ? Low::Own : m.sharedBits ? Low::Shared : Low::None};
}

class Search {
  public:
    Search(const uint8_t* pixels, size_t count, const Bc7Effort& effort)
        : m_pixels(pixels), m_effort(effort), m_good(16 * 3 * effort.good), m_best(count) {
        std::vector<int> opaque, clear, one, varying;
        for (size_t n = 0; n < count; ++n) {
            bool isOpaque = true, varies = false;
            for (int i = 0; i < 16; ++i) {
                const uint8_t alpha = pixels[n * 64 + size_t(i) * 4 + 3];
                isOpaque = isOpaque && alpha == 255, varies = varies || alpha != pixels[n * 64 + 3];
            }
            (isOpaque ? opaque : clear).push_back(int(n));
            (varies ? varying : one).push_back(int(n));
        }
        OneLine(opaque, true), OneLine(clear, false);
        // With an alpha that is the same everywhere, a line of its own is no help to it.
        Apart(varying, 0, m_effort.rotations ? 3 : 0);
        if (m_effort.rotations) Apart(one, 1, 3);
        Partitions<3>(opaque, {1, 3}, m_effort.pairs, m_good);
        Partitions<4>(clear, {7}, m_effort.pairs, m_good);
        // Three lines where two leave much.
        Partitions<3>(opaque, {0, 2}, m_effort.triples, m_good * 4);
        if (m_effort.polish > 0)
            for (int mode = 0; mode < 8; ++mode) PolishMode(opaque, mode, true), PolishMode(clear, mode, false);
    }
    const Bc7Block& best(size_t n) const { return m_best[n]; }

  private:
    /// Hands the blocks of a list that are `wanted` to `work` in batches: it gets the batch, the numbers of its blocks and how many
    /// there are; lanes beyond repeat the last.
    template <class Wanted, class Work> void Batches(const std::vector<int>& list, Wanted wanted, Work work) {
        const size_t lanes = hn::Lanes(D());
        Batch batch;
        int numbers[kMostLanes];
        size_t filled = 0;
        auto flush = [&]() HWY_ATTR {
            if (!filled) return;
            for (size_t l = 0; l < lanes; ++l) {
                const uint8_t* from = m_pixels + size_t(numbers[l < filled ? l : filled - 1]) * 64;
                for (int i = 0; i < 16; ++i)
                    for (int c = 0; c < 4; ++c) batch.pixel[c][i].v[l] = float(from[i * 4 + c]);
            }
            for (size_t l = filled; l < lanes; ++l) numbers[l] = numbers[filled - 1];
            work(batch, numbers, filled);
            filled = 0;
        };
        for (int n : list)
            if (wanted(n)) {
                numbers[filled++] = n;
                if (filled == lanes) flush();
            }
        flush();
    }

    static void Take(const LineFit& line, size_t lane, int subset, const int* channels, int count, Bc7Block& to) {
        for (int e = 0; e < 2; ++e) {
            for (int c = 0; c < count; ++c) to.end[subset][e][channels[c]] = uint8_t(line.q[e][c].v[lane]);
            to.low[subset][e] = uint8_t(line.low[e].v[lane]);
        }
    }

    /// Blocks that are still worse than `good`.
    auto WorseThan(float good) const {
        return [this, good](int n) { return m_best[size_t(n)].error > good; };
    }

    /// Mode 6: RGBA with 7 bits and a lowest bit for each end, 16 steps.
    void OneLine(const std::vector<int>& list, bool opaque) {
        Batches(list, WorseThan(0), [&](const Batch& batch, const int* numbers, size_t count) HWY_ATTR {
            LineFit line;
            if (opaque) FitLine<3>(batch, kInOrder, nullptr, ColorGrid(6, true), 15, m_effort.refinements, line);
            else FitLine<4>(batch, kInOrder, nullptr, ColorGrid(6, false), 15, m_effort.refinements, line);
            for (size_t l = 0; l < count; ++l) {
                Bc7Block& b = m_best[size_t(numbers[l])];
                b.error = line.error.v[l];
                b.end[0][0][3] = b.end[0][1][3] = 127;
                Take(line, l, 0, kInOrder, opaque ? 3 : 4, b);
                for (int i = 0; i < 16; ++i) b.index[i] = uint8_t(line.index[i].v[l]);
            }
        });
    }

    /// A channel apart: RGB on a line, alpha on an axis of its own, and a channel that may change places with alpha. Mode 5 has 7
    /// and 8 bits for the ends and 4 steps each; mode 4 has 5 and 6 bits, and 8 steps for the colors or for the axis.
    struct ApartShape {
        int mode;
        bool fineColors;
        float colorSteps, secondSteps;
        float ends; ///< about what the coarseness of the ends costs a block
    };
    static constexpr ApartShape kApart[3] = {{5, false, 3, 3, 2}, {4, false, 3, 7, 8}, {4, true, 7, 3, 8}};
    struct Order {
        int channel[4];
    };
    static Order Rotated(int rotation) {
        Order o{{0, 1, 2, 3}};
        if (rotation) std::swap(o.channel[3], o.channel[rotation - 1]);
        return o;
    }

    void Apart(const std::vector<int>& list, int first, int last) {
        for (int rotation = first; rotation <= last; ++rotation) {
            const Order order = Rotated(rotation);
            // What each shape would leave, as far as lines and steps tell.
            std::vector<float> promise(m_best.size() * 3);
            Batches(list, WorseThan(m_good), [&](const Batch& batch, const int* numbers, size_t count) HWY_ATTR {
                const Spread colors = SpreadOfAll<3>(batch, order.channel), second = SpreadOfAll<1>(batch, order.channel + 3);
                for (int k = 0; k < 3; ++k) {
                    const ApartShape& shape = kApart[k];
                    Lanes left{};
                    Put(hn::Add(colors.beside, hn::Add(hn::Mul(colors.along, Num(kAlong / (shape.colorSteps * shape.colorSteps))),
                                                       hn::Mul(second.along, Num(kAlong / (shape.secondSteps * shape.secondSteps))))),
                        left);
                    for (size_t l = 0; l < count; ++l) promise[size_t(numbers[l]) * 3 + size_t(k)] = 0.75f * left.v[l] + kApart[k].ends;
                }
            });
            for (int k = 0; k < 3; ++k)
                Batches(
                    list,
                    [&](int n) {
                        const float error = m_best[size_t(n)].error;
                        return error > m_good && promise[size_t(n) * 3 + size_t(k)] < error;
                    },
                    [&](const Batch& batch, const int* numbers, size_t count)
                        HWY_ATTR { TryApart(batch, numbers, count, kApart[k], rotation, order); });
        }
    }

    void TryApart(const Batch& batch, const int* numbers, size_t count, const ApartShape& shape, int rotation, const Order& order) {
        const Bc7Mode& m = kBc7Modes[shape.mode];
        LineFit second, colors;
        FitLine<1>(batch, order.channel + 3, nullptr, {m.alphaBits, Low::None}, shape.secondSteps, m_effort.refinements, second);
        FitLine<3>(batch, order.channel, nullptr, {m.colorBits, Low::None}, shape.colorSteps, m_effort.refinements, colors);
        for (size_t l = 0; l < count; ++l) {
            const float error = second.error.v[l] + colors.error.v[l];
            if (error >= m_best[size_t(numbers[l])].error) continue;
            Bc7Block b;
            b.error = error, b.mode = shape.mode, b.rotation = rotation, b.fineColors = shape.fineColors;
            Take(colors, l, 0, kInOrder, 3, b);
            Take(second, l, 0, kInOrder + 3, 1, b);
            for (int i = 0; i < 16; ++i) b.index[i] = uint8_t(colors.index[i].v[l]), b.second[i] = uint8_t(second.index[i].v[l]);
            m_best[size_t(numbers[l])] = b;
        }
    }

    /// The members of a subset where every lane has a partition of its own.
    static void FillMembers(const int* partition, int subsets, int subset, Members& to) {
        const hn::RebindToSigned<D> di;
        alignas(64) int32_t bits[kMostLanes] = {};
        for (size_t l = 0; l < hn::Lanes(D()); ++l) {
            bits[l] = kBc7Subsets.members[subsets - 1][partition[l]][subset];
            to.count.v[l] = float(hwy::PopCount(uint64_t(bits[l])));
        }
        const auto all = hn::Load(di, bits);
        for (int i = 0; i < 16; ++i) Put(hn::ConvertTo(D(), hn::And(hn::ShiftRightSame(all, i), hn::Set(di, 1))), to.in[i]);
    }

    template <int C> void TryPartitions(const Batch& batch, const int* numbers, size_t count, int mode, const int* partition) {
        const Bc7Mode& m = kBc7Modes[mode];
        const float steps = float((1 << m.indexBits) - 1);
        LineFit line[3];
        float error[kMostLanes] = {};
        for (int s = 0; s < m.subsets; ++s) {
            Members members;
            FillMembers(partition, m.subsets, s, members);
            FitLine<C>(batch, kInOrder, &members, ColorGrid(mode, false), steps, m_effort.refinements, line[s]);
            for (size_t l = 0; l < count; ++l) error[l] += line[s].error.v[l];
        }
        for (size_t l = 0; l < count; ++l) {
            if (error[l] >= m_best[size_t(numbers[l])].error) continue;
            Bc7Block b;
            b.error = error[l], b.mode = mode, b.partition = partition[l];
            for (int s = 0; s < m.subsets; ++s) Take(line[s], l, s, kInOrder, C, b);
            for (int i = 0; i < 16; ++i) b.index[i] = uint8_t(line[bc7Subset(m.subsets, b.partition, i)].index[i].v[l]);
            m_best[size_t(numbers[l])] = b;
        }
    }

    /// Tries for each of the modes the partitions that promise most: what lies beside their lines, and of what lies along them the
    /// part that the steps leave.
    template <int C> void Partitions(const std::vector<int>& list, std::initializer_list<int> modes, int tries, float good) {
        if (tries < 1) return;
        struct Hope {
            float beside;
            int partition;
        };
        std::vector<Hope> hopes(m_best.size() * modes.size() * size_t(tries));
        auto hope = [&](int n, size_t mode, int k) -> Hope& {
            return hopes[(size_t(n) * modes.size() + mode) * size_t(tries) + size_t(k)];
        };
        Batches(list, WorseThan(good), [&](const Batch& batch, const int* numbers, size_t count) HWY_ATTR {
            Lanes beside[64], along[64], cost[64];
            Promise<C>(batch, kBc7Modes[*modes.begin()].subsets, 64, beside, along);
            for (size_t m = 0; m < modes.size(); ++m) {
                const Bc7Mode& mode = kBc7Modes[modes.begin()[m]];
                const int steps = (1 << mode.indexBits) - 1, partitions = 1 << mode.partitionBits;
                for (int p = 0; p < partitions; ++p)
                    Put(hn::Add(Get(beside[p]), hn::Mul(Get(along[p]), Num(kAlong / float(steps * steps)))), cost[p]);
                for (int k = 0; k < tries; ++k) {
                    V least = Get(cost[0]), at = hn::Zero(D());
                    for (int p = 1; p < partitions; ++p) {
                        const M less = hn::Lt(Get(cost[p]), least);
                        least = hn::Min(Get(cost[p]), least), at = hn::IfThenElse(less, Num(float(p)), at);
                    }
                    Lanes partition{};
                    Put(at, partition);
                    for (size_t l = 0; l < hn::Lanes(D()); ++l) cost[int(partition.v[l])].v[l] = 1e30f;
                    for (size_t l = 0; l < count; ++l) hope(numbers[l], m, k) = {beside[int(partition.v[l])].v[l], int(partition.v[l])};
                }
            }
        });
        for (int k = 0; k < tries; ++k)
            for (size_t m = 0; m < modes.size(); ++m)
                Batches(
                    list,
                    [&](int n) {
                        const float error = m_best[size_t(n)].error;
                        return error > good && hope(n, m, k).beside < error + kRounding;
                    },
                    [&](const Batch& batch, const int* numbers, size_t count) HWY_ATTR {
                        int partition[kMostLanes];
                        for (size_t l = 0; l < hn::Lanes(D()); ++l) partition[l] = hope(numbers[l], m, k).partition;
                        TryPartitions<C>(batch, numbers, count, modes.begin()[m], partition);
                    });
    }

    template <int C>
    void PolishLine(const Batch& batch, const int* numbers, size_t count, const int* order, const int* channels, const Members* members,
                    const Grid& grid, float steps, int subset, bool second) {
        LineFit line;
        const size_t lanes = hn::Lanes(D());
        for (size_t l = 0; l < lanes; ++l) {
            const Bc7Block& b = m_best[size_t(numbers[l])];
            for (int e = 0; e < 2; ++e) {
                for (int c = 0; c < C; ++c) line.q[e][c].v[l] = float(b.end[subset][e][channels[c]]);
                line.low[e].v[l] = float(b.low[subset][e]);
            }
        }
        Lanes before;
        if (!Polish<C>(batch, order, members, grid, steps, m_effort.polish, line, before)) return;
        for (size_t l = 0; l < count; ++l) {
            Bc7Block& b = m_best[size_t(numbers[l])];
            b.error += line.error.v[l] - before.v[l];
            Take(line, l, subset, channels, C, b);
            for (int i = 0; i < 16; ++i)
                if (!members || members->in[i].v[l] > 0) (second ? b.second : b.index)[i] = uint8_t(line.index[i].v[l]);
        }
    }

    void PolishMode(const std::vector<int>& list, int mode, bool opaque) {
        const Bc7Mode& m = kBc7Modes[mode];
        std::vector<int> mine[8]; // by rotation, and which of two kinds of indices the colors have
        for (int n : list)
            if (const Bc7Block& b = m_best[size_t(n)]; b.mode == mode) mine[b.rotation * 2 + b.fineColors].push_back(n);
        for (int kind = 0; kind < 8; ++kind)
            Batches(mine[kind], WorseThan(m_good / 2), [&](const Batch& batch, const int* numbers, size_t count) HWY_ATTR {
                const Order order = Rotated(kind / 2);
                if (m.secondBits) {
                    const bool fine = kind % 2;
                    const float colors = float((1 << (fine ? m.secondBits : m.indexBits)) - 1),
                                second = float((1 << (fine ? m.indexBits : m.secondBits)) - 1);
                    PolishLine<3>(batch, numbers, count, order.channel, kInOrder, nullptr, {m.colorBits, Low::None}, colors, 0, false);
                    PolishLine<1>(batch, numbers, count, order.channel + 3, kInOrder + 3, nullptr, {m.alphaBits, Low::None}, second, 0,
                                  true);
                    return;
                }
                const float steps = float((1 << m.indexBits) - 1);
                const Grid grid = ColorGrid(mode, opaque);
                int partition[kMostLanes];
                for (size_t l = 0; l < hn::Lanes(D()); ++l) partition[l] = m_best[size_t(numbers[l])].partition;
                for (int s = 0; s < m.subsets; ++s) {
                    Members members;
                    if (m.subsets > 1) FillMembers(partition, m.subsets, s, members);
                    const Members* in = m.subsets > 1 ? &members : nullptr;
                    // The alpha of an opaque block stays where it is.
                    if (mode >= 6 && !opaque) PolishLine<4>(batch, numbers, count, kInOrder, kInOrder, in, grid, steps, s, false);
                    else PolishLine<3>(batch, numbers, count, kInOrder, kInOrder, in, grid, steps, s, false);
                }
            });
    }

    const uint8_t* m_pixels;
    const Bc7Effort& m_effort;
    const float m_good; ///< sum of squares over a block below which there is little to win
    std::vector<Bc7Block> m_best;
};

} // namespace bc7

void EncodeBlocks(const uint8_t* pixels, size_t count, uint8_t* blocks, const Bc7Effort& effort) {
    // So many at once fill the lanes in every list and stay in the cache.
    constexpr size_t kAtOnce = 512;
    for (size_t from = 0; from < count; from += kAtOnce) {
        const size_t now = std::min(kAtOnce, count - from);
        const bc7::Search search(pixels + from * 64, now, effort);
        for (size_t n = 0; n < now; ++n) writeBc7(search.best(n), blocks + (from + n) * 16);
    }
}

} // namespace hue::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace hue {
HWY_EXPORT(EncodeBlocks);
void encodeBc7(const uint8_t* pixels, size_t count, uint8_t* blocks, const Bc7Effort& effort) {
    HWY_DYNAMIC_DISPATCH(EncodeBlocks)(pixels, count, blocks, effort);
}
} // namespace hue
#endif
