#include "core/base/vectors.h"
#include "core/mesh/gltf_writer_private.h"
#include "core/mesh/mesh.h"

#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <glm/gtc/matrix_transform.hpp>
#include <glm/gtc/quaternion.hpp>
#include <glm/gtc/type_ptr.hpp>
#include <map>
#include <tiny_gltf.h>

namespace hue {
namespace {

namespace fs = std::filesystem;

glm::dmat4 localMatrix(const tinygltf::Node& n) {
    if (n.matrix.size() == 16) return glm::make_mat4(n.matrix.data());
    glm::dmat4 m(1);
    if (n.rotation.size() == 4) m = glm::mat4_cast(glm::dquat(n.rotation[3], n.rotation[0], n.rotation[1], n.rotation[2]));
    if (n.scale.size() == 3) m = glm::scale(m, glm::make_vec3(n.scale.data()));
    if (n.translation.size() == 3) m[3] = glm::dvec4(glm::make_vec3(n.translation.data()), 1);
    return m;
}

/// Reads one accessor's components as floats, checking every range against the buffer.
class AccessorReader {
  public:
    AccessorReader(const tinygltf::Model& model, int accessor) {
        if (accessor < 0 || accessor >= int(model.accessors.size())) return;
        const auto& a = model.accessors[size_t(accessor)];
        if (a.sparse.isSparse || a.bufferView < 0 || a.bufferView >= int(model.bufferViews.size())) return;
        const auto& view = model.bufferViews[size_t(a.bufferView)];
        if (view.buffer < 0 || view.buffer >= int(model.buffers.size())) return;
        const auto& data = model.buffers[size_t(view.buffer)].data;
        m_components = tinygltf::GetNumComponentsInType(uint32_t(a.type));
        m_type = a.componentType;
        m_normalized = a.normalized;
        const int stride = a.ByteStride(view);
        const int size = tinygltf::GetComponentSizeInBytes(uint32_t(m_type));
        if (stride <= 0 || size <= 0 || m_components <= 0) return;
        m_stride = size_t(stride);
        const size_t begin = view.byteOffset + a.byteOffset;
        if (a.count == 0 || begin > data.size() || (a.count - 1) * m_stride + size_t(m_components) * size_t(size) > data.size() - begin)
            return;
        m_data = data.data() + begin;
        m_count = a.count;
    }
    size_t count() const { return m_count; }
    int components() const { return m_components; }
    float number(size_t element, int component) const {
        switch (m_type) {
        case TINYGLTF_COMPONENT_TYPE_FLOAT: return at<float>(element, component);
        case TINYGLTF_COMPONENT_TYPE_UNSIGNED_BYTE: return at<uint8_t>(element, component) / (m_normalized ? 255.f : 1.f);
        case TINYGLTF_COMPONENT_TYPE_UNSIGNED_SHORT: return at<uint16_t>(element, component) / (m_normalized ? 65535.f : 1.f);
        default: return 0;
        }
    }
    uint32_t index(size_t element) const {
        if (m_type == TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT) return at<uint32_t>(element, 0);
        if (m_type == TINYGLTF_COMPONENT_TYPE_UNSIGNED_SHORT) return at<uint16_t>(element, 0);
        return at<uint8_t>(element, 0);
    }

  private:
    template <class T> T at(size_t element, int component) const {
        T value;
        std::memcpy(&value, m_data + element * m_stride + size_t(component) * sizeof(T), sizeof(T));
        return value;
    }
    const unsigned char* m_data = nullptr;
    size_t m_count = 0, m_stride = 0;
    int m_components = 0, m_type = 0;
    bool m_normalized = false;
};

struct MeshBuilder {
    const tinygltf::Model& model;
    Mesh mesh;
    std::map<int, std::vector<uint32_t>> byMaterial;
    bool allNormals = true, allTangents = true;

    void addNode(int index, const glm::dmat4& parent, int depth) {
        if (index < 0 || index >= int(model.nodes.size()) || depth > 64) return;
        const auto& node = model.nodes[size_t(index)];
        const glm::dmat4 world = parent * localMatrix(node);
        if (node.mesh >= 0 && node.mesh < int(model.meshes.size()))
            for (const auto& p : model.meshes[size_t(node.mesh)].primitives) addPrimitive(p, world);
        for (int child : node.children) addNode(child, world, depth + 1);
    }

