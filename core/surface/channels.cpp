#include "core/surface/channels.h"

#include <algorithm>
#include <fmt/format.h>

namespace hue {
namespace {

constexpr uint32_t bit(Layer layer) { return uint32_t(layer); }

} // namespace

std::span<const ChannelDef> channels() {
    using V = Value;
    static const ChannelDef all[] = {
        {"base_color", "Base color", 3, Meaning::Color, V::vec3(0.6f, 0.6f, 0.6f), 0, 1,
         "Color of a dielectric's body, or of a metal's reflection"},
        {"metallic", "Metallic", 1, Meaning::Number, V::number(0), 0, 1, "0 for dielectrics, 1 for metals; between only at soft borders"},
        {"roughness", "Roughness", 1, Meaning::Number, V::number(0.5f), 0, 1, "0 mirrors, 1 scatters all around"},
        {"normal", "Normal", 3, Meaning::Normal, V::vec3(0, 0, 1), -1, 1,
         "World-space normal, from a Normal map; the mesh's own when nothing is wired"},
        {"occlusion", "Occlusion", 1, Meaning::Number, V::number(1), 0, 1, "How much of the surrounding light arrives; 1 is all"},
        {"emissive",
         "Emissive",
         3,
         Meaning::Color,
         V::vec3(0, 0, 0),
         0,
         1e4f,
         "Color of the light that the surface gives off; above 1 it glows",
         0,
         {},
         1},
        {"emissive_strength",
         "Emissive strength",
         1,
         Meaning::Number,
         V::number(1),
         0,
         1e4f,
         "Multiplies emissive; above 1 it glows",
         0,
         {},
         20},
        {"alpha", "Alpha", 1, Meaning::Number, V::number(1), 0, 1, "Coverage; used by the alpha modes mask and blend"},
        {"vertex_offset", "Vertex offset", 3, Meaning::Vector, V::vec3(0, 0, 0), -1e3f, 1e3f,
         "Moves the vertices, in object space; normals follow", 0, "m", 1},
        {"ior",
         "Index of refraction",
         1,
         Meaning::Number,
         V::number(1.5f),
         1,
         4,
         "How strongly light bends: air 1, water 1.33, glass 1.5; sets the reflection seen face-on",
         bit(Layer::Reflection),
         {},
         3},
        {"specular", "Specular", 1, Meaning::Number, V::number(1), 0, 1, "Strength of a dielectric's reflection; 1 is what the index gives",
         bit(Layer::Reflection)},
        {"specular_color", "Specular color", 3, Meaning::Color, V::vec3(1, 1, 1), 0, 1, "Tints a dielectric's reflection seen face-on",
         bit(Layer::Reflection)},
        {"clearcoat", "Clearcoat", 1, Meaning::Number, V::number(0), 0, 1, "Coverage of the clear coat", bit(Layer::Coat)},
        {"clearcoat_roughness", "Clearcoat roughness", 1, Meaning::Number, V::number(0.05f), 0, 1, "Roughness of the coat alone",
         bit(Layer::Coat)},
        {"clearcoat_normal", "Clearcoat normal", 3, Meaning::Normal, V::vec3(0, 0, 1), -1, 1,
         "World-space normal of the coat; the mesh's own when nothing is wired, so a coat fills what lies below", bit(Layer::Coat)},
        {"sheen", "Sheen", 1, Meaning::Number, V::number(1), 0, 1, "How much fuzz there is; its color is multiplied by it",
         bit(Layer::Sheen)},
        {"sheen_color", "Sheen color", 3, Meaning::Color, V::vec3(0, 0, 0), 0, 1, "Color of the fuzz, brightest at the outline",
         bit(Layer::Sheen)},
        {"sheen_roughness", "Sheen roughness", 1, Meaning::Number, V::number(0.5f), 0, 1,
         "How far the fuzz spreads from the outline over the face", bit(Layer::Sheen)},
        {"iridescence", "Iridescence", 1, Meaning::Number, V::number(0), 0, 1, "Coverage of the thin film", bit(Layer::Film)},
        {"iridescence_ior",
         "Film index",
         1,
         Meaning::Number,
         V::number(1.3f),
         1,
         4,
         "Index of refraction of the film",
         bit(Layer::Film),
         {},
         3},
        {"iridescence_thickness", "Film thickness", 1, Meaning::Number, V::number(400), 0, 2000,
         "Thickness of the film; 100 to 600 nm gives the strongest colors", bit(Layer::Film), "nm", 1000},
        {"anisotropy", "Anisotropy", 1, Meaning::Number, V::number(0), 0, 1, "How much highlights are stretched", bit(Layer::Anisotropy)},
        {"anisotropy_rotation", "Anisotropy rotation", 1, Meaning::Number, V::number(0), -1e4f, 1e4f,
         "Direction of the stretch, counter-clockwise from the tangent", bit(Layer::Anisotropy), "rad", 6.2831853f},
        {"transmission", "Transmission", 1, Meaning::Number, V::number(0), 0, 1, "How much light passes through instead of being scattered",
         bit(Layer::Transmission)},
        {"thickness", "Thickness", 1, Meaning::Number, V::number(0.1f), 0, 1e4f, "Of the volume beneath the surface", bit(Layer::Volume),
         "m", 2},
        {"attenuation_color", "Attenuation color", 3, Meaning::Color, V::vec3(1, 1, 1), 0, 1,
         "What white light has become after the attenuation distance", bit(Layer::Volume)},
        {"attenuation_distance", "Attenuation distance", 1, Meaning::Number, V::number(1), 1e-4f, 1e6f,
         "How far light travels inside until it has the attenuation color", bit(Layer::Volume), "m", 2},
        {"dispersion",
         "Dispersion",
         1,
         Meaning::Number,
         V::number(0),
         0,
         20,
         "Spreads refraction into colors: 20 divided by the Abbe number; glass 0.3, diamond 0.36",
         bit(Layer::Volume),
         {},
         2},
    };
    return all;
}

const ChannelDef* findChannel(std::string_view key) {
    std::string wanted(key);
    std::replace(wanted.begin(), wanted.end(), '-', '_');
    for (const ChannelDef& c : channels())
        if (c.key == wanted) return &c;
    return nullptr;
}

std::span<const LayerDef> layers() {
    static constexpr LayerDef all[] = {
        {Layer::Reflection, "reflection", "Reflection", "Index of refraction, strength and tint of the reflection"},
        {Layer::Coat, "coat", "Clear coat", "A second, clear reflection over everything"},
        {Layer::Sheen, "sheen", "Sheen", "The fuzz of cloth"},
        {Layer::Film, "film", "Thin film", "Colors of interference, as on soap, oil and tempered steel"},
        {Layer::Anisotropy, "anisotropy", "Anisotropy", "Highlights stretched along a direction, as on brushed metal"},
        {Layer::Transmission, "transmission", "Transmission", "Light passes through; alone it makes a thin wall"},
        {Layer::Volume, "volume", "Volume", "With transmission: a solid body that bends and absorbs light"},
    };
    return all;
}

bool isCompiled(const ChannelDef& channel, const SurfaceSettings& s) {
    return channel.layer == 0 || (s.layers & channel.layer) == channel.layer;
}

std::span<const SurfaceKind> surfaceKinds() {
    using L = Layer;
    static const std::vector<SurfaceKind> all = {
        {"plain", "Plain", "Stone, wood, paint, plastic, metal", 0},
        {"coated",
         "Coated",
         "Lacquer or enamel under a clear coat",
         bit(L::Reflection) | bit(L::Coat),
         false,
         false,
         {{"clearcoat", Value::number(1)}}},
        {"cloth",
         "Cloth",
         "Felt, velvet, upholstery",
         bit(L::Sheen),
         false,
         false,
         {{"sheen_color", Value::vec3(0.35f, 0.35f, 0.35f)}, {"roughness", Value::number(0.9f)}}},
        {"brushed",
         "Brushed",
         "Metal with highlights stretched along a direction",
         bit(L::Anisotropy),
         false,
         false,
         {{"anisotropy", Value::number(0.6f)}, {"metallic", Value::number(1)}}},
        {"thin_glass",
         "Thin glass",
         "A pane: light passes without bending",
         bit(L::Reflection) | bit(L::Transmission),
         false,
         false,
         {{"transmission", Value::number(1)}, {"roughness", Value::number(0.02f)}, {"base_color", Value::vec3(1, 1, 1)}}},
        {"solid_glass",
         "Solid glass",
         "A lens, a bottle, ice: light bends and is absorbed inside",
         bit(L::Reflection) | bit(L::Transmission) | bit(L::Volume),
         false,
         false,
         {{"transmission", Value::number(1)}, {"roughness", Value::number(0.02f)}, {"base_color", Value::vec3(1, 1, 1)}}},
        {"film",
         "Film",
         "Soap, oil on water, tempered steel",
         bit(L::Reflection) | bit(L::Film),
         false,
         false,
         {{"iridescence", Value::number(1)}, {"roughness", Value::number(0.1f)}}},
        {"simple_diffuse", "Simple diffuse", "Scatters evenly, reflects nothing; the cheapest that light still changes", 0, false, true},
        {"unlit", "Unlit", "Shows its base color, whatever the light", 0, true, false},
        {"decal", "Decal", "Worn by decals: lies on other surfaces as far as its alpha says", 0, false, false, {}, true},
    };
    return all;
}

const SurfaceKind* kindOf(const SurfaceSettings& s) {
    for (const SurfaceKind& kind : surfaceKinds())
        if (kind.decal == s.decal && kind.unlit == s.unlit && kind.simpleDiffuse == s.simpleDiffuse && (s.decal || s.unlit || s.simpleDiffuse || kind.layers == s.layers))
            return &kind;
    return nullptr;
}

std::vector<std::string> announcement(const SurfaceKind& kind, const SurfaceSettings& before) {
    std::vector<std::string> out;
    for (const ChannelDef& c : channels())
        if (c.layer && (kind.layers & c.layer) && !(before.layers & c.layer)) {
            const float high = c.comfortable > 0 ? c.comfortable : c.high;
            out.push_back(fmt::format("{}, {:g} to {:g}{}{}: {}.", c.name, c.low, high, c.unit.empty() ? "" : " ", c.unit, c.help));
        }
    return out;
}

Value channelConstant(const Graph& graph, std::string_view channel) {
    const auto it = graph.channelConstants.find(std::string(channel));
    return it == graph.channelConstants.end() ? findChannel(channel)->standard : it->second;
}

std::string_view nameOf(AlphaMode mode) {
    switch (mode) {
    case AlphaMode::Opaque: return "opaque";
    case AlphaMode::Mask: return "mask";
    case AlphaMode::Blend: return "blend";
    }
    return "opaque";
}

} // namespace hue
