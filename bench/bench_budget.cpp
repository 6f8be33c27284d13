// How the counted cost of a material goes with what a graphics card's compiler makes of it, and how long it takes to know either.
#include "bench/bench_graphs.h"
#include "bench/timing.h"
#include "core/budget/ledger.h"
#include "core/measure/marginal.h"
#include "core/project/store.h"

#include <cmath>
#include <cstdio>

using namespace hue;

namespace {

/// Spearman's rank correlation; equal values share their mean rank.
double rankCorrelation(const std::vector<double>& a, const std::vector<double>& b) {
    const auto ranks = [](const std::vector<double>& v) {
        std::vector<size_t> order(v.size());
        for (size_t k = 0; k < order.size(); ++k) order[k] = k;
        std::sort(order.begin(), order.end(), [&](size_t x, size_t y) { return v[x] < v[y]; });
        std::vector<double> out(v.size());
        for (size_t k = 0; k < order.size();) {
            size_t end = k;
            while (end < order.size() && v[order[end]] == v[order[k]]) ++end;
            for (size_t n = k; n < end; ++n) out[order[n]] = double(k + end - 1) / 2;
            k = end;
        }
        return out;
    };
    const std::vector<double> x = ranks(a), y = ranks(b);
    const double mean = double(a.size() - 1) / 2;
    double xy = 0, xx = 0, yy = 0;
    for (size_t k = 0; k < x.size(); ++k)
        xy += (x[k] - mean) * (y[k] - mean), xx += (x[k] - mean) * (x[k] - mean), yy += (y[k] - mean) * (y[k] - mean);
    return xx > 0 && yy > 0 ? xy / std::sqrt(xx * yy) : 0;
}

/// Weights that bring the columns nearest to `y`, by the normal equations; none below 0: such a column is left out.
std::vector<double> fitted(std::vector<std::vector<double>> columns, const std::vector<double>& y) {
    std::vector<bool> used(columns.size(), true);
    std::vector<double> out(columns.size());
    for (bool again = true; again;) {
        again = false;
        std::vector<size_t> in;
        for (size_t c = 0; c < columns.size(); ++c)
            if (used[c]) in.push_back(c);
        const size_t n = in.size();
        std::vector<std::vector<double>> m(n, std::vector<double>(n + 1));
        for (size_t r = 0; r < n; ++r) {
            for (size_t k = 0; k < y.size(); ++k) {
                for (size_t c = 0; c < n; ++c) m[r][c] += columns[in[r]][k] * columns[in[c]][k];
                m[r][n] += columns[in[r]][k] * y[k];
            }
            m[r][r] += 1e-9;
        }
        for (size_t r = 0; r < n; ++r)
            for (size_t s = 0; s < n; ++s)
                if (s != r) {
                    const double f = m[s][r] / m[r][r];
                    for (size_t c = r; c <= n; ++c) m[s][c] -= f * m[r][c];
                }
        std::fill(out.begin(), out.end(), 0);
        for (size_t r = 0; r < n; ++r) {
            out[in[r]] = m[r][n] / m[r][r];
            if (out[in[r]] < 0) used[in[r]] = false, again = true;
        }
    }
    return out;
}

} // namespace

