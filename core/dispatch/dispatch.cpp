#include "core/dispatch/dispatch.h"

#include "core/image_files/picture_file.h"
#include "core/mesh/gltf_writer_private.h"
#include "core/surface/channels.h"

#include <algorithm>
#include <fmt/format.h>
#include <map>

namespace hue {

namespace {

/// Of baked maps, which the file holds then.
Result<int> addMaterial(GltfWriter& writer, DispatchReport& report, const BakedSet& set, const std::string& name, int uvSet = 0) {
    std::map<std::string_view, int> textures;
    for (const BakedMap* map : set.read()) {
        const std::vector<unsigned char> png = encodePng(map->picture, map->encoding);
        report.lines.push_back(
            fmt::format("{} {} x {}, {:.2f} MB as PNG", map->name, map->picture.width, map->picture.height, double(png.size()) / 1e6));
        const Result<int> texture = writer.addTexture(map->name, png);
        if (!texture) return texture.error();
        textures[map->name] = *texture;
    }
    const auto read = [&](auto& info, std::string_view map) {
        if (const auto at = textures.find(map); at != textures.end()) info.index = at->second, info.texCoord = uvSet;
    };
    tinygltf::Material m;
    m.name = name;
    m.doubleSided = set.surface.doubleSided;
    m.alphaMode = set.surface.alphaMode == AlphaMode::Mask ? "MASK" : set.surface.alphaMode == AlphaMode::Blend ? "BLEND" : "OPAQUE";
    if (set.surface.alphaMode == AlphaMode::Mask) m.alphaCutoff = set.surface.alphaCutoff;
    m.pbrMetallicRoughness.baseColorFactor = {1, 1, 1, 1};
    m.pbrMetallicRoughness.metallicFactor = set.surface.unlit ? 0 : 1;
    m.pbrMetallicRoughness.roughnessFactor = 1;
    read(m.pbrMetallicRoughness.baseColorTexture, "base_color");
    read(m.pbrMetallicRoughness.metallicRoughnessTexture, "occlusion_roughness_metallic");
    read(m.occlusionTexture, "occlusion_roughness_metallic");
    read(m.normalTexture, "normal");
    read(m.emissiveTexture, "emissive");
    if (set.surface.unlit) {
        m.extensions["KHR_materials_unlit"] = tinygltf::Value(tinygltf::Value::Object{});
        writer.useExtension("KHR_materials_unlit");
    }
    if (m.emissiveTexture.index >= 0) {
        m.emissiveFactor = {1, 1, 1};
        if (set.emissiveStrength > 1) {
            tinygltf::Value::Object strength;
            strength["emissiveStrength"] = tinygltf::Value(double(set.emissiveStrength));
            m.extensions["KHR_materials_emissive_strength"] = tinygltf::Value(strength);
            writer.useExtension("KHR_materials_emissive_strength");
        }
    }
    return writer.addMaterial(m);
}

/// Adds the mesh with a material for each slot, and writes the file.
Outcome finish(GltfWriter& writer, DispatchReport& report, const Mesh& mesh, const std::string& name, const std::vector<int>& materials,
               const BakedSet& first, const std::filesystem::path& file) {
    // Vertex colors multiply base color in glTF; here they are masks that the maps already hold.
    Mesh plain = mesh;
    if (plain.hasColors) {
        plain.hasColors = false;
        report.cautions.push_back("The mesh's vertex colors are not written: glTF would multiply them into the base color.");
    }
    writer.addMesh(plain, name, materials);
    if (Outcome o = writer.write(file); !o) return o.error();
    report.lines.push_back(fmt::format("{} triangles in {} {}, alpha {}{}", mesh.indices.size() / 3, mesh.slots.size(),
                                       mesh.slots.size() == 1 ? "slot" : "slots", nameOf(first.surface.alphaMode),
                                       first.surface.doubleSided ? ", double sided" : ""));
    std::error_code none;
    report.lines.push_back(fmt::format("{}, {:.2f} MB", file.string(), double(std::filesystem::file_size(file, none)) / 1e6));
    return Done{};
}

std::string nameOfMesh(const Project& project, const Id& mesh) {
    return project.mesh(mesh) ? project.mesh(mesh)->name : mesh.substr(mesh.find(':') + 1);
}

} // namespace

Outcome canBeDispatched(const std::filesystem::path& file) {
    if (file.extension() == ".glb") return Done{};
    return Error{"dispatch.suffix",
                 fmt::format("{} would not be found by its suffix: what is written is a GLB. Let the name end in .glb.", file.string()),
                 {}};
}

Result<DispatchReport> dispatchGlb(const Project& project, Assets& assets, const BakeRequest& request, const Id& meshId,
                                   const std::filesystem::path& file) {
    if (const Outcome glb = canBeDispatched(file); !glb) return glb.error();
    std::string problem;
    const MeshPtr mesh = assets.mesh(project, meshId, &problem);
    if (!problem.empty()) return Error{"mesh.cannot-use", problem, {}};
    Result<BakedSet> baked = bake(project, assets, request);
    if (!baked) return baked.error();
    const BakedSet& set = *baked;

    GltfWriter writer;
    DispatchReport report;
    report.cautions = set.cautions;
    report.invalid = set.invalid();
    const Result<int> material = addMaterial(writer, report, set, project.nameOf(request.worn));
    if (!material) return material.error();
    if (mesh->slots.size() > 1)
        report.cautions.push_back(fmt::format("All {} slots of the mesh get this one material.", mesh->slots.size()));
    // A file holds the maps once; where the mesh asks for more of them they are repeated.
    const auto leaves = [](const Vertex& v) {
        return v.uv0[0] < -1e-3f || v.uv0[0] > 1 + 1e-3f || v.uv0[1] < -1e-3f || v.uv0[1] > 1 + 1e-3f;
    };
    if (std::any_of(mesh->vertices.begin(), mesh->vertices.end(), leaves) && !set.repeats)
        report.cautions.push_back("The mesh's UVs leave the range of 0 to 1, and the surface is not the same there: the baked maps repeat "
                                  "what they hold within it.");
    const std::vector<int> materials(mesh->slots.size(), *material);
    if (Outcome o = finish(writer, report, *mesh, nameOfMesh(project, meshId), materials, set, file); !o) return o.error();
    return report;
}

Result<DispatchReport> dispatchSpecimen(const Project& project, Assets& assets, const Specimen& specimen,
                                        const SpecimenBakeRequest& request, const std::filesystem::path& file) {
    if (const Outcome glb = canBeDispatched(file); !glb) return glb.error();
    const Result<BakedSpecimen> baked = bakeSpecimen(project, assets, specimen, request);
    if (!baked) return baked.error();
    GltfWriter writer;
    DispatchReport report;
    report.cautions = baked->cautions();
    report.invalid = baked->invalid();
    std::vector<int> materials;
    for (const BakedSlot& slot : baked->slots) {
        const Result<int> material =
            addMaterial(writer, report, slot.set, fmt::format("{}, {}", slot.name, project.nameOf(slot.worn)), baked->uvSet);
        if (!material) return material.error();
        materials.push_back(*material);
    }
    if (Outcome o = finish(writer, report, *baked->mesh, nameOfMesh(project, specimen.mesh), materials, baked->slots[0].set, file); !o)
        return o.error();
    return report;
}

Result<DispatchReport> dispatchDecals(const Project& project, const DecalAtlas& atlas, const std::filesystem::path& file) {
    if (const Outcome glb = canBeDispatched(file); !glb) return glb.error();
    GltfWriter writer;
    DispatchReport report;
    report.lines = linesOf(project, atlas);
    report.cautions = atlas.set.cautions;
    report.invalid = atlas.set.invalid();
    const Result<int> material = addMaterial(writer, report, atlas.set, "Decals");
    if (!material) return material.error();
    if (Outcome o = finish(writer, report, atlas.mesh, "Decals", {*material}, atlas.set, file); !o) return o.error();
    return report;
}

std::vector<std::string> linesOf(const Project& project, const DecalAtlas& atlas) {
    const auto megabytes = [](size_t bytes) { return fmt::format("{:.2f} MB", double(bytes) / 1e6); };
    std::vector<std::string> out;
    for (const AtlasPicture& p : atlas.pictures)
        out.push_back(fmt::format("{} at {}, {}, {} x {}", project.nameOf(p.worn), p.place.x, p.place.y, p.place.width, p.place.height));
    out.push_back(fmt::format("{} {} with {} {} in one material, {:.0f} pixels per metre; in levels 1 to {} none reaches into another",
                              atlas.decals, atlas.decals == 1 ? "decal" : "decals", atlas.pictures.size(),
                              atlas.pictures.size() == 1 ? "picture" : "pictures", atlas.perMetre, atlas.cleanLevels));
    const size_t together = atlas.set.read().size();
    out.push_back(fmt::format("on the card: {} {} that they read apart, {}; {} {} together, {} as plain pixels, {} as BC7", atlas.mapsApart,
                              atlas.mapsApart == 1 ? "map" : "maps", megabytes(atlas.bytesApart), together, together == 1 ? "map" : "maps",
                              megabytes(atlas.bytesTogether), megabytes(atlas.bytesInBlocks)));
    return out;
}

} // namespace hue
