#define HWY_DISABLED_TARGETS (HWY_SSSE3 | HWY_SSE4 | HWY_AVX3_DL)
#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "bench/hand_written.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "bench/hand_written.h"
#include "core/evaluate/kernels_noise-inl.h"

HWY_BEFORE_NAMESPACE();
namespace hue::HWY_NAMESPACE {

void NoiseHeavyLoop(const float* us, const float* vs, float* out, size_t lanes) {
    const D d;
    const V half = hn::Set(d, 0.5f);
    for (size_t i = 0; i < lanes; i += hn::Lanes(d)) {
        const V u = hn::LoadU(d, us + i), v = hn::LoadU(d, vs + i);
        const V six = hn::Set(d, 6.0f), nine = hn::Set(d, 9.0f), forty = hn::Set(d, 40.0f);
        const V fractal = hn::Add(hn::Mul(Fractal2Of(d, hn::Mul(u, six), hn::Mul(v, six), hn::Set(d, 2.0f), half, 5), half), half);
        const V cells = Worley2Of(d, hn::Mul(u, nine), hn::Mul(v, nine), hn::Set(d, 1.0f));
        const V mask = SmoothOf(d, cells, hn::Set(d, 0.2f), hn::Set(d, 0.6f));
        const V detail = hn::Add(hn::Mul(Noise2Of(d, hn::Mul(u, forty), hn::Mul(v, forty)), half), half);
        hn::StoreU(hn::Add(fractal, hn::Mul(hn::Sub(detail, fractal), mask)), d, out + i);
    }
}

void ArithmeticLoop(const float* us, const float* vs, float* out, size_t lanes) {
    const D d;
    for (size_t i = 0; i < lanes; i += hn::Lanes(d)) {
        const V u = hn::LoadU(d, us + i), v = hn::LoadU(d, vs + i);
        V a = hn::Mul(u, v), b = hn::Add(u, v);
        for (int k = 0; k < 5; ++k) {
            const float f = 0.1f * float(k + 1);
            const V q = hn::Add(hn::Mul(a, hn::Set(d, 1.1f + f)), b);
            const V r = hn::Sub(b, hn::Set(d, f));
            a = hn::Min(hn::Mul(r, q), hn::Set(d, 2 + f));
            b = hn::Add(q, hn::Mul(hn::Sub(r, q), hn::Set(d, 0.3f + 0.5f * f)));
        }
        hn::StoreU(hn::Min(hn::Max(hn::Add(a, b), hn::Zero(d)), hn::Set(d, 1.0f)), d, out + i);
    }
}

} // namespace hue::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace hue {
HWY_EXPORT(NoiseHeavyLoop);
HWY_EXPORT(ArithmeticLoop);
namespace bench {
void noiseHeavyByHand(const float* u, const float* v, float* out, size_t lanes) { HWY_DYNAMIC_DISPATCH(NoiseHeavyLoop)(u, v, out, lanes); }
void arithmeticByHand(const float* u, const float* v, float* out, size_t lanes) { HWY_DYNAMIC_DISPATCH(ArithmeticLoop)(u, v, out, lanes); }
} // namespace bench
} // namespace hue
#endif
