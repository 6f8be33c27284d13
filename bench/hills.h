#pragma once
// A mesh of as many vertices as is wanted.
#include "core/mesh/mesh.h"

#include <cmath>

namespace hue {

/// A hilly square of `side` by `side` vertices, 2 m across.
inline MeshPtr hills(int side) {
    auto mesh = std::make_shared<Mesh>();
    for (int y = 0; y < side; ++y)
        for (int x = 0; x < side; ++x) {
            Vertex v;
            const float u = 2 * float(x) / float(side - 1) - 1, w = 2 * float(y) / float(side - 1) - 1;
            v.position = {u, 0.05f * std::sin(9 * u) * std::cos(7 * w), w};
            v.uv0 = {(u + 1) / 2, (w + 1) / 2};
            mesh->vertices.push_back(v);
        }
    for (int y = 0; y + 1 < side; ++y)
        for (int x = 0; x + 1 < side; ++x) {
            const auto a = uint32_t(y * side + x), b = a + 1, c = a + uint32_t(side), d = c + 1;
            for (const uint32_t i : {a, c, b, b, c, d}) mesh->indices.push_back(i);
        }
    mesh->slots = {{"all", 0, uint32_t(mesh->indices.size())}};
    makeNormals(*mesh);
    return mesh;
}

} // namespace hue
