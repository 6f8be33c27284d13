#include "core/mesh/gltf_writer_private.h"

#include "core/base/files.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <fstream>

namespace hue {

GltfWriter::GltfWriter() {
    m_model.asset.version = "2.0";
    m_model.asset.generator = "Hue Stack";
    m_model.buffers.emplace_back();
    m_model.scenes.emplace_back();
    m_model.defaultScene = 0;
}

int GltfWriter::addView(const void* data, size_t bytes, int target, size_t stride) {
    auto& buffer = m_model.buffers[0].data;
    buffer.resize((buffer.size() + 3) / 4 * 4);
    tinygltf::BufferView view;
    view.buffer = 0;
    view.byteOffset = buffer.size();
    view.byteLength = bytes;
    view.byteStride = stride;
    view.target = target;
    const auto* from = static_cast<const unsigned char*>(data);
    buffer.insert(buffer.end(), from, from + bytes);
    m_model.bufferViews.push_back(view);
    return int(m_model.bufferViews.size()) - 1;
}

int GltfWriter::addAccessor(int view, size_t count, int type, int componentType) {
    tinygltf::Accessor a;
    a.bufferView = view;
    a.count = count;
    a.type = type;
    a.componentType = componentType;
    m_model.accessors.push_back(a);
    return int(m_model.accessors.size()) - 1;
}

int GltfWriter::addTexture(const std::string& name, const std::vector<unsigned char>& png) {
    if (m_model.samplers.empty()) {
        tinygltf::Sampler sampler;
        sampler.minFilter = TINYGLTF_TEXTURE_FILTER_LINEAR_MIPMAP_LINEAR;
        sampler.magFilter = TINYGLTF_TEXTURE_FILTER_LINEAR;
        m_model.samplers.push_back(sampler);
    }
    tinygltf::Image image;
    image.name = name;
    image.mimeType = "image/png";
    image.bufferView = addView(png.data(), png.size(), 0);
    m_model.images.push_back(image);
    tinygltf::Texture texture;
    texture.source = int(m_model.images.size()) - 1;
    texture.sampler = 0;
    m_model.textures.push_back(texture);
    return int(m_model.textures.size()) - 1;
}

int GltfWriter::addMaterial(const tinygltf::Material& material) {
    m_model.materials.push_back(material);
    return int(m_model.materials.size()) - 1;
}

std::vector<int> GltfWriter::addSlotMaterials(const Mesh& mesh) {
    std::vector<int> out;
    for (const MeshSlot& slot : mesh.slots) {
        tinygltf::Material m;
        m.name = slot.name;
        out.push_back(addMaterial(m));
    }
    return out;
}

void GltfWriter::useExtension(const std::string& name) {
    auto& used = m_model.extensionsUsed;
    if (std::find(used.begin(), used.end(), name) == used.end()) used.push_back(name);
}

void GltfWriter::setSteps(int bits, std::map<std::string, std::vector<float>> sets) {
    m_stepBits = bits;
    m_steps = std::move(sets);
}

int GltfWriter::addSteps(const std::vector<float>& values) {
    const auto put = [&]<class Step>(Step most, int componentType) {
        std::vector<Step> steps(values.size());
        for (size_t i = 0; i < values.size(); ++i) steps[i] = Step(std::lround(std::clamp(values[i], 0.f, 1.f) * float(most)));
        const int view = addView(steps.data(), steps.size() * sizeof(Step), TINYGLTF_TARGET_ARRAY_BUFFER, 4 * sizeof(Step));
        const int accessor = addAccessor(view, values.size() / 4, TINYGLTF_TYPE_VEC4, componentType);
        m_model.accessors[size_t(accessor)].normalized = true;
        return accessor;
    };
    return m_stepBits == 16 ? put(uint16_t(65535), TINYGLTF_COMPONENT_TYPE_UNSIGNED_SHORT)
                            : put(uint8_t(255), TINYGLTF_COMPONENT_TYPE_UNSIGNED_BYTE);
}

void GltfWriter::addMesh(const Mesh& mesh, const std::string& name, const std::vector<int>& materials, const tinygltf::Value& extras) {
    const size_t count = mesh.vertices.size();
    auto attribute = [&](auto member, size_t components, int type) {
        std::vector<float> flat;
        flat.reserve(count * components);
        for (const Vertex& v : mesh.vertices) flat.insert(flat.end(), (v.*member).begin(), (v.*member).end());
        const int view = addView(flat.data(), flat.size() * sizeof(float), TINYGLTF_TARGET_ARRAY_BUFFER, components * sizeof(float));
        return addAccessor(view, count, type, TINYGLTF_COMPONENT_TYPE_FLOAT);
    };
    std::map<std::string, int> attributes;
    attributes["POSITION"] = attribute(&Vertex::position, 3, TINYGLTF_TYPE_VEC3);
    const Bounds bounds = boundsOf(mesh);
    auto& position = m_model.accessors[size_t(attributes["POSITION"])];
    position.minValues.assign(bounds.low.begin(), bounds.low.end());
    position.maxValues.assign(bounds.high.begin(), bounds.high.end());
    attributes["NORMAL"] = attribute(&Vertex::normal, 3, TINYGLTF_TYPE_VEC3);
    attributes["TANGENT"] = attribute(&Vertex::tangent, 4, TINYGLTF_TYPE_VEC4);
    attributes["TEXCOORD_0"] = attribute(&Vertex::uv0, 2, TINYGLTF_TYPE_VEC2);
    if (mesh.hasUv1) attributes["TEXCOORD_1"] = attribute(&Vertex::uv1, 2, TINYGLTF_TYPE_VEC2);
    if (m_stepBits)
        for (const auto& [key, values] : m_steps) attributes[key] = addSteps(values);
    else {
        if (mesh.hasColors) attributes["COLOR_0"] = attribute(&Vertex::color, 4, TINYGLTF_TYPE_VEC4);
        if (mesh.hasColors && mesh.hasColors1) attributes["COLOR_1"] = attribute(&Vertex::color1, 4, TINYGLTF_TYPE_VEC4);
    }

    tinygltf::Mesh out;
    out.extras = extras;
    out.name = name;
    for (size_t s = 0; s < mesh.slots.size(); ++s) {
        const MeshSlot& slot = mesh.slots[s];
        const int view =
            addView(mesh.indices.data() + slot.firstIndex, slot.indexCount * sizeof(uint32_t), TINYGLTF_TARGET_ELEMENT_ARRAY_BUFFER);
        tinygltf::Primitive p;
        p.attributes = attributes;
        p.indices = addAccessor(view, slot.indexCount, TINYGLTF_TYPE_SCALAR, TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT);
        p.mode = TINYGLTF_MODE_TRIANGLES;
        p.material = s < materials.size() ? materials[s] : -1;
        out.primitives.push_back(p);
    }
    m_model.meshes.push_back(out);
    tinygltf::Node node;
    node.name = name;
    node.mesh = int(m_model.meshes.size()) - 1;
    m_model.nodes.push_back(node);
    m_model.scenes[0].nodes.push_back(int(m_model.nodes.size()) - 1);
}

Outcome GltfWriter::write(const std::filesystem::path& file) const {
    Result<NewFile> fresh = NewFile::create(file);
    if (!fresh) return fresh.error();
    std::ofstream out(fresh->temporary(), std::ios::binary);
    tinygltf::TinyGLTF writer;
    tinygltf::Model copy = m_model;
    const bool ok = out && writer.WriteGltfSceneToStream(&copy, out, false, true);
    out.close();
    if (!ok || !out) return fresh->failed();
    return fresh->keep();
}

} // namespace hue
