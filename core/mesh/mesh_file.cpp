#include "core/base/files.h"
#include "core/base/json_depth.h"
#include "core/base/vectors.h"
#include "core/mesh/gltf_reader_private.h"
#include "core/mesh/gltf_writer_private.h"

#include <algorithm>
#include <cmath>
#include <fstream>
#include <glm/gtc/matrix_transform.hpp>
#include <glm/gtc/quaternion.hpp>
#include <glm/gtc/type_ptr.hpp>
#include <map>
#include <set>
#include <sstream>

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

struct MeshBuilder {
    const tinygltf::Model& model;
    Mesh mesh;
    std::map<int, std::vector<uint32_t>> byMaterial;
    bool allNormals = true, allTangents = true;
    std::set<int> placed = {};
    struct Range {
        uint32_t first = 0, count = 0;
    };
    std::map<std::map<std::string, int>, Range> ofNode = {}; ///< vertices of the primitives of one node, by their attributes

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
        ofNode.clear();
        for (int child : node.children) addNode(child, world, depth + 1);
    }

    void addPrimitive(const tinygltf::Primitive& p, const glm::dmat4& m) {
        if (p.mode != TINYGLTF_MODE_TRIANGLES && p.mode != -1) return;
        // Primitives that differ in their material alone share their vertices.
        const auto known = ofNode.find(p.attributes);
        const Range vertices = known != ofNode.end() ? known->second : (ofNode[p.attributes] = addVertices(p, m));
        if (!vertices.count) return;
        auto& indices = byMaterial[p.material];
        const AccessorReader index(model, p.indices, "indices", 1, 1);
        if (p.indices < 0) {
            for (uint32_t i = 0; i < vertices.count; ++i) indices.push_back(vertices.first + i);
        } else {
            for (size_t i = 0; i < index.count(); ++i) {
                const uint32_t at = index.index(i);
                if (at >= vertices.count) throw Refused{fmt::format("names the vertex {} of {}", at, vertices.count)};
                indices.push_back(vertices.first + at);
            }
        }
        indices.resize(indices.size() / 3 * 3);
    }

    Range addVertices(const tinygltf::Primitive& p, const glm::dmat4& m) {
        auto attribute = [&](const char* key, const char* name, int least, int most) {
            auto it = p.attributes.find(key);
            return AccessorReader(model, it == p.attributes.end() ? -1 : it->second, name, least, most);
        };
        const AccessorReader position = attribute("POSITION", "positions", 3, 3), normal = attribute("NORMAL", "normals", 3, 3);
        const AccessorReader tangent = attribute("TANGENT", "tangents", 4, 4), uv0 = attribute("TEXCOORD_0", "UVs", 2, 2);
        const AccessorReader uv1 = attribute("TEXCOORD_1", "second UVs", 2, 2), color = attribute("COLOR_0", "vertex colors", 3, 4),
                             color1 = attribute("COLOR_1", "second vertex colors", 3, 4);
        const size_t count = position.count();
        if (!count) return {};
        for (const AccessorReader* other : {&normal, &tangent, &uv0, &uv1, &color, &color1})
            if (other->count() && other->count() != count)
                throw Refused{fmt::format("has {} positions and {} of what belongs to them", count, other->count())};
        if (mesh.vertices.size() + count > UINT32_MAX) throw Refused{"has more vertices than can be counted"};
        const auto base = uint32_t(mesh.vertices.size());
        allNormals = allNormals && normal.count() == count;
        allTangents = allTangents && tangent.count() == count && normal.count() == count;
        mesh.hasUv1 = mesh.hasUv1 || uv1.count() == count;
        mesh.hasColors = mesh.hasColors || color.count() == count;
        mesh.hasColors1 = mesh.hasColors1 || color1.count() == count;
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
            if (color1.count() == count) {
                v.color1[3] = 1; // as a color without alpha has it
                for (int c = 0; c < color1.components() && c < 4; ++c) v.color1[size_t(c)] = color1.number(i, c);
            }
            mesh.vertices.push_back(v);
        }
        return {base, uint32_t(count)};
    }
};

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

} // namespace

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
        if (!finite(v.color) || !finite(v.color1)) throw Refused{"has vertex colors that are not finite"};
    }
    if (builder.mesh.indices.empty()) return std::move(builder.mesh);
    if (!builder.allNormals) makeNormals(builder.mesh);
    if (!builder.allTangents) makeTangents(builder.mesh);
    return std::move(builder.mesh);
}

std::string_view jsonOfGlb(std::string_view bytes) {
    uint32_t length = 0;
    if (bytes.size() < 20 || !bytes.starts_with("glTF")) return {};
    std::memcpy(&length, bytes.data() + 12, 4);
    return bytes.substr(20, length);
}

tinygltf::Model modelOf(const fs::path& file) {
    std::string bytes;
    std::error_code none;
    if (const uintmax_t size = fs::file_size(file, none); size > UINT32_MAX) throw Refused{"is larger than 4 GB"};
    if (!readAll(file, bytes)) throw Refused{"cannot be read to its end"};
    if (depthOfJson(file.extension() == ".gltf" ? std::string_view(bytes) : jsonOfGlb(bytes)) > kDeepestJson)
        throw Refused{fmt::format("nests more than {} levels deep", kDeepestJson)};
    tinygltf::Model model;
    std::string problem;
    if (!load(model, file, bytes, problem)) {
        problem = problem.substr(0, problem.find('\n'));
        while (problem.ends_with('.')) problem.pop_back();
        throw Refused{fmt::format("cannot be read as glTF: {}", problem.empty() ? "it is damaged" : problem)};
    }
    return model;
}

Result<Mesh> readMesh(const fs::path& file) {
    if (const std::string why = whyUnreadable(file); !why.empty())
        return Error{"mesh.missing", fmt::format("{} {}. Bring the file back, or relocate the mesh.", file.string(), why), {}};
    try {
        Mesh mesh = meshOf(modelOf(file));
        if (mesh.indices.empty())
            return Error{"mesh.empty", fmt::format("{} holds no triangles. Export a mesh with faces.", file.string()), {}};
        return mesh;
    } catch (const Refused& refused) {
        return Error{"mesh.unreadable", fmt::format("{} {}. Export it again.", file.string(), refused.why), {}};
    }
}

Outcome writeMesh(const fs::path& file, const Mesh& mesh) {
    GltfWriter writer;
    writer.addMesh(mesh, file.stem().string(), writer.addSlotMaterials(mesh));
    return writer.write(file);
}

} // namespace hue
