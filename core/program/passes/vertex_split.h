#pragma once
// What of a Program is computed per vertex, apart from the rest: the operands of Op::PerVertex, carried to the pixels by the triangles.
// Threads: any. Nothing is kept between calls.
#include "core/program/program.h"

#include <memory>

namespace hue {

/// What triangles carry for a Program: so many vectors of four components (Attribute::Carried0 and on).
constexpr int kCarriedVectors = 4;

/// The imm of a PerVertex that nobody asked for: its value changes evenly, so that carrying it is only cheaper. See leaveToVertices().
constexpr uint32_t kCarriedUnasked = 1;

/// Triangles interpolate the attribute, and pixels take it as it comes; a direction is made of length 1 again at each pixel.
bool changesEvenly(Attribute);

struct CarriedWish {
    int32_t at = -1; ///< of the instruction
    int width = 1;
    bool asked = true;
};
/// A value that the triangles carry.
struct Carried {
    int32_t at = -1; ///< the PerVertex of the whole Program
    int vector = 0, first = 0, width = 1;
};
/// Finds room for what was asked first, and for wide values before narrow ones, which fill what is left. The vector of what has none is -1.
std::vector<Carried> findRoom(std::vector<CarriedWish> wishes);

struct VertexSplit {
    std::shared_ptr<const Program> surface;  ///< reads Attribute::Carried0 and on
    std::shared_ptr<const Program> vertices; ///< outputs "carried0" and on, four wide; null where nothing is carried
    std::vector<Carried> carried;
};
enum class Carry { Asked, All };
/// Takes a Program apart. The surface is the Program itself where nothing is computed per vertex. With Carry::Asked what nobody asked for
/// stays with the pixels, for those who have no say over what triangles carry.
VertexSplit splitAtVertices(const std::shared_ptr<const Program>& program, Carry carry = Carry::All);

/// Each PerVertex that was asked for and that no room is left for: it stays with the pixels.
std::vector<int32_t> withoutRoom(const Program& program);

/// Both Programs in one, the outputs of `a` first. Origins are those of `a` and then those of `b`.
std::shared_ptr<const Program> joined(const Program& a, const Program& b);

} // namespace hue
