#pragma once
// Builds a GLB piece by piece.
#include "core/mesh/mesh.h"

#include <map>
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
    /// Writes these attributes of the next mesh, four numbers a vertex, as steps of 8 or 16 bits; its own vertex colors are not written.
    void setSteps(int bits, std::map<std::string, std::vector<float>> sets);
    void useExtension(const std::string& name);
    /// To a temporary file that is then renamed.
    Outcome write(const std::filesystem::path& file) const;

  private:
    int addView(const void* data, size_t bytes, int target, size_t stride = 0);
    int addAccessor(int view, size_t count, int type, int componentType);
    int addSteps(const std::vector<float>& values);

    tinygltf::Model m_model;
    int m_stepBits = 0; ///< 0: colors of the mesh, as floats
    std::map<std::string, std::vector<float>> m_steps;
};

} // namespace hue
