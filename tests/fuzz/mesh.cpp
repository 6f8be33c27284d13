// Any bytes as a GLB; the JSON of one is changed as a tree, its chunks kept right.
#include "core/mesh/mesh.h"
#include "tests/fuzz/fuzz.h"

#include <cmath>
#include <cstring>
#include <fstream>
#include <unistd.h>

using namespace hue;

namespace {

uint32_t wordAt(const std::string& s, size_t at) {
    uint32_t x = 0;
    if (at + 4 <= s.size()) std::memcpy(&x, s.data() + at, 4);
    return x;
}

const std::string& file() {
    static const std::string name = "/dev/shm/huestack-fuzz-" + std::to_string(::getpid()) + ".glb";
    return name;
}

} // namespace

extern "C" size_t LLVMFuzzerCustomMutator(uint8_t* data, size_t size, size_t room, unsigned seed) {
    const std::string glb = fuzz::textOf(data, size);
    if (seed % 4 && size > 20 && glb.starts_with("glTF")) {
        const size_t length = std::min<size_t>(wordAt(glb, 12), size - 20);
        nlohmann::json tree = nlohmann::json::parse(glb.substr(20, length), nullptr, false);
        if (!tree.is_discarded()) {
            std::mt19937 random(seed);
            for (unsigned k = 0; k <= seed % 3; ++k) fuzz::changeSomewhere(tree, random);
            std::string text = tree.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
            text.resize((text.size() + 3) / 4 * 4, ' ');
            std::string out = glb.substr(0, 12);
            const auto words = uint32_t(text.size());
            out.append(reinterpret_cast<const char*>(&words), 4).append("JSON").append(text).append(glb.substr(20 + length));
            const auto whole = uint32_t(out.size());
            std::memcpy(out.data() + 8, &whole, 4);
            if (out.size() <= room) {
                std::copy(out.begin(), out.end(), data);
                return out.size();
            }
        }
    }
    return LLVMFuzzerMutate(data, size, room);
}

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
    std::ofstream(file(), std::ios::binary).write(reinterpret_cast<const char*>(data), std::streamsize(size));
    const Result<Mesh> mesh = readMesh(file());
    if (!mesh) {
        fuzz::isReason(mesh.error());
        return 0;
    }
    if (mesh->slots.empty() || mesh->indices.size() % 3) std::abort();
    for (uint32_t i : mesh->indices)
        if (i >= mesh->vertices.size()) std::abort();
    for (const Vertex& v : mesh->vertices)
        for (float x : {v.position[0], v.normal[0], v.tangent[0], v.uv0[0], v.uv1[1], v.color[3]})
            if (!std::isfinite(x)) std::abort();
    return 0;
}
