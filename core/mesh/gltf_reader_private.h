#pragma once
// The inside of the readers of glTF: a file taken apart, and its numbers with every range checked. Not for use elsewhere.
// Threads: any. Nothing is kept between calls.
#include "core/mesh/mesh.h"

#include <cstring>
#include <fmt/format.h>
#include <string_view>
#include <tiny_gltf.h>

namespace hue {

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

/// The JSON of a GLB (glTF 2.0, 4.4): header of 12 bytes, then a chunk of length, type and content; empty when there is none.
std::string_view jsonOfGlb(std::string_view bytes);

/// A glTF or GLB file taken apart, with its buffers and without its pictures. Throws Refused.
tinygltf::Model modelOf(const std::filesystem::path& file);
/// All that belongs to meshes in the scene, in the space of the world. Throws Refused.
Mesh meshOf(const tinygltf::Model& model);

} // namespace hue
