// What the encoder of BC7 does to as many blocks at once as a vector has lanes. Every lane goes its own way, so no result depends
// on the width of a vector. Errors and sums over pixels are sums of whole numbers below 2^24, which floats hold exactly.
#if defined(HUE_BC7_LANES_INL_H_) == defined(HWY_TARGET_TOGGLE)
#ifdef HUE_BC7_LANES_INL_H_
#undef HUE_BC7_LANES_INL_H_
#else
#define HUE_BC7_LANES_INL_H_
#endif

#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace hue::HWY_NAMESPACE::bc7 {

namespace hn = hwy::HWY_NAMESPACE;

constexpr size_t kMostLanes = 16;
using D = hn::CappedTag<float, kMostLanes>;
using V = hn::Vec<D>;
using M = hn::Mask<D>;

/// A number of each block.
struct alignas(64) Lanes {
    float v[kMostLanes];
};
HWY_INLINE V Get(const Lanes& l) { return hn::Load(D(), l.v); }
HWY_INLINE void Put(V v, Lanes& l) { hn::Store(v, D(), l.v); }
HWY_INLINE V Num(float x) { return hn::Set(D(), x); }
HWY_INLINE V Clamped(V v, float most) { return hn::Min(hn::Max(v, hn::Zero(D())), Num(most)); }

struct Batch {
    Lanes pixel[4][16]; ///< channel, pixel: 0..255
};

enum class Low { None, Own, Shared, Set }; ///< lowest bit of the ends; Set: both are 1, which keeps 255 at 255

/// The values that an end can take: `bits` of its own and maybe a lowest bit, widened to 8.
struct Grid {
    int bits;
    Low low;
    float Most() const { return float((1 << bits) - 1); }
    float Full() const { return float((1 << (bits + (low != Low::None))) - 1); }
    HWY_INLINE V Widen(V q, V lowBit) const {
        const int n = bits + (low != Low::None);
        const V v = low == Low::None ? q : hn::Add(hn::Add(q, q), lowBit);
        if (n == 8) return v;
        return hn::Add(hn::Mul(v, Num(float(1 << (8 - n)))), hn::Floor(hn::Mul(v, Num(1 / float(1 << (2 * n - 8))))));
    }
    /// What is stored for a value 0..255 before rounding.
    HWY_INLINE V Stored(V value, V lowBit) const {
        const V v = hn::Mul(value, Num(Full() / 255));
        return low == Low::None ? v : hn::Mul(hn::Sub(v, lowBit), Num(0.5f));
    }
};

/// Pixels along a line between two ends: what is kept of each block.
struct LineFit {
    Lanes error;
    Lanes q[2][4];
    Lanes low[2];
    Lanes index[16];
};

/// Which pixels count (1 or 0), and how many they are; none: all sixteen.
struct Members {
    Lanes in[16];
    Lanes count;
};

struct Ends {
    V value[2][4]; ///< 0..255
    HWY_INLINE Ends() {
        for (int c = 0; c < 4; ++c) value[0][c] = value[1][c] = hn::Zero(D());
    }
};

/// Sums that tell the ends that suit the indices best. Weights are in 64ths, values count from the first end.
struct Sums {
    V w, ww, wv[4];
    HWY_INLINE Sums() : w(hn::Zero(D())), ww(w) {
        for (V& v : wv) v = w;
    }
};

