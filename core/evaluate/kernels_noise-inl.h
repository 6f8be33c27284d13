// Noises over lanes; included once for each instruction set. Their GLSL twins are in core/emit/glsl_library.cpp.
#if defined(HUE_KERNELS_NOISE_INL) == defined(HWY_TARGET_TOGGLE)
#ifdef HUE_KERNELS_NOISE_INL
#undef HUE_KERNELS_NOISE_INL
#else
#define HUE_KERNELS_NOISE_INL
#endif
#include "core/evaluate/kernels_math-inl.h"

HWY_BEFORE_NAMESPACE();
namespace hue::HWY_NAMESPACE {

/// A well-mixed number from a lattice point: a linear combination, then two rounds of xor-shift and multiply.
HWY_INLINE VU HashOf(DU d, VU x, VU y) {
    VU h = hn::Add(hn::Mul(x, hn::Set(d, 0x8DA6B343u)), hn::Mul(y, hn::Set(d, 0xD8163841u)));
    h = hn::Mul(hn::Xor(h, hn::ShiftRight<15>(h)), hn::Set(d, 0x2C1B3C6Du));
    h = hn::Mul(hn::Xor(h, hn::ShiftRight<12>(h)), hn::Set(d, 0x297A2D39u));
    return hn::Xor(h, hn::ShiftRight<15>(h));
}
HWY_INLINE VU CellIndex(V floored) { return hn::BitCast(DU(), hn::ConvertTo(DI(), floored)); }
/// The lower and upper 16 bits as numbers 0..65535.
HWY_INLINE V LowHalf(D d, VU h) { return hn::ConvertTo(d, hn::BitCast(DI(), hn::And(h, hn::Set(DU(), 0xFFFFu)))); }
HWY_INLINE V HighHalf(D d, VU h) { return hn::ConvertTo(d, hn::BitCast(DI(), hn::ShiftRight<16>(h))); }

/// Where the lattice begins again: after whole cells in u and in v, or never.
struct Period {
    V u, v;
    /// Cells 0 to period-1. The half keeps a quotient that is just below a whole number from being taken for it.
    HWY_INLINE VU AtU(V cell) const { return Wrapped(cell, u); }
    HWY_INLINE VU AtV(V cell) const { return Wrapped(cell, v); }
    static HWY_INLINE VU Wrapped(V cell, V period) {
        const D d;
        const V turns = hn::Floor(hn::Div(hn::Add(cell, hn::Set(d, 0.5f)), period));
        return CellIndex(hn::Sub(cell, hn::Mul(period, turns)));
    }
};
struct Endless {
    HWY_INLINE VU AtU(V cell) const { return CellIndex(cell); }
    HWY_INLINE VU AtV(V cell) const { return CellIndex(cell); }
};

template <class P = Endless> HWY_INLINE V Cell2Of(D d, V u, V v, P period = P()) {
    const DU du;
    const VU h = HashOf(du, period.AtU(hn::Floor(u)), period.AtV(hn::Floor(v)));
    return hn::Mul(hn::ConvertTo(d, hn::BitCast(DI(), hn::ShiftRight<8>(h))), hn::Set(d, 1.0f / 16777216.0f));
}

/// Dot product of a corner's random gradient, components in -1..1, and the way from the corner.
HWY_INLINE V CornerOf(D d, VU x, VU y, V dx, V dy) {
    const VU h = HashOf(DU(), x, y);
    const V step = hn::Set(d, 1.0f / 32767.5f), one = hn::Set(d, 1.0f);
    const V gx = hn::Sub(hn::Mul(LowHalf(d, h), step), one);
    const V gy = hn::Sub(hn::Mul(HighHalf(d, h), step), one);
    return hn::Add(hn::Mul(gx, dx), hn::Mul(gy, dy));
}

/// Perlin's quintic fade, "Improving Noise", 2002.
HWY_INLINE V FadeOf(V t) {
    const D d;
    const V p = hn::Add(hn::Mul(t, hn::Sub(hn::Mul(t, hn::Set(d, 6.0f)), hn::Set(d, 15.0f))), hn::Set(d, 10.0f));
    return hn::Mul(hn::Mul(hn::Mul(t, t), t), p);
}

template <class P = Endless> HWY_INLINE V Noise2Of(D d, V u, V v, P period = P()) {
    const V fu = hn::Floor(u), fv = hn::Floor(v);
    const V x = hn::Sub(u, fu), y = hn::Sub(v, fv), one = hn::Set(d, 1.0f);
    const V x1 = hn::Sub(x, one), y1 = hn::Sub(y, one);
    const VU i = period.AtU(fu), j = period.AtV(fv), i1 = period.AtU(hn::Add(fu, one)), j1 = period.AtV(hn::Add(fv, one));
    const V a = CornerOf(d, i, j, x, y), b = CornerOf(d, i1, j, x1, y);
    const V c = CornerOf(d, i, j1, x, y1), e = CornerOf(d, i1, j1, x1, y1);
    const V s = FadeOf(x), t = FadeOf(y);
    const V top = hn::Add(a, hn::Mul(hn::Sub(b, a), s));
    const V bottom = hn::Add(c, hn::Mul(hn::Sub(e, c), s));
    return hn::Mul(hn::Add(top, hn::Mul(hn::Sub(bottom, top), t)), hn::Set(d, 1.2f));
}

/// Where a feature point lies in its cell, by its random numbers -1/2..1/2.
struct Resting {
    HWY_INLINE V At(V random) const { return random; }
};
/// Points that go round once a turn, each in its own way: every component swings through its range, from where chance has it start.
struct Turning {
    V turns;
    HWY_INLINE V At(V random) const {
        const D d;
        return hn::Mul(SineOf(d, hn::Mul(hn::Add(random, turns), hn::Set(d, 6.28318531f))), hn::Set(d, 0.5f));
    }
};

template <class P = Endless, class M = Resting> HWY_INLINE V Worley2Of(D d, V u, V v, V jitter, P period = P(), M motion = M()) {
    const DU du;
    const V fu = hn::Floor(u), fv = hn::Floor(v);
    const V x = hn::Sub(u, fu), y = hn::Sub(v, fv);
    const V step = hn::Set(d, 1.0f / 65535.0f), half = hn::Set(d, 0.5f);
    V nearest = hn::Set(d, 64.0f);
    for (int dj = -1; dj <= 1; ++dj) {
        for (int di = -1; di <= 1; ++di) {
            const VU h = HashOf(du, period.AtU(hn::Add(fu, hn::Set(d, float(di)))), period.AtV(hn::Add(fv, hn::Set(d, float(dj)))));
            const V px = hn::Add(hn::Set(d, float(di) + 0.5f), hn::Mul(motion.At(hn::Sub(hn::Mul(LowHalf(d, h), step), half)), jitter));
            const V py = hn::Add(hn::Set(d, float(dj) + 0.5f), hn::Mul(motion.At(hn::Sub(hn::Mul(HighHalf(d, h), step), half)), jitter));
            const V dx = hn::Sub(px, x), dy = hn::Sub(py, y);
            nearest = hn::Min(nearest, hn::Add(hn::Mul(dx, dx), hn::Mul(dy, dy)));
        }
    }
    return hn::Sqrt(nearest);
}

/// The sum of octaves over the sum of their weights.
HWY_INLINE V Fractal2Of(D d, V u, V v, V lacunarity, V diminish, uint32_t octaves) {
    V sum = hn::Zero(d), weights = hn::Zero(d), weight = hn::Set(d, 1.0f);
    for (uint32_t octave = 0; octave < octaves; ++octave) {
        sum = hn::Add(sum, hn::Mul(Noise2Of(d, u, v), weight));
        weights = hn::Add(weights, weight);
        weight = hn::Mul(weight, diminish);
        // The shift keeps the lattices of the octaves from meeting at the origin.
        u = hn::Add(hn::Mul(u, lacunarity), hn::Set(d, 17.25f));
        v = hn::Add(hn::Mul(v, lacunarity), hn::Set(d, 5.75f));
    }
    return hn::Div(sum, weights);
}

// In three dimensions. A hash gives three numbers of ten bits.

HWY_INLINE VU Hash3Of(DU d, VU x, VU y, VU z) {
    VU h = hn::Add(hn::Mul(x, hn::Set(d, 0x8DA6B343u)), hn::Mul(y, hn::Set(d, 0xD8163841u)));
    h = hn::Add(h, hn::Mul(z, hn::Set(d, 0xCB1AB31Fu)));
    h = hn::Mul(hn::Xor(h, hn::ShiftRight<15>(h)), hn::Set(d, 0x2C1B3C6Du));
    h = hn::Mul(hn::Xor(h, hn::ShiftRight<12>(h)), hn::Set(d, 0x297A2D39u));
    return hn::Xor(h, hn::ShiftRight<15>(h));
}
/// Bits `from` to `from` + 9 as a number 0..1023.
template <int from> HWY_INLINE V TenBits(D d, VU h) {
    return hn::ConvertTo(d, hn::BitCast(DI(), hn::And(hn::ShiftRight<from>(h), hn::Set(DU(), 1023u))));
}

HWY_INLINE V Cell3Of(D d, V x, V y, V z) {
    const VU h = Hash3Of(DU(), CellIndex(hn::Floor(x)), CellIndex(hn::Floor(y)), CellIndex(hn::Floor(z)));
    return hn::Mul(hn::ConvertTo(d, hn::BitCast(DI(), hn::ShiftRight<8>(h))), hn::Set(d, 1.0f / 16777216.0f));
}

HWY_INLINE V Corner3Of(D d, VU x, VU y, VU z, V dx, V dy, V dz) {
    const VU h = Hash3Of(DU(), x, y, z);
    const V step = hn::Set(d, 1.0f / 511.5f), one = hn::Set(d, 1.0f);
    const V gx = hn::Sub(hn::Mul(TenBits<0>(d, h), step), one);
    const V gy = hn::Sub(hn::Mul(TenBits<10>(d, h), step), one);
    const V gz = hn::Sub(hn::Mul(TenBits<20>(d, h), step), one);
    return hn::Add(hn::Add(hn::Mul(gx, dx), hn::Mul(gy, dy)), hn::Mul(gz, dz));
}

HWY_INLINE V Noise3Of(D d, V x, V y, V z) {
    const V fx = hn::Floor(x), fy = hn::Floor(y), fz = hn::Floor(z), one = hn::Set(d, 1.0f);
    x = hn::Sub(x, fx), y = hn::Sub(y, fy), z = hn::Sub(z, fz);
    const V x1 = hn::Sub(x, one), y1 = hn::Sub(y, one), z1 = hn::Sub(z, one);
    const VU i = CellIndex(fx), j = CellIndex(fy), k = CellIndex(fz), next = hn::Set(DU(), 1u);
    const VU i1 = hn::Add(i, next), j1 = hn::Add(j, next), k1 = hn::Add(k, next);
    const V s = FadeOf(x), t = FadeOf(y), r = FadeOf(z);
    const auto between = [](V a, V b, V w) HWY_ATTR { return hn::Add(a, hn::Mul(hn::Sub(b, a), w)); };
    const V near = between(between(Corner3Of(d, i, j, k, x, y, z), Corner3Of(d, i1, j, k, x1, y, z), s),
                           between(Corner3Of(d, i, j1, k, x, y1, z), Corner3Of(d, i1, j1, k, x1, y1, z), s), t);
    const V far = between(between(Corner3Of(d, i, j, k1, x, y, z1), Corner3Of(d, i1, j, k1, x1, y, z1), s),
                          between(Corner3Of(d, i, j1, k1, x, y1, z1), Corner3Of(d, i1, j1, k1, x1, y1, z1), s), t);
    return hn::Mul(between(near, far, r), hn::Set(d, 1.2f));
}

template <class M = Resting> HWY_INLINE V Worley3Of(D d, V x, V y, V z, V jitter, M motion = M()) {
    const V fx = hn::Floor(x), fy = hn::Floor(y), fz = hn::Floor(z);
    x = hn::Sub(x, fx), y = hn::Sub(y, fy), z = hn::Sub(z, fz);
    const V step = hn::Set(d, 1.0f / 1023.0f), half = hn::Set(d, 0.5f);
    V nearest = hn::Set(d, 64.0f);
    for (int dk = -1; dk <= 1; ++dk)
        for (int dj = -1; dj <= 1; ++dj)
            for (int di = -1; di <= 1; ++di) {
                const V cx = hn::Set(d, float(di)), cy = hn::Set(d, float(dj)), cz = hn::Set(d, float(dk));
                const VU h = Hash3Of(DU(), CellIndex(hn::Add(fx, cx)), CellIndex(hn::Add(fy, cy)), CellIndex(hn::Add(fz, cz)));
                const V px = hn::Mul(motion.At(hn::Sub(hn::Mul(TenBits<0>(d, h), step), half)), jitter);
                const V py = hn::Mul(motion.At(hn::Sub(hn::Mul(TenBits<10>(d, h), step), half)), jitter);
                const V pz = hn::Mul(motion.At(hn::Sub(hn::Mul(TenBits<20>(d, h), step), half)), jitter);
                const V dx = hn::Sub(hn::Add(hn::Add(cx, half), px), x);
                const V dy = hn::Sub(hn::Add(hn::Add(cy, half), py), y);
                const V dz = hn::Sub(hn::Add(hn::Add(cz, half), pz), z);
                nearest = hn::Min(nearest, hn::Add(hn::Add(hn::Mul(dx, dx), hn::Mul(dy, dy)), hn::Mul(dz, dz)));
            }
    return hn::Sqrt(nearest);
}

HWY_INLINE V Fractal3Of(D d, V x, V y, V z, V lacunarity, V diminish, uint32_t octaves) {
    V sum = hn::Zero(d), weights = hn::Zero(d), weight = hn::Set(d, 1.0f);
    for (uint32_t octave = 0; octave < octaves; ++octave) {
        sum = hn::Add(sum, hn::Mul(Noise3Of(d, x, y, z), weight));
        weights = hn::Add(weights, weight);
        weight = hn::Mul(weight, diminish);
        x = hn::Add(hn::Mul(x, lacunarity), hn::Set(d, 17.25f));
        y = hn::Add(hn::Mul(y, lacunarity), hn::Set(d, 5.75f));
        z = hn::Add(hn::Mul(z, lacunarity), hn::Set(d, 11.5f));
    }
    return hn::Div(sum, weights);
}

} // namespace hue::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
