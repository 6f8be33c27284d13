#include "core/pack/recipe.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace hue {

namespace {

Lane map(const char* source, const char* take = "r", const char* meaning = "") {
    Lane l;
    l.from = Lane::From::Map;
    l.source = source;
    l.take = take;
    l.meaning = meaning;
    return l;
}
Lane inverted(Lane l) {
    l.ops.push_back({LaneOp::Kind::Invert});
    return l;
}
Recipe recipe(const char* name, const char* suffix, Lane r, Lane g, Lane b, Lane a = {}, bool srgb = false) {
    Recipe out;
    out.name = name;
    out.suffix = suffix;
    out.lanes = {std::move(r), std::move(g), std::move(b), std::move(a)};
    out.srgb = srgb;
    return out;
}

} // namespace

const std::vector<Recipe>& builtInRecipes() {
    static const std::vector<Recipe> list{
        recipe("Occlusion, roughness, metallic", "_orm", map("occlusion"), map("roughness", "r", "roughness"), map("metallic")),
        recipe("Occlusion, roughness, metallic, height", "_ormh", map("occlusion"), map("roughness", "r", "roughness"), map("metallic"),
               map("height")),
        recipe("Metallic, occlusion, height, roughness inverted in alpha", "_moh", map("metallic"), map("occlusion"), map("height"),
               inverted(map("roughness"))),
        recipe("Base color with height in alpha", "_colorheight", map("base color"), map("base color", "g"), map("base color", "b"),
               map("height"), true),
        recipe("Base color with opacity in alpha", "_coloralpha", map("base color"), map("base color", "g"), map("base color", "b"),
               map("opacity", "r", "coverage"), true),
        recipe("Normal in two components with two masks", "_nrmmasks", map("normal", "r", "normal x"), map("normal", "g", "normal y"),
               map("mask"), map("mask 2")),
    };
    return list;
}

Result<Recipe> findRecipe(const std::string& name) {
    for (const Recipe& r : builtInRecipes())
        if (r.name == name || r.suffix == "_" + name) return r;
    std::error_code none;
    if (std::filesystem::is_regular_file(name, none)) return readRecipe(name);
    std::vector<std::string> names;
    for (const Recipe& r : builtInRecipes()) names.push_back(fmt::format("{} ({})", r.suffix.substr(1), r.name));
    return Error{"recipe.unknown",
                 fmt::format("There is no recipe {}: it is no file, and those that are built in are {}.", name, fmt::join(names, "; ")),
                 {}};
}

Result<Recipe> withNumber(const Recipe& recipe, const std::string& role, float number) {
    Recipe out = recipe;
    bool found = false;
    for (Lane& lane : out.lanes)
        if (lane.from == Lane::From::Map && lane.source == role) {
            lane.from = Lane::From::Constant;
            lane.constant = number;
            found = true;
        }
    if (!found)
        return Error{"recipe.no-role",
                     fmt::format("The recipe {} reads no {}. It reads {}.", recipe.name, role, fmt::join(recipe.sources(), ", ")),
                     {}};
    return out;
}

std::optional<float> neutralOf(const std::string& role) {
    if (role == "occlusion" || role == "alpha" || role == "opacity" || role == "mask") return 1.f;
    if (role == "metallic" || role == "emissive") return 0.f;
    if (role == "height") return 0.5f;
    return {};
}

Recipe withNeutrals(const Recipe& recipe, const std::function<bool(const std::string&)>& given, std::vector<std::string>& filled) {
    Recipe out = recipe;
    for (const std::string& role : recipe.sources()) {
        const auto neutral = neutralOf(role);
        // What is derived from a map, such as occlusion from a height, is not what the map holds.
        const bool derived = std::any_of(recipe.lanes.begin(), recipe.lanes.end(), [&](const Lane& l) {
            return l.source == role && (l.take == "height" || l.take == "occlusion" || l.take == "curvature");
        });
        if (given(role) || !neutral || derived) continue;
        out = *withNumber(out, role, *neutral);
        filled.push_back(fmt::format("{} {:g}", role, *neutral));
    }
    return out;
}

std::string problemOf(const Recipe& r) {
    static constexpr std::string_view lanes[] = {"red", "green", "blue", "alpha"};
    bool any = false;
    for (size_t l = 0; l < 4; ++l) {
        const Lane& lane = r.lanes[l];
        any = any || lane.from != Lane::From::Nothing;
        auto bad = [&](const std::string& why) { return fmt::format("The lane {}: {}", lanes[l], why); };
        if (lane.from == Lane::From::Map) {
            if (lane.source.empty()) return bad("it reads a map but does not say which. Choose its source.");
            static const std::vector<std::string> takes{"r", "g", "b", "a", "luma", "height", "occlusion", "curvature"};
            if (std::find(takes.begin(), takes.end(), lane.take) == takes.end())
                return bad(fmt::format("{} cannot be taken from a map; one of {} can.", lane.take, fmt::join(takes, ", ")));
        }
        if (lane.from == Lane::From::Wire && lane.wire.empty()) return bad("it reads a wire but does not say which. Choose a wire.");
        if (lane.from == Lane::From::Constant && !std::isfinite(lane.constant)) return bad("its constant is no number.");
        for (const LaneOp& op : lane.ops) {
            if (op.kind == LaneOp::Kind::Remap && op.low == op.high) return bad("remap needs two different ends to remap from.");
            if (op.kind == LaneOp::Kind::Curve && op.points.size() < 2) return bad("a curve needs two points or more.");
            for (size_t k = 1; k < op.points.size(); ++k)
                if (op.points[k].first <= op.points[k - 1].first) return bad("the points of a curve must go from left to right.");
            if ((op.kind == LaneOp::Kind::Blur || op.kind == LaneOp::Kind::Dilate) && !(op.amount >= 0 && op.amount <= 1024))
                return bad(fmt::format("{} by {} pixels is not possible; 0 to 1024 are.", nameOf(op.kind), op.amount));
        }
    }
    if (!any) return "The recipe has no source in any lane. Give it one.";
    if (r.size < 0 || r.size > kLargestSide)
        return fmt::format("A size of {} is not possible; choose up to {} pixels, or 0 for that of the sources.", r.size, kLargestSide);
    return {};
}

} // namespace hue