/// The nearest of the `steps` + 1 values between two ends for every pixel: gives the squared error and fills `index`.
template <int C, bool kSums>
V Assign(const Batch& b, const int* order, const Members* members, const Ends& ends, float steps, Lanes* index, Sums* sums) {
    V delta[C], base[C], square = hn::Zero(D());
    for (int c = 0; c < C; ++c) {
        delta[c] = hn::Sub(ends.value[1][c], ends.value[0][c]);
        base[c] = hn::Add(hn::Mul(ends.value[0][c], Num(64.f)), Num(32.f));
        square = hn::MulAdd(delta[c], delta[c], square);
    }
    const V scale = hn::Div(Num(steps), hn::Max(square, Num(1.f)));
    const V one = Num(1.f), half = Num(0.5f), part = Num(1 / 64.f), perStep = Num(64 / steps), lastStep = Num(steps - 1);
    V total = hn::Zero(D());
    if constexpr (kSums) {
        sums->w = sums->ww = hn::Zero(D());
        for (int c = 0; c < C; ++c) sums->wv[c] = hn::Zero(D());
    }
    for (int i = 0; i < 16; ++i) {
        V v[C], along = hn::Zero(D());
        for (int c = 0; c < C; ++c) {
            v[c] = Get(b.pixel[order[c]][i]);
            along = hn::MulAdd(hn::Sub(v[c], ends.value[0][c]), delta[c], along);
        }
        // One of the two steps around the place along the line.
        const V n0 = hn::Min(hn::Floor(hn::Max(hn::Mul(along, scale), hn::Zero(D()))), lastStep), n1 = hn::Add(n0, one);
        const V w0 = hn::Floor(hn::Add(hn::Mul(n0, perStep), half)), w1 = hn::Floor(hn::Add(hn::Mul(n1, perStep), half));
        V e0 = hn::Zero(D()), e1 = hn::Zero(D());
        for (int c = 0; c < C; ++c) {
            const V off0 = hn::Sub(hn::Floor(hn::Mul(hn::MulAdd(w0, delta[c], base[c]), part)), v[c]);
            const V off1 = hn::Sub(hn::Floor(hn::Mul(hn::MulAdd(w1, delta[c], base[c]), part)), v[c]);
            e0 = hn::MulAdd(off0, off0, e0), e1 = hn::MulAdd(off1, off1, e1);
        }
        const M second = hn::Lt(e1, e0);
        Put(hn::IfThenElse(second, n1, n0), index[i]);
        V error = hn::Min(e0, e1);
        if (members) error = hn::Mul(error, Get(members->in[i]));
        total = hn::Add(total, error);
        if constexpr (kSums) {
            V w = hn::IfThenElse(second, w1, w0);
            const V plain = w;
            if (members) w = hn::Mul(w, Get(members->in[i]));
            sums->w = hn::Add(sums->w, w);
            sums->ww = hn::MulAdd(w, plain, sums->ww);
            for (int c = 0; c < C; ++c) sums->wv[c] = hn::MulAdd(w, hn::Sub(v[c], ends.value[0][c]), sums->wv[c]);
        }
    }
    return total;
}

/// A quadratic form of the two ends, the same for every channel, and where it is least.
struct Bowl {
    V aa, ab, bb;
    V least[2][4]; ///< 0..255, or beyond
};

/// The ends of the grid that lie lowest in a bowl: of every choice of lowest bits (or `only` one of 0..3, the first end's and twice the
/// second's), the first end beside its place and the second where that leaves it.
template <int C> void Settle(const Bowl& bowl, const Grid& grid, int only, Ends& ends, V (&q)[2][4], V (&low)[2]) {
    const V zero = hn::Zero(D()), one = Num(1.f), half = Num(0.5f);
    const float most = grid.Most();
    const V lean = hn::Div(bowl.ab, hn::Max(bowl.bb, Num(1e-6f)));
    for (int e = 0; e < 2; ++e) {
        low[e] = zero;
        for (int c = 0; c < C; ++c) q[e][c] = ends.value[e][c] = zero;
    }
    V best = Num(1e30f);
    for (int bitsTried = 0; bitsTried < 4; ++bitsTried) {
        if (grid.low == Low::None && bitsTried > 0) break;
        if (grid.low == Low::Shared && (bitsTried == 1 || bitsTried == 2)) continue;
        if (grid.low == Low::Set && bitsTried != 3) continue;
        if (only >= 0 && bitsTried != only) continue;
        const V lowA = bitsTried & 1 ? one : zero, lowB = bitsTried & 2 ? one : zero;
        V sum = zero, qa[C], qb[C], va[C], vb[C];
        for (int c = 0; c < C; ++c) {
            const V floorA = hn::Floor(grid.Stored(bowl.least[0][c], lowA));
            V least = Num(1e30f);
            for (int up = 0; up < 2; ++up) {
                const V a = Clamped(up ? hn::Add(floorA, one) : floorA, most), wideA = grid.Widen(a, lowA);
                const V da = hn::Sub(wideA, bowl.least[0][c]);
                const V wantedB = hn::Sub(bowl.least[1][c], hn::Mul(lean, da));
                const V bq = Clamped(hn::Floor(hn::Add(grid.Stored(wantedB, lowB), half)), most), wideB = grid.Widen(bq, lowB);
                const V db = hn::Sub(wideB, bowl.least[1][c]);
                const V e = hn::Add(hn::Mul(da, hn::Add(hn::Mul(bowl.aa, da), hn::Mul(hn::Add(bowl.ab, bowl.ab), db))),
                                    hn::Mul(bowl.bb, hn::Mul(db, db)));
                const M better = hn::Lt(e, least);
                least = hn::IfThenElse(better, e, least);
                qa[c] = up ? hn::IfThenElse(better, a, qa[c]) : a, qb[c] = up ? hn::IfThenElse(better, bq, qb[c]) : bq;
                va[c] = up ? hn::IfThenElse(better, wideA, va[c]) : wideA, vb[c] = up ? hn::IfThenElse(better, wideB, vb[c]) : wideB;
            }
            sum = hn::Add(sum, least);
        }
        const M better = hn::Lt(sum, best);
        best = hn::IfThenElse(better, sum, best);
        auto keep = [&](V from, V& to) HWY_ATTR { to = hn::IfThenElse(better, from, to); };
        for (int c = 0; c < C; ++c)
            keep(qa[c], q[0][c]), keep(qb[c], q[1][c]), keep(va[c], ends.value[0][c]), keep(vb[c], ends.value[1][c]);
        keep(lowA, low[0]), keep(lowB, low[1]);
    }
}

