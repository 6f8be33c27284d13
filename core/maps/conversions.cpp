#include "core/maps/conversions.h"

namespace hue {

std::span<const ConversionDef> conversions() {
    using C = Conversion;
    static const ConversionDef all[] = {
        {C::FlipGreen, "flip-green", "flip green", "Green up becomes green down, and back.", "flipped", MapKind::Normal, "normal", true},
        {C::Renormalise, "renormalise", "renormalise", "Every vector gets length 1 and looks out of the surface.", "renormalised",
         MapKind::Normal, "normal", true},
        {C::RebuildZ, "rebuild-z", "rebuild Z", "Blue is made anew from red and green.", "rebuilt", MapKind::Normal, "normal", true},
        {C::Strength, "strength", "strength", "Slopes are multiplied; 0 is flat.", "strength", MapKind::Normal, "normal", true, true},
        {C::Join, "join", "join with", "The other normal map lies on this one as its detail.", "joined", MapKind::Normal, "normal", true,
         false, false, false, true},
        {C::FromHeight, "from-height", "normals from height", "By the size that the map covers and its depth.", "normal", MapKind::Normal,
         "normal", false, false, true, true},
        {C::ToHeight, "to-height", "height from normals", "The height whose slopes fit the normals best; 16 bits.", "height",
         MapKind::Height, "height", true, false, true},
        {C::Occlusion, "occlusion", "occlusion from height", "How much of the sky each point sees.", "occlusion", MapKind::Data,
         "occlusion", false, false, true, true},
        {C::Curvature, "curvature", "curvature from height", "Light on ridges, dark in hollows, grey where flat.", "curvature",
         MapKind::Data, "mask", false, false, true, true},
    };
    return all;
}

const ConversionDef& conversionDef(Conversion what) { return conversions()[size_t(what)]; }

const ConversionDef* findConversion(std::string_view key) {
    for (const ConversionDef& c : conversions())
        if (c.key == key) return &c;
    return nullptr;
}

Result<Image> convert(Conversion what, const Image& image, const ConversionSettings& s) {
    if (conversionDef(what).fromNormals && image.channels < 2)
        return Error{"convert.channels", "This map has one channel, so it holds no normals. Choose a normal map.", {}};
    switch (what) {
    case Conversion::FlipGreen: return flippedGreen(image);
    case Conversion::Renormalise: return renormalised(image);
    case Conversion::RebuildZ: return renormalised(image, true);
    case Conversion::Strength: return withStrength(image, s.strength);
    case Conversion::Join: {
        if (!s.other) return Error{"convert.other", "There is no other normal map to join with. Bring one in.", {}};
        if (s.other->width == image.width && s.other->height == image.height) return joinedNormals(image, *s.other);
        return joinedNormals(image, renormalised(resized(*s.other, image.width, image.height, Filter::Triangle)));
    }
    case Conversion::FromHeight:
        return normalsFromHeight(planeOf(image, 0), s.scale, image.type == SampleType::U8 ? SampleType::U8 : SampleType::U16);
    case Conversion::ToHeight: return imageOf({heightFromNormals(image, s.scale.width)}, SampleType::U16);
    case Conversion::Occlusion: return imageOf({occlusionFromHeight(planeOf(image, 0), s.scale)}, SampleType::U8);
    case Conversion::Curvature: return imageOf({curvatureFromHeight(planeOf(image, 0), s.scale)}, SampleType::U8);
    }
    return image;
}

Conversion usualConversion(MapKind kind) { return kind == MapKind::Height ? Conversion::FromHeight : Conversion::FlipGreen; }

} // namespace hue
