#pragma once
// Builds a GLB piece by piece.
#include "core/mesh/mesh.h"

#include <tiny_gltf.h>

namespace hue {

class GltfWriter {
  public:
    GltfWriter();
    /// An embedded PNG with a repeating sampler; the index of its texture.
    int addTexture(const std::string& name, const std::vector<unsigned char>& png);
    int addMaterial(const tinygltf::Material& material);
    /// A plain material by the name of each slot.
    std::vector<int> addSlotMaterials(const Mesh& mesh);
    /// One primitive a slot; `materials` by slot. `extras`: what is kept beside the mesh.
    void addMesh(const Mesh& mesh, const std::string& name, const std::vector<int>& materials, const tinygltf::Value& extras = {});
    /// Writes vertex colors of the next mesh as steps of 8 or 16 bits instead of floats: sets of four numbers a vertex, COLOR_0 first.
    void setColors(int bits, std::vector<std::vector<float>> sets);
    void useExtension(const std::string& name);
    /// To a temporary file that is then renamed.
    Outcome write(const std::filesystem::path& file) const;

  private:
    int addView(const void* data, size_t bytes, int target, size_t stride = 0);
    int addAccessor(int view, size_t count, int type, int componentType);
    int addSteps(const std::vector<float>& values);

    tinygltf::Model m_model;
    int m_colorBits = 0; ///< 0: colors of the mesh, as floats
    std::vector<std::vector<float>> m_colors;
};

} // namespace hue
