// A page for every node in docs/nodes, made from the catalogue, with a picture that the evaluator made.
#include "core/image_files/image_file.h"
#include "core/mesh/mesh.h"
#include "core/picture/raster.h"
#include "tests/test_folder.h"
#include "tests/test_graphs.h"

#include <fmt/format.h>
#include <gtest/gtest.h>

namespace hue {
namespace {

using namespace test;
namespace fs = std::filesystem;

const fs::path kPages = fs::path(sourceFolder()) / "docs/nodes";
constexpr int kSide = 96;

std::string widthText(int width) {
    if (width == kMapPort) return "map";
    if (width == kFinishPort) return "finish";
    static constexpr const char* names[] = {"any", "number", "2", "3", "4"};
    return names[width];
}
std::string meaningText(Meaning m) {
    switch (m) {
    case Meaning::Color: return "color";
    case Meaning::Normal: return "normal";
    case Meaning::Direction: return "direction";
    case Meaning::Position: return "position";
    case Meaning::Uv: return "UV";
    case Meaning::Vector: return "vector";
    default: return "";
    }
}
std::string typeText(const PortDef& p) {
    const std::string meaning = meaningText(p.meaning);
    return p.width > 1 && !meaning.empty() ? meaning + " of " + widthText(p.width) : widthText(p.width);
}
std::string standardText(const PortDef& p) {
    switch (p.unwired) {
    case Unwired::Uv: return "the mesh's UV";
    case Unwired::NormalWorld: return "the mesh's normal";
    case Unwired::PositionObject: return "the point on the object";
    case Unwired::Sight: return "the line of sight";
    case Unwired::Constant: break;
    }
    if (!carriesNumbers(p.width)) return "none";
    std::string out;
    for (int c = 0; c < std::max(1, p.standard.width); ++c) out += fmt::format("{}{:g}", c ? " " : "", p.standard[c]);
    return p.unit.empty() ? out : out + " " + std::string(p.unit);
}

std::string pageOf(const NodeDef& def) {
    std::string out = fmt::format("# {}\n\n", def.name);
    if (!def.outputs.empty()) out += fmt::format("![What it gives]({}.png)\n\n", def.key);
    out += fmt::format("{}\n\nFamily: {}.", def.help, def.family);
    if (!def.words.empty()) {
        std::string words(def.words);
        out += " The add line also finds it by: " + words + ".";
    }
    out += fmt::format(" In files: `{}`.\n", def.key);
    if (!def.inputs.empty()) {
        out += "\n| input | type | without a wire | comfortable range | |\n|---|---|---|---|---|\n";
        for (const PortDef& p : def.inputs) {
            const bool ranged = p.unwired == Unwired::Constant && carriesNumbers(p.width);
            out += fmt::format("| {} | {} | {} | {} | {} |\n", p.key, typeText(p), standardText(p),
                               ranged ? fmt::format("{:g} to {:g}", p.low, p.high) : "", p.help);
        }
    }
    if (!def.outputs.empty()) out += "\n| output | type | |\n|---|---|---|\n";
    for (const PortDef& p : def.outputs) out += fmt::format("| {} | {} | {} |\n", p.key, typeText(p), p.help);
    if (def.key == "formula")
        out += "\n## The language\n\nLines of `let name = value` or `fn name(x, y) = value`, and one expression at the end, which the card "
               "gives. From loose to "
               "tight:\n`?:`, `||`, `&&`, `< > <= >= == !=`, `+ -`, `* / %`, `-` and `!` before a value, `^`, and takes such as `.x`, "
               "`.rgb` or `.luma`. "
               "Brackets\nwith commas make vectors; a number goes with any vector. A number counts as yes above one half. `//` begins a "
               "remark. A line ends "
               "where\nit ends, except within brackets and after an operator.\n\nValues: the ports `a` to `d`, `uv`, `uv1`, `position` (on "
               "the object), "
               "`world` (in the world), `normal`, `view`, `time`, `pi`, `e`.\n\n    // stripes that grow soft with c\n    let stripes = "
               "fract(uv.x * 8)\n    fn "
               "soft(x) = x * x * (3 - 2 * x)\n    mix(a, b, mix(step(0.5, stripes), soft(stripes), c))\n\n" +
               formulaFunctionsTable();
    if (!def.settings.empty()) {
        out += "\n| choice | values | |\n|---|---|---|\n";
        for (const SettingDef& s : def.settings) {
            std::string values;
            for (const std::string_view c : s.choices)
                values += fmt::format("{}{}{}", values.empty() ? "" : ", ", c, c == s.standard ? " (standard)" : "");
            out += fmt::format("| {} | {} | {} |\n", s.key, s.choices.empty() ? "chosen on the card" : values, s.help);
        }
    }
    return out;
}

std::string indexText() {
    std::string out =
        "# Nodes\n\nWhat each card of the board does; made from the catalogue. Pictures show the first output on a sphere, its first "
        "inputs fed with what\nruns along U and V. Where numbers leave 0 to 1, the least is black and the most is white; vectors are grey "
        "at 0.\n";
    std::string_view family;
    for (const NodeDef& def : catalogue()) {
        if (def.family != family) out += fmt::format("\n## {}\n\n", family = def.family);
        out += fmt::format("- [{}]({}.md): {}\n", def.name, def.key, def.help);
    }
    return out;
}

/// The card with its first inputs fed: the first with what runs along U, the second along V.
Id fed(Project& p, const NodeDef& def) {
    std::map<std::string, std::string> settings;
    if (def.key == "parameter") {
        Parameter parameter;
        parameter.id = "p", parameter.name = "P", parameter.type = ParameterType::Color;
        parameter.standard.value = Value::vec3(0.8f, 0.45f, 0.1f);
        p = *edit::addParameter(p, "m", parameter);
        settings["parameter"] = "p";
    }
    if (def.setting("map")) {
        const bool normal = def.key == "hex_tiled_normal_map";
        p.maps.push_back(
            std::make_shared<MapFile>(MapFile{"map", "map", "map.png", normal ? MapKind::Normal : MapKind::Data, Wrap::Repeat, {}, {}}));
        settings["map"] = "map";
    }
    const Id uv = add(p, "texcoord"), card = add(p, def.key, {}, settings);
    static const std::set<std::string_view> leading{"in", "in1", "in2", "iny", "inx", "bg", "fg", "mix", "value1", "value2", "which"};
    int next = 0;
    if (def.key == "finish_of") {
        auto worn = std::make_shared<Master>();
        worn->id = "worn", worn->name = "Worn";
        worn->graph.channelConstants["base_color"] = Value::vec3(0.2f, 0.45f, 0.55f);
        p.masters.push_back(worn);
        p = *edit::setSetting(p, "m", card, "of", "worn");
    }
    int finishes = 0;
    for (const PortDef& port : def.inputs) {
        if (port.width == kFinishPort) {
            // Two that differ, the first the higher the further to the right.
            const bool first = finishes++ == 0;
            const Id finish = add(p, "finish", {{"base_color", first ? Value::vec3(0.62f, 0.3f, 0.12f) : Value::vec3(0.2f, 0.4f, 0.24f)}});
            if (first) wire(p, {uv, "out", "x"}, finish, "height");
            wire(p, {finish, "out", ""}, card, std::string(port.key));
            continue;
        }
        if (port.key == "weight2") wire(p, {uv, "out", "y"}, card, std::string(port.key));
        if (port.unwired != Unwired::Constant || port.width == kMapPort || next > 1 || !leading.contains(port.key)) continue;
        if (port.width == 2) continue;
        const std::string key(port.key);
        if (def.family == "Normals") {
            // Normals and heights are those of a map, the second tiled.
            if (next == 0)
                p.maps.push_back(std::make_shared<MapFile>(MapFile{"map", "map", "map.png", MapKind::Normal, Wrap::Repeat, {}, {}}));
            const Id image = add(p, "tiled_image", {{"tiling", Value::number(next == 0 ? 3 : 9)}}, {{"map", "map"}});
            wire(p, {image, "color", port.width == 1 ? "r" : port.width == 2 ? "rg" : ""}, card, key);
            ++next;
            continue;
        }
        // Runs through the comfortable range on the side that is seen, where U is above one half.
        const Id range = add(
            p, "remap",
            {{"inlow", Value::number(next == 0 ? 0.5f : 0)}, {"outlow", Value::number(port.low)}, {"outhigh", Value::number(port.high)}});
        wire(p, {uv, "out", next == 0 ? "x" : "y"}, range, "in");
        if (port.width == 3) {
            const Id three = add(p, "combine", {{"g", Value::number(0.35f)}, {"b", Value::number(0.6f)}});
            wire(p, {range, "out", ""}, three, next == 0 ? "r" : "b");
            wire(p, {three, "out", ""}, card, key);
        } else {
            wire(p, {range, "out", ""}, card, key);
        }
        ++next;
    }
    if (def.key == "constant") p = *edit::setConstant(p, "m", card, "value", Value::vec3(0.8f, 0.45f, 0.1f));
    return card;
}

MapPtr pageMap(MapKind kind) {
    constexpr int size = 64;
    std::vector<std::byte> texels(size_t(size) * size * 4);
    for (int y = 0; y < size; ++y)
        for (int x = 0; x < size; ++x) {
            const bool ring = (x - 32) * (x - 32) + (y - 32) * (y - 32)<24 * 24, bar = x> y;
            std::array<int, 4> c =
                ring ? bar ? std::array{200, 120, 60, 255} : std::array{60, 90, 130, 128} : std::array{220, 215, 200, 255};
            if (kind == MapKind::Normal) c = {128 + (ring ? (x - 32) * 2 : 0), 128 - (ring ? (y - 32) * 2 : 0), 235, 255};
            for (size_t k = 0; k < 4; ++k) texels[size_t(y * size + x) * 4 + k] = std::byte(c[k]);
        }
    return std::make_shared<Map>(size, size, TexelFormat::U8, false, Wrap::Repeat, std::move(texels));
}

/// On a sphere before an even ground.
Image pictureOf(const NodeDef& def) {
    Project p = bareProject();
    const Id card = fed(p, def);
    const Compilation compiled = compileTap(p, masterOf(p), {card, std::string(def.outputs.at(0).key), ""});
    EXPECT_TRUE(compiled.ok) << def.key << ": " << (compiled.diagnostics.empty() ? "" : compiled.diagnostics[0].sentence);
    const Evaluator evaluator(compiled.program);
    FrameInputs inputs;
    inputs.time = 0.4;
    inputs.placementRandom = 0.65f;
    inputs.parameter = [](const Id&) { return Value::vec3(0.8f, 0.45f, 0.1f); };
    inputs.map = [](const MapSlot& slot) { return pageMap(slot.kind); };
    const Frame frame = evaluator.frame(inputs);

    const auto sphere = shapeById("shape:sphere");
    float reach = 0;
    for (const Vertex& v : sphere->vertices) reach = std::max(reach, std::fabs(v.position[0]));
    const Rgb eye{0, 0, reach * 4};
    const Matrix4 clip = orthographic(reach * 1.06f, reach, reach * 8) * lookAt(eye, {0, 0, 0});
    const RasterPart part{sphere.get(), 0, uint32_t(sphere->indices.size()), 0, false, Matrix4(1)};
    const AttributePicture attributes = rasterise(clip, kSide, kSide, {0, 0, kSide, kSide}, {&part, 1});
    std::vector<uint32_t> pixels;
    for (uint32_t k = 0; k < kSide * kSide; ++k)
        if (attributes.slot(k) == 0) pixels.push_back(k);
    const PixelEvaluation at(attributes, pixels, {eye[0], eye[1], eye[2]});
    const auto values = at.output(evaluator, frame, "tap");
    const int32_t tap = compiled.program->output("tap");
    const int width = compiled.program->code[size_t(tap)].width;
    const Meaning meaning = def.outputs[0].meaning;
    const bool aroundNought = width == 3 && meaning != Meaning::Color && meaning != Meaning::Any;
    float low = 0, high = aroundNought ? 1e-6f : 1;
    for (const auto& v : values)
        for (int c = 0; c < width; ++c) {
            const float x = aroundNought ? std::fabs(v[size_t(c)]) : v[size_t(c)];
            if (std::isfinite(x)) low = std::min(low, x), high = std::max(high, x);
        }
    if (aroundNought) low = -high;
    if (meaning == Meaning::Color) low = 0, high = 1;
    Image out(kSide, kSide, 3, SampleType::U8);
    std::fill(out.samples.begin(), out.samples.end(), std::byte(0xEC));
    for (size_t k = 0; k < pixels.size(); ++k)
        for (int c = 0; c < 3; ++c) {
            float v = width == 1 ? values[k][0] : c < width ? values[k][size_t(c)] : low;
            v = std::isfinite(v) ? std::clamp((v - low) / (high - low), 0.f, 1.f) : 1;
            if (meaning == Meaning::Color) v = linearToSrgb(v);
            const uint32_t x = pixels[k] % kSide, y = kSide - 1 - pixels[k] / kSide;
            out.samples[(size_t(y) * kSide + x) * 3 + size_t(c)] = std::byte(std::lround(v * 255));
        }
    return out;
}

bool writesDocs() { return std::getenv("HUE_WRITE_DOCS") != nullptr; }

TEST(NodePages, AreThoseOfTheCatalogue) {
    if (writesDocs()) {
        fs::create_directories(kPages);
        for (const auto& file : fs::directory_iterator(kPages))
            if (file.path().filename() != "materialx.md") fs::remove(file.path());
        std::ofstream(kPages / "README.md") << indexText();
        for (const NodeDef& def : catalogue()) {
            std::ofstream(kPages / (std::string(def.key) + ".md")) << pageOf(def);
            if (!def.outputs.empty()) {
                ASSERT_TRUE(writeImage(kPages / (std::string(def.key) + ".png"), pictureOf(def), PixelEncoding::Srgb));
            }
        }
    }
    EXPECT_EQ(contentOf(kPages / "README.md"), indexText()) << "HUE_WRITE_DOCS=1 writes it anew";
    std::set<std::string> wanted{"README.md", "materialx.md"};
    for (const NodeDef& def : catalogue()) {
        const std::string key(def.key);
        wanted.insert(key + ".md");
        if (!def.outputs.empty()) wanted.insert(key + ".png");
        EXPECT_EQ(contentOf(kPages / (key + ".md")), pageOf(def)) << key << ": HUE_WRITE_DOCS=1 writes it anew";
    }
    for (const auto& file : fs::directory_iterator(kPages)) EXPECT_TRUE(wanted.contains(file.path().filename().string())) << file.path();
}

TEST(NodePages, AreAllHeldAgainstTheOpenStandard) {
    const std::string table = contentOf(kPages / "materialx.md");
    for (const NodeDef& def : catalogue()) EXPECT_NE(table.find(fmt::format("({}.md)", def.key)), std::string::npos) << def.key;
    // And nothing that is not there.
    for (size_t at = 0; (at = table.find(".md)", at)) != std::string::npos; at += 4) {
        const size_t from = table.rfind('(', at) + 1;
        EXPECT_TRUE(findNodeDef(table.substr(from, at - from))) << table.substr(from, at - from);
    }
}

TEST(NodePages, ShowWhatTheEvaluatorGives) {
    for (const NodeDef& def : catalogue()) {
        if (def.outputs.empty()) continue;
        const auto shown = readImage(kPages / (std::string(def.key) + ".png"));
        ASSERT_TRUE(shown) << def.key << ": " << shown.error().sentence;
        const Image now = pictureOf(def);
        ASSERT_EQ(shown->width, kSide) << def.key;
        ASSERT_EQ(shown->height, kSide) << def.key;
        size_t off = 0;
        for (int y = 0; y < kSide; ++y)
            for (int x = 0; x < kSide; ++x)
                for (int c = 0; c < 3; ++c) off += std::fabs(shown->at(x, y, c) - now.at(x, y, c)) > 0.02f;
        EXPECT_LT(off, 12u) << def.key << " looks otherwise: HUE_WRITE_DOCS=1 makes its picture anew";
    }
}

} // namespace
} // namespace hue
