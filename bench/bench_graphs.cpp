#include "bench/bench_graphs.h"

#include "core/nodes/catalogue.h"

#include <random>

namespace hue::bench {
namespace {

class Writer {
  public:
    Writer() { m_master.id = m_master.name = "m"; }
    Id add(std::string_view kind, std::map<std::string, Source> wires = {}, std::map<std::string, Value> constants = {},
           std::map<std::string, std::string> settings = {}) {
        Node n = makeNode(kind);
        n.id = "n" + std::to_string(10000 + m_master.graph.nodes.size());
        n.wires = std::move(wires);
        n.constants = std::move(constants);
        n.settings = std::move(settings);
        m_master.graph.nodes[n.id] = std::make_shared<Node>(n);
        return n.id;
    }
    void channel(const std::string& key, const Id& from) { channel(key, Source{from, "out", {}}); }
    void channel(const std::string& key, const Source& from) { m_master.graph.channelWires[key] = from; }
    size_t size() const { return m_master.graph.nodes.size(); }
    Project project() const {
        Project p;
        p.masters.push_back(std::make_shared<Master>(m_master));
        p.lineup.specimens = {{"shape:sphere", {"m"}}};
        return p;
    }

  private:
    Master m_master;
};
Source out(const Id& id) { return {id, "out", {}}; }
Value n(float x) { return Value::number(x); }

} // namespace

Project largeGraph(int nodes) {
    Writer w;
    const Id uv = w.add("texcoord");
    Id color = w.add("constant", {}, {{"value", Value::vec3(0.3f, 0.4f, 0.5f)}}), rough = w.add("constant", {}, {{"value", n(0.4f)}});
    for (int k = 0; int(w.size()) + 12 <= nodes; ++k) {
        const float f = float(k);
        const Id place = w.add("place_2d", {{"uv", out(uv)}}, {{"scale", Value::vec2(2 + f, 3 + f)}, {"rotate", n(7 * f)}});
        const Id noise = w.add("noise_2d", {{"uv", out(place)}}, {{"scale", Value::vec2(4, 4)}});
        const Id shaped = w.add("smoothstep", {{"in", out(noise)}}, {{"low", n(0.2f)}, {"high", n(0.7f + 0.001f * f)}});
        const Id sharp = w.add("contrast", {{"in", out(shaped)}}, {{"amount", n(1.5f)}});
        const Id mask = w.add("clamp", {{"in", out(sharp)}});
        const Id tint = w.add("constant", {}, {{"value", Value::vec3(0.1f + 0.01f * f, 0.2f, 0.3f)}});
        color = w.add("mix", {{"bg", out(color)}, {"fg", out(tint)}, {"mix", out(mask)}});
        const Id half = w.add("multiply", {{"in1", out(mask)}}, {{"in2", n(0.5f)}});
        const Id sum = w.add("add", {{"in1", out(rough)}, {"in2", out(half)}});
        const Id again = w.add("fract", {{"in", out(sum)}});
        rough = w.add("remap", {{"in", out(again)}}, {{"outlow", n(0.1f)}, {"outhigh", n(0.9f)}});
    }
    while (int(w.size()) < nodes) rough = w.add("sine", {{"in", out(rough)}});
    w.channel("base_color", color);
    w.channel("roughness", rough);
    return w.project();
}

Project randomGraph(uint32_t seed, int nodes) {
    std::mt19937 random(seed);
    const auto pick = [&](size_t count) { return size_t(random() % count); };
    Writer w;
    const Id uv = w.add("texcoord");
    std::vector<Source> numbers{{uv, "out", "r"}, {uv, "out", "g"}};
    const auto any = [&] { return numbers[pick(numbers.size())]; };
    static constexpr std::string_view kTwo[] = {"add", "multiply", "subtract", "divide", "minimum", "maximum", "power", "modulo"},
                                      kOne[] = {"sine", "cosine", "square_root", "exponential", "absolute_value", "fract", "invert"},
                                      kNoise[] = {"noise_2d", "fractal", "worley_noise", "cell_noise"};
    while (int(w.size()) < nodes) {
        switch (pick(10)) {
        case 0:
        case 1:
        case 2: numbers.push_back(out(w.add(kTwo[pick(std::size(kTwo))], {{"in1", any()}, {"in2", any()}}))); break;
        case 3:
        case 4: numbers.push_back(out(w.add(kOne[pick(std::size(kOne))], {{"in", any()}}))); break;
        case 5: numbers.push_back(out(w.add("mix", {{"bg", any()}, {"fg", any()}, {"mix", any()}}))); break;
        case 6: numbers.push_back(out(w.add("smoothstep", {{"in", any()}}, {{"low", n(0.1f)}, {"high", n(0.8f)}}))); break;
        case 7: numbers.push_back(out(w.add("remap", {{"in", any()}}, {{"outlow", n(0.2f)}, {"outhigh", n(0.9f)}}))); break;
        case 8: {
            const float scale = float(2 + pick(12));
            numbers.push_back(out(w.add(kNoise[pick(std::size(kNoise))], {{"uv", out(uv)}}, {{"scale", Value::vec2(scale, scale)}})));
            break;
        }
        default: {
            const Id at = w.add("combine", {{"r", any()}, {"g", any()}}, {}, {{"components", "2"}});
            numbers.push_back({w.add("image", {{"uv", out(at)}}), "color", "r"});
        }
        }
    }
    for (const char* channel : {"roughness", "metallic", "occlusion"}) w.channel(channel, numbers[numbers.size() - 1 - pick(3)]);
    return w.project();
}

Project noiseHeavy() {
    Writer w;
    const Id uv = w.add("texcoord");
    const Id fractal = w.add("fractal", {{"uv", out(uv)}}, {{"scale", Value::vec2(6, 6)}}, {{"octaves", "5"}});
    const Id cells = w.add("worley_noise", {{"uv", out(uv)}}, {{"scale", Value::vec2(9, 9)}});
    const Id mask = w.add("smoothstep", {{"in", out(cells)}}, {{"low", n(0.2f)}, {"high", n(0.6f)}});
    const Id detail = w.add("noise_2d", {{"uv", out(uv)}}, {{"scale", Value::vec2(40, 40)}});
    const Id mixed = w.add("mix", {{"bg", out(fractal)}, {"fg", out(detail)}, {"mix", out(mask)}});
    w.channel("roughness", mixed);
    return w.project();
}

Project arithmetic() {
    Writer w;
    const Id uv = w.add("texcoord");
    const Source u{uv, "out", "x"}, v{uv, "out", "y"};
    Id a = w.add("multiply", {{"in1", u}, {"in2", v}});
    Id b = w.add("add", {{"in1", u}, {"in2", v}});
    for (int k = 0; k < 5; ++k) {
        const float f = 0.1f * float(k + 1);
        const Id p = w.add("multiply", {{"in1", out(a)}}, {{"in2", n(1.1f + f)}});
        const Id q = w.add("add", {{"in1", out(p)}, {"in2", out(b)}});
        const Id r = w.add("subtract", {{"in1", out(b)}}, {{"in2", n(f)}});
        const Id s = w.add("multiply", {{"in1", out(r)}, {"in2", out(q)}});
        a = w.add("minimum", {{"in1", out(s)}}, {{"in2", n(2 + f)}});
        b = w.add("mix", {{"bg", out(q)}, {"fg", out(r)}}, {{"mix", n(0.3f + 0.5f * f)}});
    }
    const Id sum = w.add("add", {{"in1", out(a)}, {"in2", out(b)}});
    w.channel("roughness", w.add("clamp", {{"in", out(sum)}}));
    return w.project();
}

} // namespace hue::bench
