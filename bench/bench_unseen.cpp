// What skipping saves the processor: a surface whose cards join finishes by paint, over a square that is painted nowhere, on one half, and
// everywhere, with all cards set to compute what is hidden, and with all set to skip it.
#include "bench/timing.h"
#include "core/compile/compile.h"
#include "core/edits/edits.h"
#include "core/project/frame_inputs.h"
#include "core/project/store.h"

using namespace hue;

namespace {

class PaintedSquare final : public PointSource {
  public:
    PaintedSquare(int size, float until) : m_square(size, size), m_size(size), m_until(until) {}
    void fill(int x, int y, Attribute attribute, int component, float* lanes) const override {
        if (attribute != Attribute::Painted) return m_square.fill(x, y, attribute, component, lanes);
        for (int i = 0; i < kBlockLanes; ++i) lanes[i] = float(y) < m_until * float(m_size) ? 1.f : 0.f;
    }

  private:
    FlatSquare m_square;
    int m_size;
    float m_until;
};

Project with(Project p, const Id& master, const char* unseen) {
    const Graph graph = p.master(master)->graph;
    for (const auto& [id, node] : graph.nodes)
        if (node->settings.contains("unseen")) p = *edit::setSetting(p, master, id, "unseen", unseen);
    return p;
}

} // namespace

int main(int argc, char** argv) {
    if (argc < 3) {
        fmt::print(stderr, "usage: bench_unseen demo/depot/depot.huestack MASTER...\n");
        return 2;
    }
    const auto loaded = loadProject(argv[1]);
    if (!loaded) {
        fmt::print(stderr, "{}\n", loaded.error().sentence);
        return 2;
    }
    Assets assets;
    assets.setFolder(std::filesystem::path(argv[1]).parent_path());
    constexpr int kSize = 512;
    for (int k = 2; k < argc; ++k) {
        const Id id = loaded->project.findByName(argv[k]);
        if (!loaded->project.master(id)) {
            fmt::print(stderr, "There is no master {}.\n", argv[k]);
            return 2;
        }
        struct Way {
            const char* unseen;
            std::unique_ptr<Evaluator> evaluator;
            Frame frame;
        };
        std::vector<Way> ways;
        std::vector<std::string> outputs;
        for (const char* unseen : {"computed", "skipped"}) {
            const Project p = with(loaded->project, id, unseen);
            Way way{unseen, std::make_unique<Evaluator>(compileSurface(p, *p.master(id)).program), {}};
            way.frame = way.evaluator->frame(frameInputs(p, assets, resolve(p, id), 0));
            outputs.clear();
            for (const auto& o : way.evaluator->program().outputs) outputs.push_back(o.name);
            ways.push_back(std::move(way));
        }
        for (const float until : {0.f, 0.5f, 1.f}) {
            const PaintedSquare square(kSize, until);
            // In turns, so that both meet the same machine.
            std::vector<double> seconds[2];
            for (int round = 0; round < 12; ++round)
                for (size_t w = 0; w < 2; ++w) {
                    const double start = now();
                    ways[w].evaluator->grid(ways[w].frame, outputs, kSize, kSize, square, [](int, int, int, int, const float* const*) {},
                                            {});
                    seconds[w].push_back(now() - start);
                }
            for (size_t w = 0; w < 2; ++w)
                tell(fmt::format("{}, painted on {:.0f} %: {}", argv[k], until * 100, ways[w].unseen), seconds[w]);
        }
    }
}
