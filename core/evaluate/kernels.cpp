// The widest instruction sets first fetched by one dispatch; SSSE3, SSE4 and the finer AVX-512 variants would give
// nothing over their neighbours here and cost compile time.
#define HWY_DISABLED_TARGETS (HWY_SSSE3 | HWY_SSE4 | HWY_AVX3_DL)
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/evaluate/kernels.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "core/evaluate/kernels.h"
#include "core/evaluate/kernels_math-inl.h"
#include "core/evaluate/kernels_noise-inl.h"
#include "core/images/map.h"

#include <cmath>
#include <mutex>

HWY_BEFORE_NAMESPACE();
namespace hue::HWY_NAMESPACE {

template <bool splat> HWY_INLINE V Operand(const float* p, size_t i) {
    const D d;
    if constexpr (splat) return hn::Set(d, *p);
    return hn::LoadU(d, p + i);
}

/// o[i] = make(i) for all lanes; four vectors at a time, so that little is spent on counting. A plane may be operand and result.
template <class Make> HWY_INLINE void EachVector(float* o, size_t lanes, Make make) {
    const D d;
    const size_t n = hn::Lanes(d);
    size_t i = 0;
    for (; i + 4 * n <= lanes; i += 4 * n) {
        const V a = make(i), b = make(i + n), c = make(i + 2 * n), e = make(i + 3 * n);
        hn::StoreU(a, d, o + i);
        hn::StoreU(b, d, o + i + n);
        hn::StoreU(c, d, o + i + 2 * n);
        hn::StoreU(e, d, o + i + 3 * n);
    }
    for (; i < lanes; i += n) hn::StoreU(make(i), d, o + i);
}
template <class F, int mask> void One(const float* const* in, float* const* out, size_t lanes, uint32_t, const KernelContext&) {
    const float* p = in[0];
    EachVector(out[0], lanes, [&](size_t i) HWY_ATTR { return F::Run(D(), Operand<mask & 1>(p, i)); });
}
template <class F, int mask> void Two(const float* const* in, float* const* out, size_t lanes, uint32_t, const KernelContext&) {
    const float *p = in[0], *q = in[1];
    EachVector(out[0], lanes,
               [&](size_t i) HWY_ATTR { return F::Run(D(), Operand<(mask & 1) != 0>(p, i), Operand<(mask & 2) != 0>(q, i)); });
}
template <class F, int mask> void Three(const float* const* in, float* const* out, size_t lanes, uint32_t, const KernelContext&) {
    const float *p = in[0], *q = in[1], *r = in[2];
    EachVector(out[0], lanes, [&](size_t i) HWY_ATTR {
        return F::Run(D(), Operand<(mask & 1) != 0>(p, i), Operand<(mask & 2) != 0>(q, i), Operand<(mask & 4) != 0>(r, i));
    });
}

// One struct for each line of ops.def.
#define HUE_ELEMENTWISE(name, operands, cost, glsl, cpu) HUE_OP_##operands(name, cpu)
#define HUE_OP_1(name, cpu)                                                                                                                \
    struct name##Op {                                                                                                                      \
        static HWY_INLINE V Run([[maybe_unused]] D d, V a) { return cpu; }                                                                 \
    };
#define HUE_OP_2(name, cpu)                                                                                                                \
    struct name##Op {                                                                                                                      \
        static HWY_INLINE V Run([[maybe_unused]] D d, V a, V b) { return cpu; }                                                            \
    };
#define HUE_OP_3(name, cpu)                                                                                                                \
    struct name##Op {                                                                                                                      \
        static HWY_INLINE V Run([[maybe_unused]] D d, V a, V b, V c) { return cpu; }                                                       \
    };
#include "core/program/ops.def"
#undef HUE_ELEMENTWISE
#undef HUE_OP_1
#undef HUE_OP_2
#undef HUE_OP_3

struct InverseRootOp {
    static HWY_INLINE V Run(D d, V a) { return hn::IfThenElseZero(hn::Gt(a, hn::Zero(d)), hn::Div(hn::Set(d, 1.0f), hn::Sqrt(a))); }
};
struct SubFromOp {
    static HWY_INLINE V Run(D, V a, V b) { return hn::Sub(b, a); }
};
template <class First, class Second> struct FusedOp {
    static HWY_INLINE V Run(D d, V a, V b, V c) { return Second::Run(d, First::Run(d, a, b), c); }
};