/// Through the mean of the members along the axis on which they spread most, as far as they reach.
template <int C> void MainAxis(const Batch& b, const int* order, const Members* members, V (&from)[4], V (&to)[4], V (&sum)[4]) {
    const V zero = hn::Zero(D()), count = members ? Get(members->count) : Num(16.f), per = hn::Div(Num(1.f), count);
    V cov[C][C], mean[C];
    for (int a = 0; a < C; ++a) {
        sum[a] = zero;
        for (int c = a; c < C; ++c) cov[a][c] = zero;
    }
    for (int i = 0; i < 16; ++i) {
        V v[C];
        for (int c = 0; c < C; ++c) v[c] = Get(b.pixel[order[c]][i]);
        for (int a = 0; a < C; ++a) {
            const V counted = members ? hn::Mul(v[a], Get(members->in[i])) : v[a];
            sum[a] = hn::Add(sum[a], counted);
            for (int c = a; c < C; ++c) cov[a][c] = hn::MulAdd(counted, v[c], cov[a][c]);
        }
    }
    for (int a = 0; a < C; ++a) mean[a] = hn::Mul(sum[a], per);
    for (int a = 0; a < C; ++a)
        for (int c = a; c < C; ++c) cov[a][c] = cov[c][a] = hn::Sub(hn::Mul(cov[a][c], count), hn::Mul(sum[a], sum[c]));
    // Power method from the channel that varies most.
    V axis[C], widest = cov[0][0];
    for (int c = 0; c < C; ++c) axis[c] = cov[0][c];
    for (int a = 1; a < C; ++a) {
        const M wider = hn::Gt(cov[a][a], widest);
        widest = hn::IfThenElse(wider, cov[a][a], widest);
        for (int c = 0; c < C; ++c) axis[c] = hn::IfThenElse(wider, cov[a][c], axis[c]);
    }
    for (int round = 0; round < (C == 1 ? 0 : 4); ++round) {
        V next[C], most = Num(1e-6f);
        for (int a = 0; a < C; ++a) {
            next[a] = zero;
            for (int c = 0; c < C; ++c) next[a] = hn::Add(next[a], hn::Mul(cov[a][c], axis[c]));
            most = hn::Max(most, hn::Abs(next[a]));
        }
        const V scale = hn::Div(Num(1.f), most);
        for (int c = 0; c < C; ++c) axis[c] = hn::Mul(next[c], scale);
    }
    V square = zero;
    for (int c = 0; c < C; ++c) square = hn::Add(square, hn::Mul(axis[c], axis[c]));
    const V scale = hn::Div(Num(1.f), hn::Max(square, Num(1e-6f)));
    V least = zero, most = zero;
    for (int i = 0; i < 16; ++i) {
        V t = zero;
        for (int c = 0; c < C; ++c) t = hn::Add(t, hn::Mul(hn::Sub(Get(b.pixel[order[c]][i]), mean[c]), axis[c]));
        if (members) t = hn::Mul(t, Get(members->in[i]));
        least = hn::Min(least, t), most = hn::Max(most, t);
    }
    for (int c = 0; c < C; ++c) {
        from[c] = Clamped(hn::Add(mean[c], hn::Mul(axis[c], hn::Mul(least, scale))), 255);
        to[c] = Clamped(hn::Add(mean[c], hn::Mul(axis[c], hn::Mul(most, scale))), 255);
    }
}

