// Compile times, and the evaluator against hand-vectorised loops in the same run. The loops are checked to give the
// evaluator's numbers before anything is timed.
#include "bench/bench_graphs.h"
#include "bench/hand_written.h"
#include "core/compile/compile.h"
#include "core/emit/emit_glsl.h"
#include "core/evaluate/evaluator.h"
#include "core/program/uniform_layout.h"
#include "core/surface/surface_stages.h"
#include "core/tap/swatches.h"

#include <benchmark/benchmark.h>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>

namespace {

using namespace hue;
constexpr int kSize = 1024;

void compileWithGlsl(benchmark::State& state) {
    const Project p = bench::largeGraph(int(state.range(0)));
    for (auto _ : state) {
        const Compilation c = compileSurface(p, *p.masters[0]);
        benchmark::DoNotOptimize(surfaceFragmentStage(*c.program, uniformLayout(*c.program)));
    }
    state.counters["cards"] = double(p.masters[0]->graph.nodes.size());
}
BENCHMARK(compileWithGlsl)->Arg(50)->Arg(300)->Arg(1000)->Unit(benchmark::kMillisecond);

/// The swatches of all cards, as the board has them made in the background.
void swatches(benchmark::State& state) {
    const Project p = bench::largeGraph(int(state.range(0)));
    Assets assets;
    const Resolved resolved = resolve(p, p.masters[0]->id);
    const Compilation taps = compileTaps(p, *p.masters[0], Constants::Live);
    for (auto _ : state) benchmark::DoNotOptimize(swatchesOf(p, resolved, taps, assets, 0, 40));
    state.counters["cards"] = double(p.masters[0]->graph.nodes.size());
}
BENCHMARK(swatches)->Arg(50)->Arg(300)->Arg(1000)->Unit(benchmark::kMillisecond);

/// The best of each; they take turns, so that a machine that is faster at times is so for all.
std::vector<double> seconds(const std::vector<std::function<void()>>& works) {
    std::vector<double> best(works.size(), 1e9);
    for (int i = 0; i < 60; ++i)
        for (size_t k = 0; k < works.size(); ++k) {
            const auto start = std::chrono::steady_clock::now();
            works[k]();
            best[k] = std::min(best[k], std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count());
        }
    return best;
}

using Loop = void (*)(const float*, const float*, float*, size_t);

/// Both write the whole picture; the hand-written loop computes U and V itself, as the evaluator must.
void compare(const char* name, const Project& p, Loop byHand) {
    const Evaluator e(compileSurface(p, *p.masters[0]).program);
    const Frame frame = e.frame({});
    const FlatSquare square(kSize, kSize);
    std::vector<float> ours(size_t(kSize) * kSize), theirs(ours.size());
    auto evaluate = [&](int threads) {
        Work control;
        control.threads = threads;
        e.grid(
            frame, {"roughness"}, kSize, kSize, square,
            [&](int x, int y, int columns, int rows, const float* const* planes) {
                for (int r = 0; r < rows; ++r)
                    std::copy_n(planes[0] + r * kBlockColumns, columns, &ours[size_t(y + r) * kSize + size_t(x)]);
            },
            control);
    };
    auto hand = [&] {
        std::vector<float> u(kSize), v(kSize);
        for (int x = 0; x < kSize; ++x) u[size_t(x)] = (float(x) + 0.5f) / kSize;
        for (int y = 0; y < kSize; ++y) {
            std::fill(v.begin(), v.end(), (float(y) + 0.5f) / kSize);
            byHand(u.data(), v.data(), &theirs[size_t(y) * kSize], kSize);
        }
    };
    evaluate(1);
    hand();
    for (size_t i = 0; i < ours.size(); ++i)
        if (!(std::fabs(ours[i] - theirs[i]) < 1e-5f)) {
            std::printf("%s: the hand-written loop computes something else at %zu: %g, not %g\n", name, i, double(theirs[i]),
                        double(ours[i]));
            std::exit(1);
        }
    const std::vector<double> best = seconds({hand, [&] { evaluate(1); }, [&] { evaluate(2); }});
    std::printf("%-12s one thread %.2f of the hand-written loop; two threads %.2f times one\n", name, best[0] / best[1], best[1] / best[2]);
}

} // namespace

int main(int argc, char** argv) {
    compare("noise-heavy", bench::noiseHeavy(), bench::noiseHeavyByHand);
    compare("arithmetic", bench::arithmetic(), bench::arithmeticByHand);
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
    return 0;
}