// In double precision, so that a scroll is exact after hours. Frame rate as a rule, so speed does not matter.
void PhaseKernel(const float* const* in, float* const* out, size_t lanes, uint32_t, const KernelContext& context) {
    for (size_t i = 0; i < lanes; ++i) {
        const double turns = context.time * double(in[0][i]);
        out[0][i] = float(turns - std::floor(turns));
    }
}

/// What a noise reads of its block: one input after the other.
struct Inputs {
    const float* const* in;
    size_t i;
    HWY_INLINE V operator[](int k) const { return hn::LoadU(D(), in[k] + i); }
};
#define HUE_NOISE(name, result)                                                                                                            \
    void name##Kernel(const float* const* in, float* const* out, size_t lanes, [[maybe_unused]] uint32_t imm, const KernelContext&) {      \
        const D d;                                                                                                                         \
        for (size_t i = 0; i < lanes; i += hn::Lanes(d)) {                                                                                 \
            const Inputs a{in, i};                                                                                                         \
            hn::StoreU(result, d, out[0] + i);                                                                                             \
        }                                                                                                                                  \
    }
HUE_NOISE(Noise2, Noise2Of(d, a[0], a[1]))
HUE_NOISE(Cell2, Cell2Of(d, a[0], a[1]))
HUE_NOISE(Worley2, Worley2Of(d, a[0], a[1], a[2]))
HUE_NOISE(Fractal2, Fractal2Of(d, a[0], a[1], a[2], a[3], imm))
HUE_NOISE(Noise2Seamless, Noise2Of(d, a[0], a[1], Period{a[2], a[3]}))
HUE_NOISE(Cell2Seamless, Cell2Of(d, a[0], a[1], Period{a[2], a[3]}))
HUE_NOISE(Worley2Seamless, Worley2Of(d, a[0], a[1], a[2], Period{a[3], a[4]}))
HUE_NOISE(Worley2Moving, Worley2Of(d, a[0], a[1], a[2], Endless(), Turning{a[3]}))
HUE_NOISE(Worley2MovingSeamless, Worley2Of(d, a[0], a[1], a[2], Period{a[4], a[5]}, Turning{a[3]}))
HUE_NOISE(Noise3, Noise3Of(d, a[0], a[1], a[2]))
HUE_NOISE(Cell3, Cell3Of(d, a[0], a[1], a[2]))
HUE_NOISE(Worley3, Worley3Of(d, a[0], a[1], a[2], a[3]))
HUE_NOISE(Worley3Moving, Worley3Of(d, a[0], a[1], a[2], a[3], Turning{a[4]}))
HUE_NOISE(Fractal3, Fractal3Of(d, a[0], a[1], a[2], a[3], a[4], imm))
#undef HUE_NOISE

/// Level of detail per 2x2 pixels from the differences of neighbours, as OpenGL 4.1, 3.8.11 describes. `gu`, `gv`: what is differenced;
/// `width`, `height`: texels to a unit of it. `read(lane, level, rgba)` for every lane.
template <class Read>
void ReadBlock(const float* gu, const float* gv, float* const* out, size_t lanes, bool derivatives, Read read, auto width, auto height) {
    const int row = lanes == size_t(kBlockLanes) ? kBlockColumns : 0;
    for (size_t x = 0; x < lanes / (row ? 2 : 1); x += 2) {
        float level = 0;
        if (derivatives) {
            auto span = [&](size_t from, size_t to) {
                const float du = (gu[to] - gu[from]) * width(from), dv = (gv[to] - gv[from]) * height(from);
                return du * du + dv * dv;
            };
            const float square = row ? std::fmax(span(x, x + 1), span(x, x + size_t(row))) : span(x, x + 1);
            // Written so that NaN becomes level 0.
            level = square > 1 ? 0.5f * std::log2(square) : 0;
        }
        for (size_t y = 0; y <= size_t(row); y += row ? size_t(row) : 1) {
            for (size_t i = x + y; i < x + y + 2; ++i) {
                float rgba[4];
                read(i, level, rgba);
                for (int c = 0; c < 4; ++c) out[c][i] = rgba[c];
            }
            if (!row) break;
        }
    }
}
void SampleBlock(const float* u, const float* v, const float* gu, const float* gv, float* const* out, size_t lanes, const Map& map,
                 bool derivatives) {
    ReadBlock(
        gu, gv, out, lanes, map.levels() > 1 && derivatives,
        [&](size_t i, float level, float* rgba) { map.sample(u[i], v[i], level, rgba); }, [&](size_t) { return float(map.width()); },
        [&](size_t) { return float(map.height()); });
}

