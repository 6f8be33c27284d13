#include "tests/test_graphs.h"

#include "core/nodes/assembly_card.h"

#include <gtest/gtest.h>

namespace hue::test {

Project bareProject() {
    Project p;
    p.name = "test";
    Master m;
    m.id = "m";
    m.name = "M";
    p.masters.push_back(std::make_shared<Master>(m));
    p.lineup.specimens = {{"shape:sphere", {"m"}}};
    return p;
}

const Master& masterOf(const Project& project) { return *project.masters[0]; }

static void take(Project& project, Result<Project> next) {
    ASSERT_TRUE(next) << next.error().sentence;
    project = std::move(*next);
}

Id add(Project& project, std::string_view kind, std::map<std::string, Value> constants, std::map<std::string, std::string> settings) {
    Node n = makeNode(kind);
    // Readable and in the order of making.
    n.id = "n" + std::to_string(1000 + masterOf(project).graph.nodes.size());
    n.constants = std::move(constants);
    n.settings = std::move(settings);
    take(project, edit::addNode(project, "m", n));
    return n.id;
}

void wire(Project& project, const Source& from, const Id& node, const std::string& port) {
    take(project, edit::connect(project, "m", from, node, port));
}
void channel(Project& project, const Source& from, const std::string& key) { take(project, edit::connectChannel(project, "m", from, key)); }

std::vector<std::map<std::string, std::string>> settingsOf(const NodeDef& def) {
    std::vector<std::map<std::string, std::string>> all{{}};
    for (const SettingDef& s : def.settings) {
        if (s.choices.empty()) continue;
        std::vector<std::map<std::string, std::string>> next;
        for (const auto& base : all)
            for (std::string_view choice : s.choices) {
                next.push_back(base);
                next.back()[std::string(s.key)] = choice;
            }
        all = std::move(next);
    }
    return all;
}

namespace {

/// A number that varies smoothly over the square and stays inside low..high; `k` makes each one different.
Source smoothNumber(Project& p, const Id& uv, int k, float low, float high) {
    const Id scaled = add(p, "multiply", {{"in2", Value::vec2(0.7f + 0.13f * float(k), 0.9f - 0.07f * float(k))}});
    wire(p, {uv, "out", ""}, scaled, "in1");
    const Id sum = add(p, "dot_product", {{"in2", Value::vec2(1, 1)}});
    wire(p, {scaled, "out", ""}, sum, "in1");
    const Id sine = add(p, "sine");
    wire(p, {sum, "out", ""}, sine, "in");
    const Id range =
        add(p, "remap",
            {{"inlow", Value::number(-1)}, {"inhigh", Value::number(1)}, {"outlow", Value::number(low)}, {"outhigh", Value::number(high)}});
    wire(p, {sine, "out", ""}, range, "in");
    return {range, "out", ""};
}

Source smoothValue(Project& p, const Id& uv, int k, int width, float low, float high) {
    if (width == 1) return smoothNumber(p, uv, k, low, high);
    const Id combined = add(p, "combine", {}, {{"components", std::to_string(width)}});
    static constexpr const char* ports[] = {"r", "g", "b", "a"};
    for (int c = 0; c < width; ++c) wire(p, smoothNumber(p, uv, k + c, low, high), combined, ports[c]);
    return {combined, "out", ""};
}

} // namespace

Id feedNode(Project& p, const NodeDef& def, const std::map<std::string, std::string>& settings, int width) {
    const Id uv = add(p, "texcoord");
    const Id node = add(p, def.key, {}, settings);
    int k = 0;
    for (const PortDef& port : def.inputs) {
        if (port.width == kMapPort) continue;
        if (port.width == kFinishPort) {
            const Id finish = add(p, "finish");
            wire(p, smoothValue(p, uv, k++, 3, 0.1f, 0.9f), finish, "base_color");
            wire(p, smoothValue(p, uv, k++, 1, 0.1f, 0.9f), finish, "height");
            wire(p, {finish, "out", ""}, node, std::string(port.key));
            continue;
        }
        // A constant is only ever set.
        if (def.key == "constant") {
            take(p, edit::setConstant(p, "m", node, "value", Value{width, {0.3f, 0.5f, 0.7f, 0.9f}}));
            continue;
        }
        const std::string key(port.key);
        float low = 0.1f, high = 0.9f;
        // Ranges that keep a result well conditioned: no empty ranges, no division by nearly nothing.
        if (key == "in2" && def.key == "divide") low = 0.5f, high = 2;
        if (key == "inhigh" || (key == "high" && def.key != "wave")) low = 1.5f, high = 2.5f;
        if (key == "scale" && port.width == 2) low = 2, high = 6;
        if (key == "in2" && def.key == "modulo") low = 0.55f, high = 0.6f;
        if (key == "index") low = 1.2f, high = 2;
        if (key == "which") low = 0.2f, high = 4.7f;
        if (key == "fg" && def.key == "inverse_mix") low = 1.5f, high = 2.5f;
        wire(p, smoothValue(p, uv, k++, port.width == kAnyWidth ? width : port.width, low, high), node, key);
    }
    return node;
}

Project randomGraph(uint32_t seed, int count) {
    // Nodes whose results are continuous in their inputs, so that the last bit of an input cannot flip a result.
    static constexpr std::string_view kinds[] = {"add",      "subtract",       "multiply",  "minimum",         "maximum",     "mix",
                                                 "clamp",    "smoothstep",     "contrast",  "absolute_value",  "invert",      "sine",
                                                 "noise_2d", "worley_noise",   "fractal",   "luminance",       "distance",    "dot_product",
                                                 "separate", "combine",        "remap",     "fresnel",         "facing_axis", "place_2d",
                                                 "dot",      "color_distance", "rebuild_z", "height_to_normal"};
    std::mt19937 random(seed);
    auto upTo = [&](int n) { return int(random() % uint32_t(n)); };
    auto number = [&] { return float(upTo(2001) - 1000) / 800.f; };
    Project p = bareProject();
    struct Made {
        Source source;
        int width;
    };
    std::vector<Made> made;
    const Id uv = add(p, "texcoord");
    made.push_back({{uv, "out", ""}, 2});
    made.push_back({{add(p, "constant", {{"value", Value::vec3(number(), number(), number())}}), "out", ""}, 3});
    made.push_back({{add(p, "normal"), "out", ""}, 3});
    for (int n = 0; n < count; ++n) {
        const NodeDef& def = *findNodeDef(kinds[size_t(upTo(int(std::size(kinds))))]);
        std::map<std::string, std::string> settings;
        if (def.key == "combine") settings["components"] = std::to_string(2 + upTo(3));
        if (def.key == "fractal") settings["octaves"] = std::to_string(1 + upTo(3));
        const Id node = add(p, def.key, {}, settings);
        int width = 1;
        for (const PortDef& port : def.inputs) {
            const std::string key(port.key);
            if (upTo(4) == 0 || key == "uv") {
                if (port.unwired == Unwired::Constant && port.width >= 0 && key != "inhigh" && key != "high" && key != "jitter" &&
                    key != "lacunarity" && key != "diminish")
                    take(p, edit::setConstant(p, "m", node, key, Value::number(number())));
                continue;
            }
            // These decide how steep a result may become; left as they are, the graph stays well conditioned.
            if (key == "scale" || key == "inlow" || key == "inhigh" || key == "low" || key == "high" || key == "amount" ||
                key == "soft edge" || key == "lacunarity" || key == "diminish" || key == "jitter" || key == "axis" || key == "normal")
                continue;
            const Made& from = made[size_t(upTo(int(made.size())))];
            Source source = from.source;
            const int wanted = port.width == kAnyWidth ? width : port.width;
            if (wanted > 1 && from.width > wanted) source.take = std::string("rgba").substr(0, size_t(wanted));
            else if (wanted > 1 && from.width > 1 && from.width < wanted) source.take = "g";
            else if (port.width == 1 && from.width > 1) source.take = std::string(1, "rgba"[upTo(from.width)]);
            else if (port.width == kAnyWidth && width == 1) width = from.width;
            wire(p, source, node, key);
        }
        const Compilation now = compileTaps(p, masterOf(p));
        for (const PortDef& out : def.outputs) {
            auto it = now.ports.find({node, std::string(out.key)});
            if (it == now.ports.end() || it->second.width < 1) continue;
            const Id limit = add(p, "clamp", {{"low", Value::number(-4)}, {"high", Value::number(4)}});
            wire(p, {node, std::string(out.key), ""}, limit, "in");
            made.push_back({{limit, "out", ""}, it->second.width});
        }
    }
    const Made& last = made.back();
    const Made& other = made[made.size() / 2];
    channel(p, {last.source.node, last.source.port, last.width == 4 ? "rgb" : last.width == 2 ? "r" : ""}, "base_color");
    channel(p, {other.source.node, other.source.port, other.width > 1 ? "r" : ""}, "roughness");
    return p;
}

std::vector<float> overSquare(const Evaluator& e, const FrameInputs& inputs, const std::string& output, int width, int size) {
    std::vector<float> out(size_t(size) * size_t(size) * size_t(width));
    e.grid(e.frame(inputs), {output}, size, size, FlatSquare(size, size),
           [&](int x, int y, int columns, int rows, const float* const* planes) {
               for (int r = 0; r < rows; ++r)
                   for (int i = 0; i < columns; ++i)
                       for (int k = 0; k < width; ++k) out[size_t(((y + r) * size + x + i) * width + k)] = planes[k][r * kBlockColumns + i];
           },
           {});
    return out;
}

std::vector<float> overSquare(const Project& project, const Source& from, int size, const MapPtr& map, double time,
                              std::vector<std::string>* codes) {
    const Compilation c = compileTap(project, *project.masters[0], from);
    EXPECT_TRUE(c.ok) << (c.diagnostics.empty() ? "" : c.diagnostics[0].sentence);
    if (codes) *codes = codesOf(c.diagnostics);
    const Evaluator e(c.program);
    FrameInputs inputs;
    inputs.time = time;
    inputs.map = [&](const MapSlot&) { return map; };
    return overSquare(e, inputs, "tap", c.program->code[size_t(c.program->output("tap"))].width, size);
}

Project towerOf(int levels, int copies) {
    Project p = bareProject();
    for (int k = levels; k >= 1; --k) {
        auto a = std::make_shared<Assembly>();
        a->id = a->name = "a" + std::to_string(k);
        Node out = makeNode("output"), last = makeNode("noise_2d");
        out.id = "out";
        for (int c = 0; c < (k == levels ? 1 : copies); ++c) {
            if (k < levels) last = makeAssemblyNode("a" + std::to_string(k + 1));
            last.id = "n" + std::to_string(c);
            a->graph.nodes[last.id] = std::make_shared<Node>(last);
        }
        out.wires["in"] = {last.id, "out", ""};
        a->graph.nodes[out.id] = std::make_shared<Node>(out);
        p.assemblies.push_back(a);
    }
    const Node card = makeAssemblyNode("a1");
    p = *edit::addNode(p, "m", card);
    channel(p, {card.id, "out", ""}, "roughness");
    return p;
}

std::vector<std::string> codesOf(const std::vector<Diagnostic>& list) {
    std::vector<std::string> out;
    for (const Diagnostic& d : list) out.push_back(d.code);
    return out;
}

bool holds(const std::vector<std::string>& list, const std::string& entry) {
    return std::find(list.begin(), list.end(), entry) != list.end();
}

} // namespace hue::test
