#include "core/base/files.h"
#include "core/base/json_depth.h"
#include "core/base/vectors.h"
#include "core/mesh/gltf_writer_private.h"
#include "core/mesh/mesh.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <fstream>
#include <glm/gtc/matrix_transform.hpp>
#include <glm/gtc/quaternion.hpp>
#include <glm/gtc/type_ptr.hpp>
#include <map>
#include <set>
#include <sstream>
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

/// What cannot be used of a file, in words that follow its name: "has indices beyond its vertices".
struct Refused {
    std::string why;
};

/// Reads one accessor's components as floats, checking every range against the buffer. Throws Refused for what cannot be read; an
/// accessor of -1 is empty.
class AccessorReader {
  public:
    /// `name` stands in messages; `least` to `most` components are wanted.
    AccessorReader(const tinygltf::Model& model, int accessor, const std::string& name, int least, int most) {
        if (accessor < 0) return;
        if (size_t(accessor) >= model.accessors.size()) throw Refused{fmt::format("names {} that it does not have", name)};
        const auto& a = model.accessors[size_t(accessor)];
        if (a.sparse.isSparse) throw Refused{fmt::format("keeps {} in sparse form, which is not read", name)};
        if (a.bufferView < 0 || size_t(a.bufferView) >= model.bufferViews.size()) throw Refused{fmt::format("has no data for {}", name)};
        const auto& view = model.bufferViews[size_t(a.bufferView)];
        if (view.buffer < 0 || size_t(view.buffer) >= model.buffers.size()) throw Refused{fmt::format("has no data for {}", name)};
        const auto& data = model.buffers[size_t(view.buffer)].data;
        m_components = tinygltf::GetNumComponentsInType(uint32_t(a.type));
        m_type = a.componentType;
        m_normalized = a.normalized;
        const int stride = a.ByteStride(view), size = tinygltf::GetComponentSizeInBytes(uint32_t(m_type));
        if (m_components < least || m_components > most)
            throw Refused{fmt::format("has {} of {} components and not of {}", name, m_components, least)};
        const bool known = m_type == TINYGLTF_COMPONENT_TYPE_FLOAT || m_type == TINYGLTF_COMPONENT_TYPE_UNSIGNED_BYTE ||
                           m_type == TINYGLTF_COMPONENT_TYPE_UNSIGNED_SHORT || m_type == TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT;
        if (stride <= 0 || size <= 0 || !known) throw Refused{fmt::format("keeps {} as a type that is not read", name)};
        m_stride = size_t(stride);
        // One after the other, so that no sum or product can overflow.
        const size_t bytes = data.size(), element = size_t(m_components) * size_t(size);
        const bool inside = view.byteOffset <= bytes && a.byteOffset <= bytes - view.byteOffset && a.count <= bytes;
        const size_t room = inside ? bytes - view.byteOffset - a.byteOffset : 0;
        if (a.count == 0) return;
        if (!inside || room < element || (room - element) / m_stride < a.count - 1)
            throw Refused{fmt::format("promises more {} than it holds", name)};
        m_data = data.data() + view.byteOffset + a.byteOffset;
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
    std::set<int> placed = {};

    void addNode(int index, const glm::dmat4& parent, int depth) {
        if (index < 0 || size_t(index) >= model.nodes.size()) throw Refused{fmt::format("names a node {} that it does not have", index)};
        constexpr int kDeepest = 256;
        if (depth > kDeepest) throw Refused{fmt::format("nests its nodes more than {} deep", kDeepest)};
        // glTF 2.0, 3.5.2: nodes are strict trees.
        if (!placed.insert(index).second) throw Refused{fmt::format("hangs its node {} on two others, or on itself", index)};
        const auto& node = model.nodes[size_t(index)];
        const glm::dmat4 world = parent * localMatrix(node);
        if (node.mesh >= 0 && node.mesh < int(model.meshes.size()))
            for (const auto& p : model.meshes[size_t(node.mesh)].primitives) addPrimitive(p, world);
        for (int child : node.children) addNode(child, world, depth + 1);
    }

    void addPrimitive(const tinygltf::Primitive& p, const glm::dmat4& m) {
        if (p.mode != TINYGLTF_MODE_TRIANGLES && p.mode != -1) return;
        auto attribute = [&](const char* key, const char* name, int least, int most) {
            auto it = p.attributes.find(key);
            return AccessorReader(model, it == p.attributes.end() ? -1 : it->second, name, least, most);
        };
        const AccessorReader position = attribute("POSITION", "positions", 3, 3), normal = attribute("NORMAL", "normals", 3, 3);
        const AccessorReader tangent = attribute("TANGENT", "tangents", 4, 4), uv0 = attribute("TEXCOORD_0", "UVs", 2, 2);
        const AccessorReader uv1 = attribute("TEXCOORD_1", "second UVs", 2, 2), color = attribute("COLOR_0", "vertex colors", 3, 4);
        const size_t count = position.count();
        if (!count) return;
        for (const AccessorReader* other : {&normal, &tangent, &uv0, &uv1, &color})
            if (other->count() && other->count() != count)
                throw Refused{fmt::format("has {} positions and {} of what belongs to them", count, other->count())};
        if (mesh.vertices.size() + count > UINT32_MAX) throw Refused{"has more vertices than can be counted"};
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
            if (tangent.count() == count) {
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
        const AccessorReader index(model, p.indices, "indices", 1, 1);
        if (p.indices < 0) {
            for (uint32_t i = 0; i < count; ++i) indices.push_back(base + i);
        } else {
            for (size_t i = 0; i < index.count(); ++i) {
                const uint32_t at = index.index(i);
                if (at >= count) throw Refused{fmt::format("names the vertex {} of {}", at, count)};
                indices.push_back(base + at);
            }
        }
        indices.resize(indices.size() / 3 * 3);
    }
};

} // namespace

namespace {

/// The JSON of a GLB (glTF 2.0, 4.4): header of 12 bytes, then a chunk of length, type and content; empty when there is none.
std::string_view jsonOfGlb(std::string_view bytes) {
    uint32_t length = 0;
    if (bytes.size() < 20 || !bytes.starts_with("glTF")) return {};
    std::memcpy(&length, bytes.data() + 12, 4);
    return bytes.substr(20, length);
}

/// All of a file; nothing that is no file is opened.
bool readAll(const fs::path& file, std::string& to) {
    if (!whyUnreadable(file).empty()) return false;
    std::ifstream in(file, std::ios::binary);
    std::ostringstream all;
    all << in.rdbuf();
    to = std::move(all).str();
    return in.good() || in.eof();
}

bool load(tinygltf::Model& model, const fs::path& file, const std::string& bytes, std::string& problem) {
    tinygltf::TinyGLTF loader;
    // Pictures inside of the file are of no interest here.
    loader.SetImageLoader(
        [](tinygltf::Image*, const int, std::string*, std::string*, int, int, const unsigned char*, int, void*) { return true; }, nullptr);
    tinygltf::FsCallbacks files{};
    files.FileExists = [](const std::string& name, void*) { return whyUnreadable(name).empty(); };
    files.ExpandFilePath = [](const std::string& name, void*) { return name; };
    files.ReadWholeFile = [](std::vector<unsigned char>* to, std::string* why, const std::string& name, void*) {
        std::string all;
        if (!readAll(name, all)) {
            *why = fmt::format("its buffer {} {}", name, whyUnreadable(name));
            return false;
        }
        to->assign(all.begin(), all.end());
        return true;
    };
    loader.SetFsCallbacks(files);
    std::string warning;
    const std::string folder = file.parent_path().string();
    try {
        return file.extension() == ".gltf"
                   ? loader.LoadASCIIFromString(&model, &problem, &warning, bytes.data(), unsigned(bytes.size()), folder)
                   : loader.LoadBinaryFromMemory(&model, &problem, &warning, reinterpret_cast<const unsigned char*>(bytes.data()),
                                                 unsigned(bytes.size()), folder);
    } catch (const std::bad_alloc&) { throw; } catch (const std::exception& e) {
        problem = e.what();
        return false;
    }
}

/// Extensions that say nothing of a mesh's shape.
bool harmless(const std::string& extension) {
    for (const char* start : {"KHR_materials_", "KHR_texture_", "EXT_texture_", "KHR_lights_", "KHR_xmp", "KHR_node_visibility"})
        if (extension.starts_with(start)) return true;
    return false;
}

Mesh meshOf(const tinygltf::Model& model) {
    for (const std::string& extension : model.extensionsRequired)
        if (!harmless(extension)) throw Refused{fmt::format("needs the extension {}, which is not read", extension)};
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
    const auto finite = [](const auto& values) {
        return std::all_of(values.begin(), values.end(), [](float x) { return std::isfinite(x); });
    };
    // Beyond, areas and directions can no longer be told in single precision.
    constexpr float kFurthest = 1e8f;
    const auto near = [](const auto& values) {
        return std::all_of(values.begin(), values.end(), [](float x) { return std::fabs(x) <= kFurthest; });
    };
    for (const Vertex& v : builder.mesh.vertices) {
        if (!finite(v.position)) throw Refused{"has vertices at no finite place"};
        if (!finite(v.normal)) throw Refused{"has normals that are not finite"};
        if (!finite(v.tangent)) throw Refused{"has tangents that are not finite"};
        if (!finite(v.uv0) || !finite(v.uv1)) throw Refused{"has UVs that are not finite"};
        if (!near(v.position)) throw Refused{fmt::format("has vertices further away than {:g} m", kFurthest)};
        if (!near(v.uv0) || !near(v.uv1)) throw Refused{fmt::format("has UVs larger than {:g}", kFurthest)};
        if (!finite(v.color)) throw Refused{"has vertex colors that are not finite"};
    }
    if (builder.mesh.indices.empty()) return std::move(builder.mesh);
    if (!builder.allNormals) makeNormals(builder.mesh);
    if (!builder.allTangents) makeTangents(builder.mesh);
    return std::move(builder.mesh);
}

} // namespace

Result<Mesh> readMesh(const fs::path& file) {
    if (const std::string why = whyUnreadable(file); !why.empty())
        return Error{"mesh.missing", fmt::format("{} {}. Bring the file back, or relocate the mesh.", file.string(), why), {}};
    const auto refuse = [&](const std::string& why) {
        return Error{"mesh.unreadable", fmt::format("{} {}. Export it again.", file.string(), why), {}};
    };
    std::string bytes;
    std::error_code none;
    if (const uintmax_t size = fs::file_size(file, none); size > UINT32_MAX) return refuse("is larger than 4 GB");
    if (!readAll(file, bytes)) return refuse("cannot be read to its end");
    if (depthOfJson(file.extension() == ".gltf" ? std::string_view(bytes) : jsonOfGlb(bytes)) > kDeepestJson)
        return refuse(fmt::format("nests more than {} levels deep", kDeepestJson));
    tinygltf::Model model;
    std::string problem;
    if (!load(model, file, bytes, problem)) {
        problem = problem.substr(0, problem.find('\n'));
        while (problem.ends_with('.')) problem.pop_back();
        return refuse(fmt::format("cannot be read as glTF: {}", problem.empty() ? "it is damaged" : problem));
    }
    try {
        Mesh mesh = meshOf(model);
        if (mesh.indices.empty())
            return Error{"mesh.empty", fmt::format("{} holds no triangles. Export a mesh with faces.", file.string()), {}};
        return mesh;
    } catch (const Refused& refused) { return refuse(refused.why); }
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
