#pragma once
// What of a Program is computed per vertex, apart from the rest: the operands of Op::PerVertex, carried to the pixels by the triangles.
// Threads: any. Nothing is kept between calls.
#include "core/program/program.h"

#include <memory>

namespace hue {

/// What triangles carry for a Program: so many vectors of four components (Attribute::Carried0 and on).
constexpr int kCarriedVectors = 4;

/// A value that the triangles carry.
struct Carried {
    int32_t at = -1; ///< the PerVertex of the whole Program
    int vector = 0, first = 0, width = 1;
};

struct VertexSplit {
    std::shared_ptr<const Program> surface;  ///< reads Attribute::Carried0 and on
    std::shared_ptr<const Program> vertices; ///< outputs "carried0" and on, four wide; null where nothing is carried
    std::vector<Carried> carried;
};
/// Takes a Program apart. The surface is the Program itself where nothing is computed per vertex.
VertexSplit splitAtVertices(const std::shared_ptr<const Program>& program);

/// Each PerVertex that no room is left for: it stays with the pixels.
std::vector<int32_t> withoutRoom(const Program& program);

/// Both Programs in one, the outputs of `a` first. Origins are those of `a` and then those of `b`.
std::shared_ptr<const Program> joined(const Program& a, const Program& b);

} // namespace hue
