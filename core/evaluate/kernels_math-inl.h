// Sine, power and smooth steps over lanes; included once for each instruction set.
#if defined(HUE_KERNELS_MATH_INL) == defined(HWY_TARGET_TOGGLE)
#ifdef HUE_KERNELS_MATH_INL
#undef HUE_KERNELS_MATH_INL
#else
#define HUE_KERNELS_MATH_INL
#endif
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace hue::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;
using D = hn::ScalableTag<float>;
using DI = hn::RebindToSigned<D>;
using DU = hn::RebindToUnsigned<D>;
using V = hn::Vec<D>;
using VU = hn::Vec<DU>;

/// x * c + y, rounded twice on every instruction set.
HWY_INLINE V Horner(V x, V c, float y) { return hn::Add(hn::Mul(x, c), hn::Set(D(), y)); }

/// Sine for |x| up to some millions: x = k*pi + r, then the Taylor series on +-pi/2. Pi is taken off in parts of so few bits that every
/// product is exact while k is below 2^22, and every difference as well (Cody and Waite; Sterbenz).
HWY_INLINE V SineOf(D d, V x) {
    const V k = hn::Round(hn::Mul(x, hn::Set(d, 0.31830988618f)));
    V r = hn::Sub(x, hn::Mul(k, hn::Set(d, 3.0f)));
    r = hn::Sub(r, hn::Mul(k, hn::Set(d, 0.125f)));
    r = hn::Sub(r, hn::Mul(k, hn::Set(d, 0.015625f)));
    r = hn::Sub(r, hn::Mul(k, hn::Set(d, 9.765625e-4f)));
    r = hn::Add(r, hn::Mul(k, hn::Set(d, 8.9089102e-6f)));
    const V s = hn::Mul(r, r);
    V p = hn::Set(d, -2.50521084e-8f);
    p = Horner(p, s, 2.75573192e-6f);
    p = Horner(p, s, -1.98412698e-4f);
    p = Horner(p, s, 8.33333333e-3f);
    p = Horner(p, s, -1.66666667e-1f);
    // Beyond those millions it is no sine any more, but stays within its bounds.
    const V one = hn::Set(d, 1.0f);
    const V sine = hn::Min(hn::Max(hn::Add(r, hn::Mul(hn::Mul(r, s), p)), hn::Neg(one)), one);
    // Odd multiples of pi change the sign: bit 0 of k moves to the sign bit.
    const auto sign = hn::ShiftLeft<31>(hn::ConvertTo(DI(), k));
    return hn::Xor(sine, hn::BitCast(d, sign));
}

/// Base 2 logarithm of a positive normal number: exponent, and the series of artanh on sqrt(1/2)..sqrt(2).
HWY_INLINE V Log2Of(D d, V x) {
    const DI di;
    const auto bits = hn::BitCast(di, x);
    // Adding the distance from sqrt(1/2) to 1 lets mantissas above sqrt(2) count to the next exponent.
    const auto shifted = hn::Add(bits, hn::Set(di, 0x3F800000 - 0x3F3504F3));
    const auto exponent = hn::Sub(hn::ShiftRight<23>(shifted), hn::Set(di, 127));
    const auto mantissa = hn::Add(hn::And(shifted, hn::Set(di, 0x007FFFFF)), hn::Set(di, 0x3F3504F3));
    const V m = hn::BitCast(d, mantissa);
    const V s = hn::Div(hn::Sub(m, hn::Set(d, 1.0f)), hn::Add(m, hn::Set(d, 1.0f)));
    const V q = hn::Mul(s, s);
    V p = hn::Set(d, 0.320598897f); // 2/(9 ln 2)
    p = Horner(p, q, 0.412198583f);
    p = Horner(p, q, 0.577078016f);
    p = Horner(p, q, 0.961796694f);
    p = Horner(p, q, 2.885390082f);
    return hn::Add(hn::ConvertTo(d, exponent), hn::Mul(s, p));
}

