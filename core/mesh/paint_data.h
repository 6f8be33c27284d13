#pragma once
// What is painted on the vertices of a mesh.
// Threads: any number may read one; it never changes.
#include "core/document/project.h"
#include "core/mesh/mesh.h"

#include <mutex>
#include <span>

namespace hue {

/// Channels of one value a vertex, 0..1, in steps of 8 or 16 bits. A value: what follows from it shares what a change leaves alone, so that
/// a stroke, and the step of undo that it is, costs as much as it touched.
class PaintData {
  public:
    static constexpr int kChannels = 8; ///< two sets of four, as COLOR_0 and COLOR_1 of glTF hold them
    static constexpr int kPlanes = 2 * kChannels;
    /// The plane beside a channel that holds what its live rules gave when they were last reckoned; all 0 where it has none. All that takes
    /// a channel takes it too.
    static constexpr int under(int channel) { return kChannels + channel; }

    /// Nothing painted. `bits`: 8 or 16.
    explicit PaintData(MeshPtr surface, int bits = 8);

    /// What it was painted on.
    const MeshPtr& surface() const { return m_surface; }
    size_t vertices() const { return m_vertices; }
    int bits() const { return m_bits; }

    float value(int channel, size_t vertex) const;
    /// One value a vertex.
    std::vector<float> channel(int channel) const;
    /// Whether any vertex is above 0.
    bool isPainted(int channel) const;

    /// With one channel changed, at all vertices or at some. Values are brought inside of 0..1, and to the nearest step; what is no number
    /// counts as 0. `values`: as many as there are vertices to change.
    PaintData with(int channel, std::span<const float> values) const;
    PaintData with(int channel, std::span<const uint32_t> vertices, std::span<const float> values) const;
    /// Which vertices may differ from other paint of as many, by what the two do not share: pairs of the first and the one after the last.
    std::vector<std::pair<size_t, size_t>> changedFrom(const PaintData& other) const;
    /// With all of a channel 0.
    PaintData without(int channel) const;
    /// Rounded to steps of so many bits.
    PaintData withBits(int bits) const;
    /// Of the surface that it will lie on from now on: of as many vertices.
    PaintData withSurface(MeshPtr surface) const;

    /// shapeHash() of the surface, reckoned once.
    const std::string& shape() const;
    /// Of surface, steps and values, as 16 hexadecimal digits; the same for the same paint.
    const std::string& fingerprint() const;
    bool operator==(const PaintData& other) const { return fingerprint() == other.fingerprint(); }

  private:
    static constexpr size_t kBlock = 4096; ///< vertices that are kept and shared together
    using Block = std::array<uint16_t, kBlock>;
    uint16_t stepOf(float value) const;

    MeshPtr m_surface;
    size_t m_vertices = 0;
    int m_bits = 8;
    std::array<std::vector<std::shared_ptr<const Block>>, kPlanes> m_blocks; ///< null: all 0

    struct Fingerprint {
        std::once_flag once;
        std::string text;
    };
    std::shared_ptr<Fingerprint> m_fingerprint; ///< of this content; copies share it
    std::shared_ptr<Fingerprint> m_shape;       ///< of the surface
};
using PaintDataPtr = std::shared_ptr<const PaintData>;

/// Of a mesh's shape: positions, triangles and slots, as 16 hexadecimal digits. Paint fits where this is the same.
std::string shapeHash(const Mesh& mesh);

/// Whether paint was made on that very shape.
bool fits(const PaintData& paint, const MeshPtr& mesh);

/// Of the paint in memory, else as the project's file names it.
std::string fingerprintOf(const Paintwork& paintwork);

/// A mesh with the channels as its two sets of vertex colors. The paint must be of as many vertices.
Mesh painted(const Mesh& mesh, const PaintData& paint);
/// A mesh with the paint `was` on it gets other paint: puts on only what the two do not share.
void repaint(Mesh& mesh, const PaintData& was, const PaintData& paint);

/// Keeps paint as a GLB: the surface, with COLOR_0, and COLOR_1 where anything is painted there, which any reader of glTF shows; what lies
/// under them as _UNDER_0 and _UNDER_1. `names`: of the channels, kept beside. Errors: file.cannot-write.
Outcome writePaint(const std::filesystem::path& file, const PaintData& paint, std::span<const std::string> names = {});
/// What writePaint() has written, or the vertex colors of any other glTF file, whose channels are then those of COLOR_0 and COLOR_1.
/// Errors: paint.unreadable, with what is wrong with the file.
Result<PaintData> readPaint(const std::filesystem::path& file);
/// The fingerprint that writePaint() has written into a file; empty for any other file. Reads the head of the file alone.
std::string fingerprintOfPaintFile(const std::filesystem::path& file);

} // namespace hue