/// Fits a line to the channels order[0..C) of the members: the main axis, and then so many rounds of the ends that suit the
/// indices and the indices that suit the ends.
template <int C>
void FitLine(const Batch& b, const int* order, const Members* members, const Grid& grid, float steps, int refinements, LineFit& out) {
    Bowl bowl;
    V sum[4];
    MainAxis<C>(b, order, members, bowl.least[0], bowl.least[1], sum);
    bowl.aa = bowl.bb = Num(1.f), bowl.ab = hn::Zero(D());
    const V count = members ? Get(members->count) : Num(16.f);
    V best = Num(1e30f);
    for (int round = 0;; ++round) {
        Ends ends;
        Sums sums;
        V roundBest = Num(1e30f);
        // Each choice of lowest bits is tried where ends are close to their place already.
        const bool each = round > 0 && (grid.low == Low::Own || grid.low == Low::Shared);
        for (int only = each ? 0 : -1; only < (each ? 4 : 0); only += grid.low == Low::Shared ? 3 : 1) {
            Ends tried;
            V q[2][4], low[2];
            Settle<C>(bowl, grid, only, tried, q, low);
            Sums triedSums;
            Lanes index[16];
            const V error = Assign<C, true>(b, order, members, tried, steps, index, &triedSums);
            const M better = hn::Lt(error, best);
            if (round == 0 || !hn::AllFalse(D(), better)) {
                auto keep = [&](V from, Lanes& to) HWY_ATTR { Put(round == 0 ? from : hn::IfThenElse(better, from, Get(to)), to); };
                best = hn::Min(best, error);
                for (int e = 0; e < 2; ++e) {
                    for (int c = 0; c < C; ++c) keep(q[e][c], out.q[e][c]);
                    keep(low[e], out.low[e]);
                }
                for (int i = 0; i < 16; ++i) keep(Get(index[i]), out.index[i]);
            }
            const M ahead = hn::Lt(error, roundBest);
            roundBest = hn::Min(error, roundBest);
            auto follow = [&](V from, V& to) HWY_ATTR { to = only <= 0 ? from : hn::IfThenElse(ahead, from, to); };
            for (int e = 0; e < 2; ++e)
                for (int c = 0; c < C; ++c) follow(tried.value[e][c], ends.value[e][c]);
            follow(triedSums.w, sums.w), follow(triedSums.ww, sums.ww);
            for (int c = 0; c < C; ++c) follow(triedSums.wv[c], sums.wv[c]);
        }
        if (round == refinements) break;
        // Least squares in 64ths: aa a + ab b = 64 (sum of (64 - w) v), ab a + bb b = 64 (sum of w v).
        const V det = hn::Sub(hn::Mul(count, sums.ww), hn::Mul(sums.w, sums.w)); // a 4096th
        bowl.bb = sums.ww, bowl.ab = hn::Sub(hn::Mul(sums.w, Num(64.f)), sums.ww);
        bowl.aa = hn::Add(hn::Sub(hn::Mul(count, Num(4096.f)), hn::Mul(sums.w, Num(128.f))), sums.ww);
        const M tells = hn::Gt(det, Num(0.5f));
        const V scale = hn::Div(Num(1 / 64.f), hn::IfThenElse(tells, det, Num(1.f)));
        for (int c = 0; c < C; ++c) {
            const V second = sums.wv[c], first = hn::Sub(hn::Mul(hn::Sub(sum[c], hn::Mul(count, ends.value[0][c])), Num(64.f)), second);
            const V a = hn::Mul(hn::Sub(hn::Mul(first, bowl.bb), hn::Mul(second, bowl.ab)), scale);
            const V z = hn::Mul(hn::Sub(hn::Mul(second, bowl.aa), hn::Mul(first, bowl.ab)), scale);
            bowl.least[0][c] = hn::IfThenElse(tells, hn::Add(ends.value[0][c], a), ends.value[0][c]);
            bowl.least[1][c] = hn::IfThenElse(tells, hn::Add(ends.value[0][c], z), ends.value[1][c]);
        }
    }
    Put(best, out.error);
}