/// Where a frame is read at a level, along one axis: no nearer to its edge than the centres of its first and last texels in the two levels
/// that are blended. The twin is hs_framed.
float FramedAt(float uv, float corner, float frames, float texels, float level) {
    float low = 0, high = 1;
    for (const float l : {std::floor(level), std::ceil(level)}) {
        const float size = std::fmax(std::floor(texels / std::exp2(l)), 1.f);
        // A little less, so that an edge through a texel's centre falls the same way everywhere.
        const float first = std::ceil(corner * size / frames - 0.501f) + 0.5f,
                    last = std::ceil((corner + 1) * size / frames - 0.501f) - 0.5f;
        low = std::fmax(low, first / size);
        high = std::fmin(high, last / size);
    }
    if (low > high) low = high = (low + high) * 0.5f;
    const float at = (corner + (uv - std::floor(uv))) / frames;
    return std::fmin(std::fmax(at, low), high);
}
void SampleFramedKernel(const float* const* in, float* const* out, size_t lanes, uint32_t slot, const KernelContext& context) {
    const Map& map = *context.maps[slot];
    const float width = float(map.width()), height = float(map.height());
    ReadBlock(
        in[0], in[1], out, lanes, context.derivatives,
        [&](size_t i, float level, float* rgba) {
            // Where a frame is one texel, smaller levels hold other frames as well.
            const float least = std::fmax(std::fmin(width / in[4][i], height / in[5][i]), 1.f);
            level = std::fmin(level, std::floor(std::log2(least)));
            map.sample(FramedAt(in[0][i], in[2][i], in[4][i], width, level), FramedAt(in[1][i], in[3][i], in[5][i], height, level), level,
                       rgba);
        },
        [&](size_t i) { return width / in[4][i]; }, [&](size_t i) { return height / in[5][i]; });
}
void SampleKernel(const float* const* in, float* const* out, size_t lanes, uint32_t slot, const KernelContext& context) {
    SampleBlock(in[0], in[1], in[0], in[1], out, lanes, *context.maps[slot], context.derivatives);
}
void SampleGuidedKernel(const float* const* in, float* const* out, size_t lanes, uint32_t slot, const KernelContext& context) {
    SampleBlock(in[0], in[1], in[2], in[3], out, lanes, *context.maps[slot], context.derivatives);
}
void SampleLevelKernel(const float* const* in, float* const* out, size_t lanes, uint32_t slot, const KernelContext& context) {
    const Map& map = *context.maps[slot];
    for (size_t i = 0; i < lanes; ++i) {
        float rgba[4];
        const float level = in[2][i];
        map.sample(in[0][i], in[1][i], level > 0 ? level : 0, rgba);
        for (int c = 0; c < 4; ++c) out[c][i] = rgba[c];
    }
}

// The CPU has no picture to look behind into.
void BehindKernel(const float* const*, float* const* out, size_t lanes, uint32_t, const KernelContext&) {
    for (int c = 0; c < 3; ++c)
        for (size_t i = 0; i < lanes; ++i) out[c][i] = kNoSceneRadiance;
}
void AroundKernel(const float* const* in, float* const* out, size_t lanes, uint32_t, const KernelContext& context) {
    for (size_t i = 0; i < lanes; ++i) {
        float rgb[3] = {kNoSceneRadiance, kNoSceneRadiance, kNoSceneRadiance};
        const float direction[3] = {in[0][i], in[1][i], in[2][i]};
        if (context.light) context.light->around(direction, in[3][i], rgb);
        for (int c = 0; c < 3; ++c) out[c][i] = rgb[c];
    }
}