/// 2 to the x, limited to normal numbers.
HWY_INLINE V Exp2Of(D d, V x) {
    x = hn::Min(hn::Max(x, hn::Set(d, -126.0f)), hn::Set(d, 127.0f));
    const V k = hn::Round(x);
    const V f = hn::Mul(hn::Sub(x, k), hn::Set(d, 0.69314718056f));
    V p = hn::Set(d, 1.98412698e-4f);
    p = Horner(p, f, 1.38888889e-3f);
    p = Horner(p, f, 8.33333333e-3f);
    p = Horner(p, f, 4.16666667e-2f);
    p = Horner(p, f, 1.66666667e-1f);
    p = Horner(p, f, 0.5f);
    p = Horner(p, f, 1.0f);
    p = Horner(p, f, 1.0f);
    const DI di;
    const auto exponent = hn::ShiftLeft<23>(hn::Add(hn::ConvertTo(di, k), hn::Set(di, 127)));
    return hn::Mul(p, hn::BitCast(d, exponent));
}

/// a to the b; a below zero counts as zero; anything to the 0 is 1.
HWY_INLINE V PowerOf(D d, V a, V b) {
    const V smallest = hn::Set(d, 1.17549435e-38f);
    const V power = Exp2Of(d, hn::Mul(b, Log2Of(d, hn::Max(a, smallest))));
    const V one = hn::Set(d, 1.0f);
    const V atZero = hn::IfThenElseZero(hn::Eq(b, hn::Zero(d)), one);
    return hn::IfThenElse(hn::Lt(a, smallest), atZero, power);
}

HWY_INLINE V SignOf(D d, V x) { return hn::IfThenElseZero(hn::Ne(x, hn::Zero(d)), hn::CopySign(hn::Set(d, 1.0f), x)); }

/// The angle of (x, y), -pi..pi, by the series of the arctangent: the smaller over the larger is 0..1, and above tan(pi/8) the angle to
/// pi/4 is taken instead, so that the series sees at most tan(pi/8).
HWY_INLINE V Atan2Of(D d, V y, V x) {
    const V one = hn::Set(d, 1.0f), ax = hn::Abs(x), ay = hn::Abs(y);
    const V larger = hn::Max(ax, ay), smaller = hn::Min(ax, ay);
    const V t = hn::IfThenElseZero(hn::Gt(larger, hn::Zero(d)), hn::Div(smaller, larger));
    const auto steep = hn::Gt(t, hn::Set(d, 0.414213562f));
    const V u = hn::IfThenElse(steep, hn::Div(hn::Sub(t, one), hn::Add(t, one)), t);
    const V s = hn::Mul(u, u);
    V p = hn::Set(d, 1.0f / 17);
    p = Horner(p, s, -1.0f / 15);
    p = Horner(p, s, 1.0f / 13);
    p = Horner(p, s, -1.0f / 11);
    p = Horner(p, s, 1.0f / 9);
    p = Horner(p, s, -1.0f / 7);
    p = Horner(p, s, 1.0f / 5);
    p = Horner(p, s, -1.0f / 3);
    V angle = hn::Add(u, hn::Mul(hn::Mul(u, s), p));
    angle = hn::Add(angle, hn::IfThenElseZero(steep, hn::Set(d, 0.785398163f)));
    angle = hn::IfThenElse(hn::Gt(ay, ax), hn::Sub(hn::Set(d, 1.57079633f), angle), angle);
    angle = hn::IfThenElse(hn::Lt(x, hn::Zero(d)), hn::Sub(hn::Set(d, 3.14159265f), angle), angle);
    return hn::CopySign(angle, y);
}

/// 0 below low, 1 above high, 3t^2 - 2t^3 between; a hard step at low where high is not above it.
HWY_INLINE V SmoothOf(D d, V x, V low, V high) {
    const V span = hn::Sub(high, low);
    const V one = hn::Set(d, 1.0f);
    V t = hn::Div(hn::Sub(x, low), span);
    t = hn::Min(hn::Max(t, hn::Zero(d)), one);
    const V smooth = hn::Mul(hn::Mul(t, t), hn::Sub(hn::Set(d, 3.0f), hn::Add(t, t)));
    const V hard = hn::IfThenElseZero(hn::Ge(x, low), one);
    return hn::IfThenElse(hn::Gt(span, hn::Zero(d)), smooth, hard);
}

} // namespace hue::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