/// Moves the ends of a line by single steps as long as that helps: least squares knows nothing of the rounding between ends. Fills
/// the line's indices and errors `before` and after; false: there was nothing to better.
template <int C>
bool Polish(const Batch& b, const int* order, const Members* members, const Grid& grid, float steps, int rounds, LineFit& line,
            Lanes& before) {
    Ends ends;
    V q[2][4], low[2] = {Get(line.low[0]), Get(line.low[1])};
    for (int e = 0; e < 2; ++e)
        for (int c = 0; c < C; ++c) {
            q[e][c] = Get(line.q[e][c]);
            ends.value[e][c] = grid.Widen(q[e][c], low[e]);
        }
    V best = Assign<C, false>(b, order, members, ends, steps, line.index, nullptr);
    Put(best, before);
    bool changed = false;
    auto offer = [&](const Ends& tried) HWY_ATTR {
        Lanes index[16];
        const V error = Assign<C, false>(b, order, members, tried, steps, index, nullptr);
        const M better = hn::Lt(error, best);
        if (hn::AllFalse(D(), better)) return better;
        best = hn::Min(best, error);
        for (int i = 0; i < 16; ++i) Put(hn::IfThenElse(better, Get(index[i]), Get(line.index[i])), line.index[i]);
        changed = true;
        return better;
    };
    for (int round = 0; round < rounds; ++round) {
        bool helped = false;
        for (int c = 0; c < C; ++c)
            // Each end alone; where there is time for rounds, then both the same way.
            for (int moved = 1; moved <= (rounds > 1 ? 3 : 2); ++moved)
                for (const float step : {1.f, -1.f}) {
                    Ends tried = ends;
                    V stepped[2];
                    for (int e = 0; e < 2; ++e) {
                        stepped[e] = moved & (1 << e) ? Clamped(hn::Add(q[e][c], Num(step)), grid.Most()) : q[e][c];
                        tried.value[e][c] = grid.Widen(stepped[e], low[e]);
                    }
                    const M better = offer(tried);
                    if (hn::AllFalse(D(), better)) continue;
                    helped = true;
                    for (int e = 0; e < 2; ++e) {
                        q[e][c] = hn::IfThenElse(better, stepped[e], q[e][c]);
                        ends.value[e][c] = hn::IfThenElse(better, tried.value[e][c], ends.value[e][c]);
                    }
                }
        if (grid.low == Low::Own || grid.low == Low::Shared)
            for (int e = 0; e < (grid.low == Low::Own ? 2 : 1); ++e) {
                Ends tried = ends;
                V turned[2] = {low[0], low[1]};
                for (int k = 0; k < 2; ++k)
                    if (k == e || grid.low == Low::Shared) {
                        turned[k] = hn::Sub(Num(1.f), low[k]);
                        for (int c = 0; c < C; ++c) tried.value[k][c] = grid.Widen(q[k][c], turned[k]);
                    }
                const M better = offer(tried);
                if (hn::AllFalse(D(), better)) continue;
                helped = true;
                for (int k = 0; k < 2; ++k) {
                    low[k] = hn::IfThenElse(better, turned[k], low[k]);
                    for (int c = 0; c < C; ++c) ends.value[k][c] = hn::IfThenElse(better, tried.value[k][c], ends.value[k][c]);
                }
            }
        if (!helped) break;
    }
    if (!changed) return false;
    for (int e = 0; e < 2; ++e) {
        for (int c = 0; c < C; ++c) Put(q[e][c], line.q[e][c]);
        Put(low[e], line.low[e]);
    }
    Put(best, line.error);
    return true;
}