int main(int argc, char** argv) {
    if (argc != 2) return std::fprintf(stderr, "usage: bench_budget DEPOT.huestack\n"), 2;
    if (const std::string why = whyNotMeasured(); !why.empty()) return std::fprintf(stderr, "%s\n", why.c_str()), 2;
    const Result<Loaded> depot = loadProject(argv[1]);
    if (!depot) return std::fprintf(stderr, "%s\n", depot.error().sentence.c_str()), 2;
    const Project& p = depot->project;
    std::vector<Compilation> all;
    std::vector<AlphaMode> alpha;
    for (const MasterPtr& m : p.masters) all.push_back(compileSurface(p, *m)), alpha.push_back(m->surface.alphaMode);
    const size_t masters = all.size();
    for (uint32_t seed = 1; seed <= 200; ++seed) {
        const Project q = bench::randomGraph(seed, 6 + int(seed % 40));
        all.push_back(compileSurface(q, *q.masters[0]));
        alpha.push_back(AlphaMode::Opaque);
    }
    Measurements measurements{std::filesystem::path()};
    std::vector<std::vector<double>> cycles(families().size()), instructions(families().size());
    std::vector<double> counted, full, quarter, transcendental, fetches;
    for (size_t k = 0; k < all.size(); ++k) {
        const Cost c = costOf(*all[k].program, nullptr, {});
        const OperationKinds kinds = operationKinds(*all[k].program);
        counted.push_back(c.operationsPerPixel());
        full.push_back(kinds.full), quarter.push_back(kinds.quarter), transcendental.push_back(kinds.transcendental);
        fetches.push_back(c.fetches);
        const auto m = measured(measurements, all[k], alpha[k]);
        for (size_t f = 0; f < families().size(); ++f) {
            if (!m[f]) return std::fprintf(stderr, "%s\n", m[f].error().sentence.c_str()), 1;
            cycles[f].push_back(m[f]->pixel(kThroughput));
            instructions[f].push_back(m[f]->pixel(kInstructions));
        }
    }
    const auto first = [&](const std::vector<double>& v) { return std::vector<double>(v.begin(), v.begin() + long(masters)); };
    std::printf("rank correlation of counted operations with measured figures, %zu masters of the demo and %zu random graphs\n", masters,
                all.size() - masters);
    for (size_t f = 0; f < families().size(); ++f)
        std::printf("  %-10s instructions %.3f, inverse throughput %.3f; of the demo alone %.3f, %.3f\n", families()[f].key.data(),
                    rankCorrelation(counted, instructions[f]), rankCorrelation(counted, cycles[f]),
                    rankCorrelation(first(counted), first(instructions[f])), rankCorrelation(first(counted), first(cycles[f])));
    std::printf("weights that bring counts nearest to inverse throughput: operations at full rate, quarter rate, through the unit for "
                "functions; fetches\n");
    for (size_t f = 0; f < families().size(); ++f) {
        const std::vector<double> w = fitted({full, quarter, transcendental, fetches}, cycles[f]);
        std::vector<double> weighted;
        for (size_t k = 0; k < all.size(); ++k)
            weighted.push_back(w[0] * full[k] + w[1] * quarter[k] + w[2] * transcendental[k] + w[3] * fetches[k]);
        std::printf("  %-10s %.3f %.3f %.3f %.3f; rank correlation with these %.3f\n", families()[f].key.data(), w[0], w[1], w[2], w[3],
                    rankCorrelation(weighted, cycles[f]));
    }
    const Compilation large = [] {
        const Project q = bench::largeGraph(300);
        return compileSurface(q, *q.masters[0]);
    }();
    tell("count a graph of 300 cards", times(30, [&](int) { costOf(*large.program, large.offset.get(), {}); }));
    tell("shares of a graph of 300 cards", times(30, [&](int) { sharesOf(*large.program, large.offset.get()); }));
    tell("measure one master on four families, cold", times(9, [&](int) {
             Measurements cold{std::filesystem::path()};
             measured(cold, all[0], alpha[0]);
         }));
    Measurements warm{std::filesystem::path()};
    measured(warm, all[0], alpha[0]);
    tell("the same, known already", times(9, [&](int) { measured(warm, all[0], alpha[0]); }));
    const Compilation hundred = [] {
        const Project q = bench::largeGraph(100);
        return compileSurface(q, *q.masters[0]);
    }();
    size_t cards = 0;
    tell("take out each card of a graph of 100, one family, cold", times(3, [&](int) {
             Measurements cold{std::filesystem::path()};
             cards = marginalsOf(cold, hundred, AlphaMode::Opaque, {}, families()[3]).size();
         }));
    std::printf("  (%zu cards leave something per pixel)\n", cards);
    return 0;
}
