#pragma once
// From a surface Program to the stages that draw a mesh with it.
// Threads: any. Nothing is kept between calls.
#include "core/program/uniform_layout.h"

namespace hue {

/// The stages that draw a mesh with a surface Program into the channel targets (see channel_targets.h); `full` for all
/// eight of them. A Program with the single output "tap" shows that value as base color.
/// `carries`: hands on what the mesh has for its triangles to carry (Mesh::carried).
std::string vertexStage(bool carries = false);
/// The same, with what is computed per vertex written out: moving the vertices by the output vertex_offset, and handing the triangles
/// the outputs carried0 and on (vertex_split.h). The normals of what is moved come from its faces, which no
/// vertex knows; pictures are therefore drawn of a mesh that was moved before (vertex_offset.h), and this stage is for reading and for
/// carrying elsewhere.
std::string vertexStage(const Program& vertices, const UniformLayout& layout);
std::string surfaceFragmentStage(const Program& program, const UniformLayout& layout, bool full = false);

/// How a fragment stage fills hs_Point from what vertexStage() hands on: declarations behind those of emitMaterial(), and lines that
/// declare and fill `p`.
struct PointGlsl {
    std::string declarations, lines;
};
PointGlsl pointFromVertices(const Program& surface);

} // namespace hue