/// How much of a set of pixels is left beside the line through them (a trace less its largest eigenvalue), and how much lies along it.
struct Spread {
    V beside, along;
};
/// Sums over the set: its values (C), then their products (a <= b), and how many pixels they are.
template <int C> Spread SpreadOf(const V* s, float count) {
    const V n = Num(count), per = Num(1 / count), tiny = Num(1e-6f);
    V cov[C][C], trace = hn::Zero(D());
    int at = C;
    for (int a = 0; a < C; ++a)
        for (int c = a; c < C; ++c) cov[a][c] = cov[c][a] = hn::Mul(hn::Sub(hn::Mul(s[at++], n), hn::Mul(s[a], s[c])), per);
    V axis[C], widest = cov[0][0];
    for (int c = 0; c < C; ++c) axis[c] = cov[0][c], trace = hn::Add(trace, cov[c][c]);
    for (int a = 1; a < C; ++a) {
        const M wider = hn::Gt(cov[a][a], widest);
        widest = hn::IfThenElse(wider, cov[a][a], widest);
        for (int c = 0; c < C; ++c) axis[c] = hn::IfThenElse(wider, cov[a][c], axis[c]);
    }
    // Two rounds of the power method, and the quotient of Rayleigh.
    V grown = hn::Zero(D());
    for (int round = 0; round < 2; ++round) {
        V next[C], square = tiny, dot = hn::Zero(D());
        for (int c = 0; c < C; ++c) square = hn::Add(square, hn::Mul(axis[c], axis[c]));
        for (int a = 0; a < C; ++a) {
            next[a] = hn::Zero(D());
            for (int c = 0; c < C; ++c) next[a] = hn::Add(next[a], hn::Mul(cov[a][c], axis[c]));
            dot = hn::Add(dot, hn::Mul(next[a], axis[a]));
        }
        const V scale = hn::Div(Num(1.f), square);
        grown = hn::Mul(dot, scale);
        // Scaled by the square: lengths stay within a float.
        for (int c = 0; c < C; ++c) axis[c] = hn::Mul(next[c], scale);
    }
    return {hn::Max(hn::Sub(trace, grown), hn::Zero(D())), grown};
}

/// The same of all pixels, for the channels order[0..C).
template <int C> Spread SpreadOfAll(const Batch& b, const int* order) {
    V s[C + C * (C + 1) / 2];
    for (V& v : s) v = hn::Zero(D());
    for (int i = 0; i < 16; ++i) {
        int at = C;
        for (int a = 0; a < C; ++a) {
            const V v = Get(b.pixel[order[a]][i]);
            s[a] = hn::Add(s[a], v);
            for (int c = a; c < C; ++c, ++at) s[at] = hn::MulAdd(v, Get(b.pixel[order[c]][i]), s[at]);
        }
    }
    return SpreadOf<C>(s, 16);
}

/// For each of `count` partitions in `subsets`, what its lines leave and what lies along them, summed over the subsets.
template <int C> void Promise(const Batch& b, int subsets, int count, Lanes* beside, Lanes* along) {
    constexpr int kSums = C + C * (C + 1) / 2;
    Lanes moment[kSums][16];
    V whole[kSums];
    for (int k = 0; k < kSums; ++k) whole[k] = hn::Zero(D());
    for (int i = 0; i < 16; ++i) {
        V m[kSums];
        int at = 0;
        for (int c = 0; c < C; ++c) m[at++] = Get(b.pixel[c][i]);
        for (int a = 0; a < C; ++a)
            for (int c = a; c < C; ++c) m[at++] = hn::Mul(m[a], m[c]);
        for (int k = 0; k < kSums; ++k) Put(m[k], moment[k][i]), whole[k] = hn::Add(whole[k], m[k]);
    }
    for (int p = 0; p < count; ++p) {
        V rest[kSums], left = hn::Zero(D()), length = hn::Zero(D());
        for (int k = 0; k < kSums; ++k) rest[k] = whole[k];
        int restCount = 16;
        auto add = [&](const V* s, int n) HWY_ATTR {
            const Spread spread = SpreadOf<C>(s, float(n));
            left = hn::Add(left, spread.beside), length = hn::Add(length, spread.along);
        };
        for (int s = 1; s < subsets; ++s) {
            V sum[kSums];
            for (int k = 0; k < kSums; ++k) sum[k] = hn::Zero(D());
            int n = 0;
            for (int i = 0; i < 16; ++i)
                if (bc7Subset(subsets, p, i) == s) {
                    ++n;
                    for (int k = 0; k < kSums; ++k) sum[k] = hn::Add(sum[k], Get(moment[k][i]));
                }
            for (int k = 0; k < kSums; ++k) rest[k] = hn::Sub(rest[k], sum[k]);
            restCount -= n;
            add(sum, n);
        }
        add(rest, restCount);
        Put(left, beside[p]), Put(length, along[p]);
    }
}

} // namespace hue::HWY_NAMESPACE::bc7
HWY_AFTER_NAMESPACE();

#endif
