#pragma once
// A GLB taken apart by the words of the standard (glTF 2.0, 4.4 and 3.6), for tests that must not trust the reader they test.
#include <array>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

namespace hue::test {

class Glb {
  public:
    explicit Glb(const std::filesystem::path& file) {
        std::ifstream in(file, std::ios::binary);
        m_all.assign(std::istreambuf_iterator<char>(in), {});
        uint32_t length = 0;
        std::memcpy(&length, m_all.data() + 12, 4);
        json = nlohmann::json::parse(m_all.substr(20, length));
        m_data = m_all.data() + 20 + length + 8;
    }
    nlohmann::json json;

    bool has(const char* attribute) const { return first()["attributes"].contains(attribute); }
    int componentType(const char* attribute) const { return accessor(attribute)["componentType"]; }
    /// Of the first primitive: floats, or steps of which the largest is 1.
    std::vector<std::array<float, 4>> colors(const char* attribute) const {
        const auto& a = accessor(attribute);
        const auto& view = json["bufferViews"][a["bufferView"].get<size_t>()];
        const int type = a["componentType"];
        const size_t size = type == 5126 ? 4 : type == 5123 ? 2 : 1, stride = view.value("byteStride", 4 * size);
        const char* from = m_data + view.value("byteOffset", 0) + a.value("byteOffset", 0);
        std::vector<std::array<float, 4>> out(a["count"].get<size_t>());
        for (size_t v = 0; v < out.size(); ++v)
            for (size_t c = 0; c < 4; ++c) {
                const char* at = from + v * stride + c * size;
                uint16_t step = 0;
                if (type == 5126) std::memcpy(&out[v][c], at, 4);
                else std::memcpy(&step, at, size), out[v][c] = float(step) / (type == 5123 ? 65535.f : 255.f);
            }
        return out;
    }

    /// The file of a picture, which lies in the same GLB.
    std::string picture(size_t texture) const {
        const auto& image = json["images"][json["textures"][texture]["source"].get<size_t>()];
        const auto& view = json["bufferViews"][image["bufferView"].get<size_t>()];
        return {m_data + view.value("byteOffset", 0), view["byteLength"].get<size_t>()};
    }

  private:
    const nlohmann::json& first() const { return json["meshes"][0]["primitives"][0]; }
    const nlohmann::json& accessor(const char* attribute) const {
        return json["accessors"][first()["attributes"][attribute].get<size_t>()];
    }
    std::string m_all;
    const char* m_data = nullptr;
};

} // namespace hue::test
