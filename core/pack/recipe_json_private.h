#pragma once
// The fields of recipes, described once: project files hold recipes too.
#include "core/base/described_private.h"
#include "core/document/recipe.h"

namespace hue {

inline constexpr Word<SampleType> kSampleTypes[] = {
    {"8-bit", SampleType::U8}, {"16-bit", SampleType::U16}, {"half", SampleType::F16}, {"float", SampleType::F32}};
inline constexpr Word<Filter> kFilters[] = {
    {"nearest", Filter::Nearest}, {"box", Filter::Box}, {"triangle", Filter::Triangle}, {"lanczos", Filter::Lanczos}};
inline constexpr Word<LaneOp::Kind> kLaneOps[] = {
    {"invert", LaneOp::Kind::Invert},       {"remap", LaneOp::Kind::Remap},   {"curve", LaneOp::Kind::Curve}, {"blur", LaneOp::Kind::Blur},
    {"normalise", LaneOp::Kind::Normalise}, {"dilate", LaneOp::Kind::Dilate}, {"limit", LaneOp::Kind::Limit}};

template <class F> void describe(F& f, LaneOp& op) {
    using K = LaneOp::Kind;
    f.choice("op", op.kind, K::Limit, wordsOf(kLaneOps), "", Written::Always);
    float* const from[] = {&op.low, &op.high};
    float* const to[] = {&op.newLow, &op.newHigh};
    static constexpr float whole[] = {0, 1};
    if (F::kReads || op.kind == K::Remap || op.kind == K::Limit)
        f.numbers("from", from, whole, -3e38f, 3e38f, "of remap and limit", Written::Always);
    if (F::kReads || op.kind == K::Remap) f.numbers("to", to, whole, -3e38f, 3e38f, "of remap", Written::Always);
    if (F::kReads || op.kind == K::Blur || op.kind == K::Dilate)
        f.number("pixels", op.amount, 4, -3e38f, 3e38f, "of blur and dilate", Written::Always);
    f.own(
        "points",
        [&](const Json* j) {
            if (!j || !j->is_array()) return;
            for (const Json& p : *j)
                if (Value v; Fields::readValue(p, v) && v.width == 2) op.points.emplace_back(v[0], v[1]);
        },
        [&]() -> Json {
            if (op.kind != K::Curve) return {};
            Json list = Json::array();
            for (const auto& [x, y] : op.points) list.push_back({x, y});
            return list;
        },
        R"({"type": "array", "items": {"type": "array", "items": {"type": "number"}, "minItems": 2, "maxItems": 2}})",
        "of curve, from left to right");
    f.rest(op.extra);
}

template <class F> void describe(F& f, Lane& lane) {
    using From = Lane::From;
    const auto is = [&](From from) { return F::kReads || lane.from == from; };
    f.own(
        "constant",
        [&](const Json* j) {
            if (!j || !j->is_number()) return;
            lane.from = From::Constant;
            lane.constant = j->get<float>();
        },
        [&]() -> Json { return lane.from == From::Constant ? Json(lane.constant) : Json(); }, R"({"type": "number"})", "instead of a map");
    f.own(
        "wire",
        [&](const Json* j) {
            if (!j || !j->is_string()) return;
            lane.from = From::Wire;
            lane.wire = j->get<std::string>();
        },
        [&]() -> Json { return lane.from == From::Wire ? Json(lane.wire) : Json(); }, R"({"type": "string"})",
        "Master/Instance: card.port.take, by ids");
    f.own(
        "map",
        [&](const Json* j) {
            if (!j || !j->is_string()) return;
            lane.from = From::Map;
            lane.source = j->get<std::string>();
        },
        [&]() -> Json { return lane.from == From::Map ? Json(lane.source) : Json(); }, R"({"type": "string"})",
        "role of the map that it reads");
    if (is(From::Map)) f.text("take", lane.take, "r, g, b, a, luma, height, occlusion or curvature", Written::Always, "r");
    f.text("meaning", lane.meaning, "normal x, normal y, coverage or roughness; decides how its smaller levels are made");
    f.list("ops", lane.ops, "an operation", "in order", Written::WhenSet);
    f.rest(lane.extra);
}

template <class F> void describe(F& f, Recipe& r) {
    static constexpr const char* names[] = {"red", "green", "blue", "alpha"};
    f.text("name", r.name, "for people", Written::Always, "Recipe");
    f.text("suffix", r.suffix, "of the files that it makes");
    std::map<std::string, Lane> lanes;
    if (!F::kReads)
        for (size_t l = 0; l < 4; ++l)
            if (r.lanes[l].from != Lane::From::Nothing || !r.lanes[l].extra.empty()) lanes[names[l]] = r.lanes[l];
    f.objectsInOrder("lanes", lanes, std::span(names), "a lane", "by channel; one without a source is left out");
    if (F::kReads)
        for (size_t l = 0; l < 4; ++l)
            if (const auto it = lanes.find(names[l]); it != lanes.end()) r.lanes[l] = it->second;
    f.integer("size", r.size, 0, -1, 1000000, "pixels of the longer side; of the largest source when missing");
    f.truth("srgb", r.srgb, false, "red, green and blue are stored sRGB-encoded", Written::Always);
    f.choice("samples", r.type, SampleType::U8, wordsOf(kSampleTypes), "", Written::Always);
    f.choice("filter", r.filter, Filter::Lanczos, wordsOf(kFilters), "where a source has another size", Written::Always);
    f.truth("raiseRoughness", r.raiseRoughness, false, "by the variance that the normals of the set lose in smaller levels");
    f.rest(r.extra);
}

} // namespace hue