template <class F> void FillOne(Kernel* k) {
    k[0] = One<F, 0>;
    k[1] = One<F, 1>;
}
template <class F> void FillTwo(Kernel* k) {
    k[0] = Two<F, 0>;
    k[1] = Two<F, 1>;
    k[2] = Two<F, 2>;
    k[3] = Two<F, 3>;
}
template <class F> void FillThree(Kernel* k) {
    k[0] = Three<F, 0>;
    k[1] = Three<F, 1>;
    k[2] = Three<F, 2>;
    k[3] = Three<F, 3>;
    k[4] = Three<F, 4>;
    k[5] = Three<F, 5>;
    k[6] = Three<F, 6>;
    k[7] = Three<F, 7>;
}
template <class First> void FillFused(Kernel (*k)[kSplatMasks]) {
    FillThree<FusedOp<First, AddOp>>(k[int(FusedSecond::Add)]);
    FillThree<FusedOp<First, SubOp>>(k[int(FusedSecond::Sub)]);
    FillThree<FusedOp<First, SubFromOp>>(k[int(FusedSecond::SubFrom)]);
    FillThree<FusedOp<First, MulOp>>(k[int(FusedSecond::Mul)]);
    FillThree<FusedOp<First, MinOp>>(k[int(FusedSecond::Min)]);
    FillThree<FusedOp<First, MaxOp>>(k[int(FusedSecond::Max)]);
}

void FillTable(KernelTable& t) {
    t = {};
#define HUE_FILL_1(name) FillOne<name##Op>(t.elementwise[int(Op::name)]);
#define HUE_FILL_2(name) FillTwo<name##Op>(t.elementwise[int(Op::name)]);
#define HUE_FILL_3(name) FillThree<name##Op>(t.elementwise[int(Op::name)]);
#define HUE_ELEMENTWISE(name, operands, cost, glsl, cpu) HUE_FILL_##operands(name)
#include "core/program/ops.def"
#undef HUE_ELEMENTWISE
    t.elementwise[int(Op::Phase)][0] = PhaseKernel;
    FillFused<AddOp>(t.fused[int(FusedFirst::Add)]);
    FillFused<SubOp>(t.fused[int(FusedFirst::Sub)]);
    FillFused<MulOp>(t.fused[int(FusedFirst::Mul)]);
    t.inverseRoot = One<InverseRootOp, 0>;
#define HUE_NOISE(name) t.noise[int(Op::name)] = name##Kernel;
    HUE_NOISE(Noise2)
    HUE_NOISE(Cell2)
    HUE_NOISE(Worley2)
    HUE_NOISE(Fractal2)
    HUE_NOISE(Noise2Seamless)
    HUE_NOISE(Cell2Seamless)
    HUE_NOISE(Worley2Seamless)
    HUE_NOISE(Worley2Moving)
    HUE_NOISE(Worley2MovingSeamless)
    HUE_NOISE(Noise3)
    HUE_NOISE(Cell3)
    HUE_NOISE(Worley3)
    HUE_NOISE(Worley3Moving)
    HUE_NOISE(Fractal3)
#undef HUE_NOISE
    t.sample = SampleKernel;
    t.sampleLevel = SampleLevelKernel;
    t.sampleGuided = SampleGuidedKernel;
    t.sampleFramed = SampleFramedKernel;
    t.behind = BehindKernel;
    t.around = AroundKernel;
}

} // namespace hue::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace hue {
HWY_EXPORT(FillTable);

const KernelTable& kernels() {
    // Looked up anew when a test limits the instruction sets.
    static std::mutex mutex;
    static KernelTable table;
    static int64_t filledFor = 0;
    const std::lock_guard lock(mutex);
    const int64_t targets = hwy::SupportedTargets();
    if (filledFor != targets) {
        HWY_DYNAMIC_DISPATCH(FillTable)(table);
        filledFor = targets;
    }
    return table;
}
} // namespace hue
#endif
