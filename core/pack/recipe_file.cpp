// Recipes as text.
#include "core/base/files.h"
#include "core/pack/recipe.h"
#include "core/pack/recipe_json_private.h"

#include <fmt/format.h>
#include <fstream>
#include <sstream>

namespace hue {
namespace {

template <class Enum> Enum byName(const std::string& name, std::initializer_list<Enum> all, Enum otherwise) {
    for (Enum e : all)
        if (nameOf(e) == name) return e;
    return otherwise;
}

constexpr std::string_view kFrom[] = {"nothing", "constant", "map", "wire"};
constexpr const char* kLanes[] = {"red", "green", "blue", "alpha"};

} // namespace

Json recipeJson(const Recipe& r) {
    Json j{{"name", r.name}};
    if (!r.suffix.empty()) j["suffix"] = r.suffix;
    Json lanes = Json::object();
    for (size_t l = 0; l < 4; ++l) {
        const Lane& lane = r.lanes[l];
        if (lane.from == Lane::From::Nothing) continue;
        Json one = Json::object();
        if (lane.from == Lane::From::Constant) one["constant"] = lane.constant;
        if (lane.from == Lane::From::Map) one["map"] = lane.source, one["take"] = lane.take;
        if (lane.from == Lane::From::Wire) one["wire"] = lane.wire;
        if (!lane.meaning.empty()) one["meaning"] = lane.meaning;
        if (!lane.ops.empty()) one["ops"] = Json::array();
        for (const LaneOp& op : lane.ops) {
            Json o{{"op", nameOf(op.kind)}};
            if (op.kind == LaneOp::Kind::Remap) o["from"] = {op.low, op.high}, o["to"] = {op.newLow, op.newHigh};
            if (op.kind == LaneOp::Kind::Limit) o["from"] = {op.low, op.high};
            if (op.kind == LaneOp::Kind::Blur || op.kind == LaneOp::Kind::Dilate) o["pixels"] = op.amount;
            if (op.kind == LaneOp::Kind::Curve) {
                o["points"] = Json::array();
                for (const auto& [x, y] : op.points) o["points"].push_back({x, y});
            }
            one["ops"].push_back(o);
        }
        lanes[kLanes[l]] = one;
    }
    j["lanes"] = lanes;
    if (r.size) j["size"] = r.size;
    j["srgb"] = r.srgb;
    j["samples"] = nameOf(r.type);
    j["filter"] = nameOf(r.filter);
    if (r.raiseRoughness) j["raiseRoughness"] = true;
    addRest(j, r.extra);
    return j;
}

Recipe recipeOf(const Json& json, std::vector<Diagnostic>& report) {
    Fields f(json, "a recipe", report);
    Recipe r;
    r.name = f.text("name", "Recipe");
    r.suffix = f.text("suffix");
    const Json& lanes = f.object("lanes");
    for (size_t l = 0; l < 4; ++l) {
        const auto it = lanes.find(kLanes[l]);
        if (it == lanes.end() || !it->is_object()) continue;
        Fields g(*it, fmt::format("the lane {}", kLanes[l]), report);
        Lane& lane = r.lanes[l];
        if (g.find("map")) lane.from = Lane::From::Map, lane.source = g.text("map"), lane.take = g.text("take", "r");
        else if (g.find("wire")) lane.from = Lane::From::Wire, lane.wire = g.text("wire");
        else if (g.find("constant")) lane.from = Lane::From::Constant, lane.constant = g.number("constant", 0);
        lane.meaning = g.text("meaning");
        for (const Json& o : g.list("ops")) {
            if (!o.is_object()) {
                g.odd("ops", "a list of objects");
                continue;
            }
            Fields h(o, "an operation", report);
            LaneOp op;
            using K = LaneOp::Kind;
            const std::string name = h.text("op");
            op.kind = byName(name, {K::Invert, K::Remap, K::Curve, K::Blur, K::Normalise, K::Dilate, K::Limit}, K::Limit);
            if (nameOf(op.kind) != name) h.odd("op", "invert, remap, curve, blur, normalise, dilate or limit");
            const Value from = h.value("from", Value::vec2(0, 1)), to = h.value("to", Value::vec2(0, 1));
            op.low = from[0], op.high = from[1], op.newLow = to[0], op.newHigh = to[1];
            op.amount = h.number("pixels", 4);
            for (const Json& p : h.list("points")) {
                Value v;
                if (Fields::readValue(p, v) && v.width == 2) op.points.emplace_back(v[0], v[1]);
                else h.odd("points", "pairs of numbers");
            }
            lane.ops.push_back(std::move(op));
        }
    }
    r.size = int(std::clamp(f.number("size", 0), -1.f, 1e6f));
    r.srgb = f.truth("srgb", false);
    r.type = byName(f.text("samples", "8-bit"), {SampleType::U8, SampleType::U16, SampleType::F16, SampleType::F32}, SampleType::U8);
    r.filter = byName(f.text("filter", "lanczos"), {Filter::Nearest, Filter::Box, Filter::Triangle, Filter::Lanczos}, Filter::Lanczos);
    r.raiseRoughness = f.truth("raiseRoughness", false);
    f.find("kind");
    f.find("format");
    r.extra = f.rest();
    return r;
}

std::string recipeText(const Recipe& r) {
    Json j{{"kind", "huestack recipe"}, {"format", 1}};
    const Json fields = recipeJson(r);
    for (const auto& [key, v] : fields.items()) j[key] = v;
    return textOf(j);
}

Result<Recipe> parseRecipe(const std::string& text, const std::string& name) {
    auto refuse = [&](const std::string& why) {
        return Error{"recipe.unreadable", fmt::format("{} cannot be read as a recipe: {}.", name, why), {}};
    };
    const Json j = Json::parse(text, nullptr, false);
    if (j.is_discarded() || !j.is_object()) return refuse("it is not JSON, or was cut off");
    if (j.value("kind", Json()) != "huestack recipe") return refuse("its kind is not \"huestack recipe\"");
    if (j.contains("format") && j["format"].is_number() && j["format"].get<double>() > 1) return refuse("a newer version wrote it");
    std::vector<Diagnostic> report;
    Recipe r = recipeOf(j, report);
    // In a file that is given on, a field that is not understood would make another map than the one that was meant.
    if (!report.empty()) return refuse(report[0].sentence);
    if (const std::string problem = problemOf(r); !problem.empty()) return refuse(problem);
    return r;
}

Result<Recipe> readRecipe(const std::filesystem::path& file) {
    std::ifstream in(file, std::ios::binary);
    if (!in) return Error{"recipe.unreadable", fmt::format("{} is not there or cannot be read.", file.string()), {}};
    std::ostringstream text;
    text << in.rdbuf();
    return parseRecipe(text.str(), file.string());
}

Outcome writeRecipe(const Recipe& recipe, const std::filesystem::path& file) { return writeFile(file, recipeText(recipe)); }

} // namespace hue