    void addPrimitive(const tinygltf::Primitive& p, const glm::dmat4& m) {
        if (p.mode != TINYGLTF_MODE_TRIANGLES && p.mode != -1) return;
        auto attribute = [&](const char* name) {
            auto it = p.attributes.find(name);
            return AccessorReader(model, it == p.attributes.end() ? -1 : it->second);
        };
        const AccessorReader position = attribute("POSITION"), normal = attribute("NORMAL"), tangent = attribute("TANGENT");
        const AccessorReader uv0 = attribute("TEXCOORD_0"), uv1 = attribute("TEXCOORD_1"), color = attribute("COLOR_0");
        const size_t count = position.count();
        if (!count || position.components() != 3) return;
        const auto base = uint32_t(mesh.vertices.size());
        allNormals = allNormals && normal.count() == count;
        allTangents = allTangents && tangent.count() == count && normal.count() == count;
        mesh.hasUv1 = mesh.hasUv1 || uv1.count() == count;
        mesh.hasColors = mesh.hasColors || color.count() == count;
        auto turned = [&](const AccessorReader& from, size_t i, float w) {
            return arrayOf(glm::vec3(m * glm::dvec4(from.number(i, 0), from.number(i, 1), from.number(i, 2), w)));
        };
        auto direction = [&](const AccessorReader& from, size_t i) {
            const auto v = turned(from, i, 0);
            return directionOf(v, 1e-12f).value_or(v);
        };
        for (size_t i = 0; i < count; ++i) {
            Vertex v;
            v.position = turned(position, i, 1);
            if (normal.count() == count) v.normal = direction(normal, i);
            if (tangent.count() == count && tangent.components() == 4) {
                const auto t = direction(tangent, i);
                v.tangent = {t[0], t[1], t[2], tangent.number(i, 3) < 0 ? -1.f : 1.f};
            }
            if (uv0.count() == count) v.uv0 = {uv0.number(i, 0), uv0.number(i, 1)};
            v.uv1 = uv1.count() == count ? std::array<float, 2>{uv1.number(i, 0), uv1.number(i, 1)} : v.uv0;
            if (color.count() == count)
                for (int c = 0; c < color.components() && c < 4; ++c) v.color[size_t(c)] = color.number(i, c);
            mesh.vertices.push_back(v);
        }
        auto& indices = byMaterial[p.material];
        const AccessorReader index(model, p.indices);
        if (p.indices < 0) {
            for (uint32_t i = 0; i < count; ++i) indices.push_back(base + i);
        } else {
            for (size_t i = 0; i < index.count(); ++i) {
                const uint32_t at = index.index(i);
                indices.push_back(base + (at < count ? at : 0));
            }
        }
        indices.resize(indices.size() / 3 * 3);
    }
};

} // namespace

Result<Mesh> readMesh(const fs::path& file) {
    std::error_code none;
    if (!fs::exists(file, none))
        return Error{"mesh.missing", fmt::format("{} is not there. Bring the file back, or relocate the mesh.", file.string()), {}};
    tinygltf::TinyGLTF loader;
    // Pictures inside of the file are of no interest here.
    loader.SetImageLoader(
        [](tinygltf::Image*, const int, std::string*, std::string*, int, int, const unsigned char*, int, void*) { return true; }, nullptr);
    tinygltf::Model model;
    std::string problem, warning;
    bool ok = false;
    try {
        ok = file.extension() == ".gltf" ? loader.LoadASCIIFromFile(&model, &problem, &warning, file.string())
                                         : loader.LoadBinaryFromFile(&model, &problem, &warning, file.string());
    } catch (const std::exception& e) { problem = e.what(); }
    if (!ok) {
        problem = problem.substr(0, problem.find('\n'));
        return Error{
            "mesh.unreadable",
            fmt::format("{} cannot be read as glTF: {}. Export it again.", file.string(), problem.empty() ? "it is damaged" : problem),
            {}};
    }
    MeshBuilder builder{model, {}, {}};
    if (!model.scenes.empty()) {
        const size_t scene = model.defaultScene >= 0 && model.defaultScene < int(model.scenes.size()) ? size_t(model.defaultScene) : 0;
        for (int node : model.scenes[scene].nodes) builder.addNode(node, glm::dmat4(1), 0);
    }
    for (auto& [material, indices] : builder.byMaterial) {
        if (indices.empty()) continue;
        std::string name = material >= 0 && material < int(model.materials.size()) ? model.materials[size_t(material)].name : "";
        if (name.empty()) name = fmt::format("Slot {}", builder.mesh.slots.size() + 1);
        builder.mesh.slots.push_back({name, uint32_t(builder.mesh.indices.size()), uint32_t(indices.size())});
        builder.mesh.indices.insert(builder.mesh.indices.end(), indices.begin(), indices.end());
    }
    if (builder.mesh.indices.empty())
        return Error{"mesh.empty", fmt::format("{} holds no triangles. Export a mesh with faces.", file.string()), {}};
    for (const Vertex& v : builder.mesh.vertices)
        for (float x : v.position)
            if (!std::isfinite(x))
                return Error{"mesh.unreadable", fmt::format("{} has vertices at no finite place. Export it again.", file.string()), {}};
    if (!builder.allNormals) makeNormals(builder.mesh);
    if (!builder.allTangents) makeTangents(builder.mesh);
    return std::move(builder.mesh);
}

Outcome writeMesh(const fs::path& file, const Mesh& mesh) {
    GltfWriter writer;
    std::vector<int> materials;
    for (const MeshSlot& slot : mesh.slots) {
        tinygltf::Material m;
        m.name = slot.name;
        materials.push_back(writer.addMaterial(m));
    }
    writer.addMesh(mesh, file.stem().string(), materials);
    return writer.write(file);
}

} // namespace hue
