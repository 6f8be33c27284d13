// What a map seems to be, by its name and its pixels.
#include "core/maps/statistics.h"

#include <algorithm>
#include <cctype>
#include <fmt/format.h>

namespace hue {

const std::vector<Role>& roles() {
    static const std::vector<Role> list{"base color", "normal",  "height", "roughness", "metallic", "occlusion",
                                        "emissive",   "opacity", "gloss",  "specular",  "mask",     "packed"};
    return list;
}

MapKind kindOf(const Role& role) {
    if (role == "base color" || role == "emissive" || role == "specular") return MapKind::Color;
    if (role == "normal") return MapKind::Normal;
    if (role == "height") return MapKind::Height;
    return MapKind::Data;
}

std::vector<std::string> wordsOf(const std::string& name) {
    std::vector<std::string> words;
    const std::string stem =
        name.substr(0, name.find_last_of('.') == std::string::npos || name.find_last_of('.') == 0 ? name.size() : name.find_last_of('.'));
    bool lower = false;
    for (char raw : stem) {
        const auto c = static_cast<unsigned char>(raw);
        if (!std::isalnum(c)) {
            lower = false;
            words.emplace_back();
            continue;
        }
        // A capital behind a small letter starts a word.
        if (words.empty() || (std::isupper(c) && lower)) words.emplace_back();
        words.back() += char(std::tolower(c));
        lower = std::islower(c) || std::isdigit(c);
    }
    std::erase(words, std::string{});
    return words;
}

Guess guessOfName(const std::string& name) {
    // The trade's words and their short forms.
    static const std::pair<Role, std::vector<std::string_view>> known[] = {
        {"normal", {"normal", "normals", "nrm", "nor", "nml"}},
        {"packed", {"orm", "packed", "masks", "combined", "channels"}},
        {"roughness", {"roughness", "rough", "rgh"}},
        {"gloss", {"gloss", "glossiness", "smoothness"}},
        {"metallic", {"metallic", "metal", "metalness", "mtl"}},
        {"occlusion", {"occlusion", "ao", "ambient", "cavity"}},
        {"height", {"height", "displacement", "disp", "bump", "depth"}},
        {"emissive", {"emissive", "emission", "glow", "emit"}},
        {"specular", {"specular", "spec"}},
        {"opacity", {"opacity", "alpha", "transparency"}},
        {"mask", {"mask", "letters"}},
        {"base color", {"color", "colour", "albedo", "diffuse", "basecolor", "diff", "col"}},
    };
    const std::vector<std::string> words = wordsOf(name);
    // The last word that tells is meant: "metal_plate_color" is a color.
    for (size_t i = words.size(); i-- > 0;)
        for (const auto& [role, list] : known)
            if (std::find(list.begin(), list.end(), words[i]) != list.end())
                return {kindOf(role), role, fmt::format("Its name says {}.", words[i]), true};
    return {MapKind::Color, {}, {}, false};
}

namespace {

bool looksLikeNormals(const MapFacts& f) {
    return f.channels >= 3 && !f.grey && f.normals.unitShare > 0.8f && f.normals.meanZ > 0.6f && f.normals.awayShare < 0.02f &&
           std::abs(f.channel[0].mean - 0.5f) < 0.12f && std::abs(f.channel[1].mean - 0.5f) < 0.12f;
}

int percent(float share) { return int(share * 100 + 0.5f); }

} // namespace

Guess guessOf(const std::string& name, const MapFacts& f) {
    Guess g = guessOfName(name);
    const bool normals = looksLikeNormals(f);
    if (normals) {
        const bool agreed = g.role == "normal";
        const std::string pixels =
            fmt::format("{} % of its pixels are unit vectors that look out of the surface", percent(f.normals.unitShare));
        if (g.role.empty() || agreed)
            return {MapKind::Normal, "normal", agreed ? fmt::format("Its name says so, and {}.", pixels) : fmt::format("{}.", pixels),
                    true};
        return {MapKind::Normal, "normal", fmt::format("{} But {}.", g.reason, pixels), false};
    }
    if (g.role == "normal") {
        if (f.channels == 2) return g;
        return {MapKind::Normal, "normal",
                fmt::format("Its name says normal, but only {} % of its pixels are unit vectors.", percent(f.normals.unitShare)), false};
    }
    if (!g.role.empty()) {
        const bool grey = f.grey || f.channels < 3;
        if (g.role == "base color" && grey) g.reason += " It is grey all over.";
        if ((g.role == "roughness" || g.role == "metallic" || g.role == "occlusion" || g.role == "height") && !grey) {
            if (f.likeness < 0.5f) {
                g.reason += " Its channels hold different things, so it seems to be packed.";
                g.sure = false;
            } else {
                g.reason += " But it is colored.";
                g.sure = false;
            }
        }
        return g;
    }
    if (f.channels < 3 || f.grey) {
        if (f.type != SampleType::U8 && f.smoothness > 0.9f)
            return {MapKind::Height, "height", "It is grey, smooth and has more than 8 bits, as heights do.", false};
        const ChannelFacts& c = f.channel[0];
        if (c.levels <= 4 || c.share[0] + c.share[ChannelFacts::kBins - 1] > 0.9f)
            return {MapKind::Data, "mask", "It is black and white.", true};
        return {MapKind::Data, {}, "It is grey, so it holds one number.", false};
    }
    if (f.likeness < 0.35f)
        return {MapKind::Data, "packed", "Red, green and blue have little to do with each other, so they seem to be masks.", false};
    return {MapKind::Color, "base color", "It is colored, and its channels go together.", f.likeness > 0.7f};
}

WrongKind wrongKind(const std::string& name, const MapFacts& f, MapKind declared) {
    const Guess byName = guessOfName(name);
    if (declared != MapKind::Normal && looksLikeNormals(f))
        return {MapKind::Normal,
                declared == MapKind::Color
                    ? "It holds normals and is decoded as a color, which bends every one of them."
                    : "It holds normals and is read as plain data; as normals they are renormalised when they get smaller."};
    if (declared == MapKind::Normal && f.channels >= 3 && f.normals.unitShare < 0.25f)
        return {byName.role.empty() || byName.role == "normal" ? (f.grey ? MapKind::Height : MapKind::Color) : byName.kind,
                fmt::format("It is read as normals, but only {} % of its pixels are unit vectors.", percent(f.normals.unitShare))};
    // A packed map may well have its colors sRGB-encoded.
    if (declared == MapKind::Color && !byName.role.empty() && byName.role != "packed" && byName.kind != MapKind::Color)
        return {byName.kind, fmt::format("It is decoded as a color, which bends its values. {}", byName.reason)};
    if ((declared == MapKind::Data || declared == MapKind::Height) && byName.role == "base color" && f.channels >= 3 && !f.grey)
        return {MapKind::Color, fmt::format("It is a color that is read as data, so it shows too bright. {}", byName.reason)};
    return {declared, {}};
}

std::vector<MapRemark> remarksOn(const MapFacts& f, MapKind kind) {
    std::vector<MapRemark> out;
    static constexpr std::string_view names[] = {"Red", "Green", "Blue", "Alpha"};
    auto nameOfChannel = [&](int c) { return f.channels == 2 && c == 1 ? names[3] : f.channels < 3 ? std::string_view("Grey") : names[c]; };
    const bool spread = f.grey && f.channels >= 3;
    if (spread)
        out.push_back(
            {"grey.spread", "Red, green and blue are the same everywhere: one channel would carry as much in a third of the memory."});
    for (int c = 0; c < f.channels; ++c) {
        const ChannelFacts& k = f.channel[size_t(c)];
        if (spread && (c == 1 || c == 2)) continue;
        const std::string_view who = spread && c == 0 ? std::string_view("Grey") : nameOfChannel(c);
        if (k.broken)
            out.push_back({"value.broken", fmt::format("{} has {} values that are NaN or infinite. They break what is computed from them.",
                                                       who, k.broken)});
        // Of a color no channel can be left out; only when all of them stay is there nothing to show.
        const bool ofColor = kind == MapKind::Color && f.channels >= 3 && c < 3 && !spread;
        if (ofColor && k.constant()) {
            const bool all = f.channel[0].constant() && f.channel[1].constant() && f.channel[2].constant();
            if (all && c == 0)
                out.push_back({"color.constant", "The color is the same everywhere: a constant card carries as much and needs no memory."});
            continue;
        }
        if (k.constant()) {
            out.push_back({c == 3 || (f.channels == 2 && c == 1) ? "alpha.full" : "channel.constant",
                           fmt::format("{} is {:.3g} everywhere: it costs memory and carries nothing.", who, k.least)});
            continue;
        }
        const int possible = f.type == SampleType::U8 ? 256 : 65536;
        const double texels = double(f.width) * f.height;
        if (f.type == SampleType::U16 && k.levels <= 256 && texels > 1024)
            out.push_back({"levels.few",
                           fmt::format("{} of this 16-bit map uses {} levels: 8 bits would carry as much, and steps will show in normals.",
                                       who, k.levels)});
        else if (kind == MapKind::Height && f.type == SampleType::U8 && k.levels < 64 && k.levels > 4 && k.most - k.least > 0.2f &&
                 texels > 4096)
            out.push_back(
                {"levels.few", fmt::format("{} uses {} of {} levels between {:.2f} and {:.2f}: steps will show in normals made from it.",
                                           who, k.levels, possible, k.least, k.most)});
    }
    if (kind == MapKind::Normal && f.channels >= 3) {
        const NormalFacts& n = f.normals;
        if (n.unitShare < 0.95f)
            out.push_back(
                {"normal.length", fmt::format("Only {} % of its vectors have length 1 (from {:.2f} to {:.2f}). Renormalise mends that.",
                                              percent(n.unitShare), n.shortest, n.longest)});
        if (n.awayShare > 0)
            out.push_back({"normal.away", fmt::format("{:.2g} % of its vectors look into the surface.", n.awayShare * 100)});
        if (n.green == GreenConvention::Down)
            out.push_back({"green.down", fmt::format("Its green points down (evidence {:.2f}). Flip green, or choose down at Normal map.",
                                                     -n.greenEvidence)});
    }
    return out;
}

} // namespace hue
