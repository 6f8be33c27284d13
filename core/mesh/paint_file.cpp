// Paint as glTF files.
#include "core/base/files.h"
#include "core/base/json_depth.h"
#include "core/base/json_text_private.h"
#include "core/mesh/gltf_reader_private.h"
#include "core/mesh/gltf_writer_private.h"
#include "core/mesh/paint_data.h"

#include <fstream>

namespace hue {
namespace {

namespace fs = std::filesystem;

constexpr const char* kPaint = "paint"; ///< in a mesh's extras: what is ours
/// Attributes of four planes each, in their order. Names of our own begin with an underscore (glTF 2.0, 3.7.2.1).
constexpr const char* kSets[] = {"COLOR_0", "COLOR_1", "_UNDER_0", "_UNDER_1"};
static_assert(4 * std::size(kSets) == PaintData::kPlanes);

/// Numbers of one color set, four a vertex, of all vertices of a node's mesh; empty where there are none.
std::vector<float> colorSet(const tinygltf::Model& model, const tinygltf::Primitive& p, const std::string& key, size_t vertices) {
    const auto found = p.attributes.find(key);
    if (found == p.attributes.end()) return {};
    const AccessorReader colors(model, found->second, "vertex colors", 3, 4);
    if (colors.count() != vertices) return {};
    std::vector<float> out(4 * vertices);
    for (size_t v = 0; v < vertices; ++v)
        for (int c = 0; c < 4; ++c) out[4 * v + size_t(c)] = c < colors.components() ? colors.number(v, c) : 1;
    return out;
}

/// Bits a step of what an accessor holds: 8, or 16 for all finer ones.
int bitsOf(const tinygltf::Model& model, const tinygltf::Primitive& p) {
    const auto found = p.attributes.find("COLOR_0");
    const bool bytes = found != p.attributes.end() && size_t(found->second) < model.accessors.size() &&
                       model.accessors[size_t(found->second)].componentType == TINYGLTF_COMPONENT_TYPE_UNSIGNED_BYTE;
    return bytes ? 8 : 16;
}

} // namespace

Outcome writePaint(const fs::path& file, const PaintData& paint, std::span<const std::string> names) {
    const Mesh& mesh = *paint.surface();
    GltfWriter writer;
    std::map<std::string, std::vector<float>> sets;
    for (size_t set = 0; set < std::size(kSets); ++set) {
        const auto isPainted = [&](int c) { return paint.isPainted(int(4 * set) + c); };
        if (set > 0 && !isPainted(0) && !isPainted(1) && !isPainted(2) && !isPainted(3)) continue;
        std::vector<float>& values = sets[kSets[set]];
        values.resize(4 * paint.vertices());
        for (int c = 0; c < 4; ++c) {
            const std::vector<float> channel = paint.channel(int(4 * set) + c);
            for (size_t v = 0; v < channel.size(); ++v) values[4 * v + size_t(c)] = channel[v];
        }
    }
    writer.setSteps(paint.bits(), std::move(sets));
    tinygltf::Value::Object ours{{"fingerprint", tinygltf::Value(paint.fingerprint())}, {"shape", tinygltf::Value(paint.shape())}};
    tinygltf::Value::Array channels;
    for (const std::string& name : names) channels.emplace_back(name);
    if (!channels.empty()) ours["channels"] = tinygltf::Value(std::move(channels));
    tinygltf::Value::Object extras{{kPaint, tinygltf::Value(std::move(ours))}};
    writer.addMesh(mesh, file.stem().string(), writer.addSlotMaterials(mesh), tinygltf::Value(std::move(extras)));
    return writer.write(file);
}

Result<PaintData> readPaint(const fs::path& file) {
    const auto refuse = [&](const std::string& why) {
        return Error{"paint.unreadable",
                     fmt::format("The paint in {} cannot be used: it {}. Bring the file back as it was, or paint anew under another name.",
                                 file.string(), why),
                     {}};
    };
    if (const std::string why = whyUnreadable(file); !why.empty()) return refuse(why);
    try {
        const tinygltf::Model model = modelOf(file);
        auto mesh = std::make_shared<Mesh>(meshOf(model));
        if (mesh->indices.empty()) return refuse("holds no triangles");
        // Of one mesh, whose primitives share their vertices; so writePaint() writes them.
        const tinygltf::Primitive* only =
            model.meshes.size() == 1 && !model.meshes[0].primitives.empty() ? &model.meshes[0].primitives[0] : nullptr;
        for (const tinygltf::Mesh& m : model.meshes)
            for (const tinygltf::Primitive& p : m.primitives)
                if (only && p.attributes != only->attributes) only = nullptr;
        PaintData out(mesh, only ? bitsOf(model, *only) : 16);
        for (int set = 0; set < int(std::size(kSets)); ++set) {
            std::vector<float> values = only ? colorSet(model, *only, kSets[set], mesh->vertices.size()) : std::vector<float>{};
            if (values.empty() && set == 0 && mesh->hasColors) {
                values.resize(4 * mesh->vertices.size());
                for (size_t v = 0; v < mesh->vertices.size(); ++v)
                    for (size_t c = 0; c < 4; ++c) values[4 * v + c] = mesh->vertices[v].color[c];
            }
            if (values.empty()) continue;
            std::vector<float> channel(mesh->vertices.size());
            for (int c = 0; c < 4; ++c) {
                for (size_t v = 0; v < channel.size(); ++v) channel[v] = values[4 * v + size_t(c)];
                out = out.with(4 * set + c, channel);
            }
        }
        return out;
    } catch (const Refused& refused) { return refuse(refused.why); }
}

std::string fingerprintOfPaintFile(const fs::path& file) {
    if (!whyUnreadable(file).empty()) return {};
    std::ifstream in(file, std::ios::binary);
    // glTF 2.0, 4.4: a header of 12 bytes, and the length and type of the first chunk, which is JSON.
    std::string head(20, 0);
    if (!in.read(head.data(), 20) || !head.starts_with("glTF")) return {};
    uint32_t length = 0;
    std::memcpy(&length, head.data() + 12, 4);
    constexpr uint32_t kMost = 1 << 20; // what writePaint() writes is far smaller
    if (length > kMost) return {};
    std::string text(length, 0);
    if (!in.read(text.data(), std::streamsize(length)) || depthOfJson(text) > kDeepestJson) return {};
    const Json json = Json::parse(text, nullptr, false);
    const Json::json_pointer there(fmt::format("/meshes/0/extras/{}/fingerprint", kPaint));
    return json.is_object() && json.contains(there) && json[there].is_string() ? json[there].get<std::string>() : std::string();
}

} // namespace hue
