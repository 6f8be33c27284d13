#include "core/mesh/placements.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <fmt/format.h>

namespace hue {
namespace {

constexpr float kDegree = 3.14159265f / 180;
constexpr double kMostTriangles = 8e6;

} // namespace

Columns columnsOf(const Placement& p) {
    const float c = std::cos(p.turn * kDegree) * p.size, s = std::sin(p.turn * kDegree) * p.size;
    return {{{c, 0, -s}, {0, p.size, 0}, {s, 0, c}, p.position}};
}

std::vector<Placement> placementsOf(const std::optional<Placements>& placements, const Bounds& mesh) {
    if (!placements) return {Placement{}};
    const Placements& p = *placements;
    const int count = std::clamp(p.count, 2, Placements::kMost);
    const int rows = p.form == Placements::Form::Grid ? std::clamp(p.rows, 1, Placements::kMost / 2) : 1;
    const int all = std::min(count * rows, Placements::kMost);
    const float step = std::max({mesh.high[0] - mesh.low[0], mesh.high[2] - mesh.low[2], 1e-3f}) * p.spacing;
    std::vector<Placement> out;
    for (int k = 0; k < all; ++k) {
        const float along = float(k) / float(all - 1);
        Placement one;
        one.size = 1 + (p.size - 1) * along;
        one.turn = p.turn * along;
        if (p.form == Placements::Form::Ring) {
            const float angle = 360 * float(k) / float(all), radius = step / (2 * std::sin(180 * kDegree / float(all)));
            one.position = {radius * std::sin(angle * kDegree), 0, radius * std::cos(angle * kDegree)};
            one.turn += angle;
        } else {
            const int across = k % count, deep = k / count, last = (all - 1) / count;
            one.position = {step * (float(across) - float(count - 1) / 2), 0, step * (float(deep) - float(last) / 2)};
        }
        one.position[1] = p.lift * along + mesh.low[1] * (1 - one.size);
        // Evenly spread however many there are (the golden ratio); the first as a mesh that stands alone.
        const double spread = 0.5 + double(k) * 0.6180339887498949;
        one.random = float(spread - std::floor(spread));
        out.push_back(one);
    }
    return out;
}

Result<Placements> placementsFromText(std::string_view text) {
    const auto refuse = [&](std::string why) {
        return Error{"placements.text",
                     fmt::format("{} says no placements: {}. Write row:5, grid:5x3 or ring:8, and behind commas turn=90, lift=0.5, "
                                 "size=0.5 or spacing=2.",
                                 text, why),
                     {}};
    };
    const auto number = [](std::string_view from, auto& to) {
        const auto [end, error] = std::from_chars(from.data(), from.data() + from.size(), to);
        return error == std::errc{} && end == from.data() + from.size();
    };
    Placements out;
    struct Key {
        std::string_view name;
        float& value;
        float low, high;
    };
    const Key keys[] = {
        {"turn", out.turn, -1e6f, 1e6f}, {"lift", out.lift, -100, 100}, {"size", out.size, 0.1f, 10}, {"spacing", out.spacing, 0.1f, 10}};
    for (size_t at = 0; at <= text.size();) {
        const size_t comma = std::min(text.find(',', at), text.size());
        const std::string_view part = text.substr(at, comma - at);
        if (at == 0) {
            const size_t colon = std::min(part.find(':'), part.size());
            const std::string_view form = part.substr(0, colon), many = part.substr(std::min(colon + 1, part.size()));
            const size_t by = form == "grid" ? std::min(many.find('x'), many.size()) : many.size();
            if (form == "row") out.form = Placements::Form::Row;
            else if (form == "grid") out.form = Placements::Form::Grid;
            else if (form == "ring") out.form = Placements::Form::Ring;
            else return refuse(fmt::format("{} is no arrangement", form));
            if (colon < part.size() && !number(many.substr(0, by), out.count))
                return refuse(fmt::format("{} is no number of copies", many));
            if (by < many.size() && !number(many.substr(by + 1), out.rows))
                return refuse(fmt::format("{} is no number of rows", many.substr(by + 1)));
            if (out.count < 2 || out.count > Placements::kMost || out.rows < 1 || out.rows > Placements::kMost / 2)
                return refuse(fmt::format("there are 2 to {} copies", Placements::kMost));
        } else {
            const size_t equals = std::min(part.find('='), part.size());
            const auto key = std::find_if(std::begin(keys), std::end(keys), [&](const Key& k) { return k.name == part.substr(0, equals); });
            if (key == std::end(keys)) return refuse(fmt::format("{} is nothing that can be set", part.substr(0, equals)));
            if (!number(part.substr(std::min(equals + 1, part.size())), key->value) || !(key->value >= key->low && key->value <= key->high))
                return refuse(fmt::format("{} takes a number from {:g} to {:g}", key->name, key->low, key->high));
        }
        at = comma + 1;
    }
    return out;
}

Result<Mesh> repeated(std::span<const MeshPtr> meshes, std::span<const Placement> placements) {
    double triangles = 0;
    for (const MeshPtr& m : meshes) triangles += double(m->indices.size()) / 3;
    if (triangles > kMostTriangles)
        return Error{"mesh.too-many",
                     fmt::format("{} copies of the mesh would have {:.1f} million triangles; at most 8 are drawn. Place fewer, or "
                                 "subdivide less.",
                                 placements.size(), triangles / 1e6),
                     {}};
    Mesh out;
    for (size_t k = 0; k < placements.size(); ++k) {
        const Mesh& mesh = *meshes[k];
        const Columns to = columnsOf(placements[k]);
        const auto firstVertex = uint32_t(out.vertices.size()), firstIndex = uint32_t(out.indices.size());
        out.hasColors = mesh.hasColors;
        out.hasColors1 = mesh.hasColors1;
        out.hasUv1 = mesh.hasUv1;
        for (size_t v = 0; v < mesh.vertices.size(); ++v) {
            Vertex x = mesh.vertices[v];
            out.rest.push_back(mesh.rest.empty() ? RestVertex{x.position, x.normal} : mesh.rest[v]);
            x.position = placed(to, x.position);
            x.normal = scaled(turned(to, x.normal), 1 / placements[k].size);
            const Rgb tangent = scaled(turned(to, {x.tangent[0], x.tangent[1], x.tangent[2]}), 1 / placements[k].size);
            std::copy(tangent.begin(), tangent.end(), x.tangent.begin());
            out.vertices.push_back(x);
            if (!mesh.carried.empty()) out.carried.push_back(mesh.carried[v]);
        }
        for (const uint32_t i : mesh.indices) out.indices.push_back(firstVertex + i);
        for (MeshSlot slot : mesh.slots) {
            slot.firstIndex += firstIndex;
            out.slots.push_back(std::move(slot));
        }
    }
    return out;
}

} // namespace hue
