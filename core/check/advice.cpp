#include "core/check/advice.h"

#include "core/base/diagnostic.h"
#include "core/check/loop_advice.h"
#include "core/edits/edits.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/catalogue.h"
#include "core/nodes/finish.h"
#include "core/surface/channels.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace hue {
namespace {

/// What can be known of a channel without evaluating: a constant, or the default of a parameter that is wired straight in.
std::optional<Value> knownValue(const Master& m, std::string_view channel) {
    const std::string key(channel);
    const ChannelDef* def = findChannel(key);
    if (std::find(m.graph.mutedChannels.begin(), m.graph.mutedChannels.end(), key) != m.graph.mutedChannels.end()) return def->standard;
    if (auto wire = m.graph.channelWires.find(key); wire != m.graph.channelWires.end()) {
        const Node* node = m.graph.find(wire->second.node);
        if (!node || !wire->second.take.empty()) return {};
        if (node->kind == "constant") {
            auto it = node->constants.find("value");
            return it == node->constants.end() ? Value::number(0) : it->second;
        }
        if (node->kind != "parameter") return {};
        auto setting = node->settings.find("parameter");
        const Parameter* p = setting == node->settings.end() ? nullptr : m.parameter(setting->second);
        return p && p->width() ? std::optional(p->standard.value) : std::nullopt;
    }
    if (feedsWhole(m.graph)) return {};
    auto it = m.graph.channelConstants.find(key);
    return it == m.graph.channelConstants.end() ? def->standard : it->second;
}

/// True when the channel is wired to something unknown or has a value above 0.
bool mayBeOn(const Master& m, std::string_view channel) {
    const auto v = knownValue(m, channel);
    if (!v) return true;
    for (int c = 0; c < v->width; ++c)
        if ((*v)[c] > 0) return true;
    return false;
}

float luminance(const Value& v) { return v.width < 3 ? v[0] : 0.2126f * v[0] + 0.7152f * v[1] + 0.0722f * v[2]; }

class Adviser {
  public:
    Adviser(const Project& project, const Master& master) : m_project(project), m(master), s(master.surface) {}

    std::vector<Diagnostic> run() {
        if (!s.unlit) {
            baseColor();
            layers();
            emissive();
            alpha();
        }
        meshes();
        return std::move(m_out);
    }

  private:
    const Project& m_project;
    const Master& m;
    const SurfaceSettings& s;
    std::vector<Diagnostic> m_out;

    void say(std::string code, std::string_view channel, std::string sentence, std::vector<Fix> fixes = {}) {
        if (silenced(code)) return;
        fixes.push_back(silence(code));
        m_out.push_back({Severity::Advice, std::move(code), {m.id, {}, std::string(channel)}, std::move(sentence), std::move(fixes)});
    }

    Fix silence(const std::string& code) const {
        return {fmt::format("Silence for {}", m.name),
                [master = m.id, code](const Project& p) { return edit::silenceAdvice(p, master, code, true); }};
    }
    bool silenced(std::string_view code) const {
        return std::find(m.silencedAdvice.begin(), m.silencedAdvice.end(), code) != m.silencedAdvice.end();
    }

    Fix set(std::string label, std::string_view channel, const Value& value) const {
        return {std::move(label), [master = m.id, key = std::string(channel), value](const Project& p) {
                    return edit::setChannelConstant(p, master, key, value);
                }};
    }
    Fix surface(std::string label, std::function<void(SurfaceSettings&)> change) const {
        return {std::move(label), [master = m.id, change = std::move(change)](const Project& p) {
                    SurfaceSettings next = p.master(master) ? p.master(master)->surface : SurfaceSettings{};
                    change(next);
                    return edit::setSurface(p, master, next);
                }};
    }

    void baseColor() {
        const auto color = knownValue(m, "base_color"), metallic = knownValue(m, "metallic");
        if (!color || !metallic) return;
        const float bright = luminance(*color);
        const bool clear = s.has(Layer::Transmission) && mayBeOn(m, "transmission");
        if ((*metallic)[0] >= 0.9f && bright < kDarkestMetal && bright > 0)
            say("advice.dark-metal", "base_color",
                fmt::format("The base color is darker ({:.2f}) than any clean metal reflects ({:.2f} and more). For dirt or rust, lower "
                            "metallic there instead.",
                            bright, kDarkestMetal));
        // What glows is seen by its glow, and what is not there is not seen at all.
        const bool glows = mayBeOn(m, "emissive") && mayBeOn(m, "emissive_strength");
        const auto alpha = knownValue(m, "alpha");
        const bool absent =
            s.alphaMode != AlphaMode::Opaque && alpha && (*alpha)[0] < (s.alphaMode == AlphaMode::Mask ? s.alphaCutoff : 0.01f);
        if ((*metallic)[0] <= 0.1f && !clear && !absent) {
            if (bright < kDarkestDielectric && glows) return halfMetal(*metallic);
            if (bright < kDarkestDielectric)
                say("advice.dark-base", "base_color",
                    fmt::format(
                        "The base color ({:.3f}) is darker than charcoal ({:.3f}), the darkest that is measured. It will look like a "
                        "hole under strong light.",
                        bright, kDarkestDielectric),
                    {set("Set to charcoal", "base_color", Value::vec3(kDarkestDielectric, kDarkestDielectric, kDarkestDielectric))});
            else if (bright > kBrightestDielectric)
                say("advice.bright-base", "base_color",
                    fmt::format("The base color ({:.2f}) is brighter than fresh snow ({:.2f}). It will glow next to everything else.",
                                bright, kBrightestDielectric),
                    {set("Set to fresh snow", "base_color",
                         Value::vec3(kBrightestDielectric, kBrightestDielectric, kBrightestDielectric))});
        }
        halfMetal(*metallic);
    }

    void halfMetal(const Value& metallic) {
        if (metallic[0] > 0.1f && metallic[0] < 0.9f)
            say("advice.half-metal", "metallic",
                fmt::format("Metallic is {:.2f} everywhere. Nothing is half a metal; use values between 0 and 1 only at soft borders.",
                            metallic[0]));
    }

    void layers() {
        if (s.has(Layer::Transmission) && mayBeOn(m, "transmission")) {
            const auto metallic = knownValue(m, "metallic");
            if (metallic && (*metallic)[0] > 0.05f)
                say("advice.metal-glass", "metallic", "Metals let no light through: where metallic is 1, transmission has no effect.",
                    {set("Set metallic to 0", "metallic", Value::number(0))});
            if (s.alphaMode == AlphaMode::Blend)
                say("advice.blend-and-transmission", "alpha",
                    "Blend makes the surface itself absent, reflections included; transmission alone is clear glass. Both together are "
                    "rarely "
                    "meant.",
                    {surface("Switch to opaque", [](SurfaceSettings& c) { c.alphaMode = AlphaMode::Opaque; })});
            const auto thickness = knownValue(m, "thickness");
            if (s.has(Layer::Volume) && thickness && (*thickness)[0] <= 0)
                say("advice.no-thickness", "thickness", "A solid of thickness 0 neither bends nor absorbs light.",
                    {set("Set thickness to 0.1 m", "thickness", Value::number(0.1f))});
        }
        if (s.has(Layer::Sheen) && s.has(Layer::Coat) && mayBeOn(m, "clearcoat") && mayBeOn(m, "sheen_color") && mayBeOn(m, "sheen"))
            say("advice.coated-cloth", "clearcoat", "A clear coat over cloth hides the fuzz that sheen shows.",
                {surface("Take the coat away", [](SurfaceSettings& c) { c.layers &= ~uint32_t(Layer::Coat); })});
        if (s.has(Layer::Anisotropy) && mayBeOn(m, "anisotropy"))
            if (const auto rough = knownValue(m, "roughness"); rough && (*rough)[0] < 0.08f)
                say("advice.smooth-brush", "anisotropy", "With a roughness this low the stretch of highlights hardly shows; try 0.3.",
                    {set("Set roughness to 0.3", "roughness", Value::number(0.3f))});
        if (const auto index = knownValue(m, "ior");
            s.has(Layer::Reflection) && index && ((*index)[0] > 2.5f || (*index)[0] < 1.2f) && (*index)[0] != 1)
            say("advice.odd-index", "ior",
                fmt::format("An index of refraction of {:.2f} is rare: water has 1.33, glass 1.5, sapphire 1.77, diamond 2.42.",
                            (*index)[0]),
                {set("Set to 1.5", "ior", Value::number(1.5f))});
    }

    void emissive() {
        const auto strength = knownValue(m, "emissive_strength");
        if (strength && (*strength)[0] == 0 && mayBeOn(m, "emissive"))
            say("advice.no-glow", "emissive_strength", "Emissive is multiplied by a strength of 0: nothing glows.",
                {set("Set strength to 1", "emissive_strength", Value::number(1))});
    }

    void alpha() {
        if (s.alphaMode == AlphaMode::Mask && !m.graph.channelWires.contains("alpha")) {
            const auto a = knownValue(m, "alpha");
            say("advice.mask-without-alpha", "alpha",
                fmt::format("The surface is cut out by alpha, and alpha is {:.2f} everywhere: {}.", a ? (*a)[0] : 1.f,
                            a && (*a)[0] < s.alphaCutoff ? "all of it is cut away" : "nothing is cut away"),
                {surface("Switch to opaque", [](SurfaceSettings& c) { c.alphaMode = AlphaMode::Opaque; })});
        }
        // A clear, smooth dielectric that fades away is glass in the making.
        const auto rough = knownValue(m, "roughness");
        constexpr float smooth = 0.25f;
        if (s.alphaMode == AlphaMode::Blend && s.has(Layer::Reflection) && !s.has(Layer::Transmission) && rough && (*rough)[0] <= smooth)
            say("advice.glass-by-alpha", "alpha",
                fmt::format(
                    "A smooth surface (roughness {:.2f}) with an index of refraction looks like glass, and blend makes its reflections "
                    "absent too. Let light pass through instead.",
                    (*rough)[0]),
                {glass("Make it thin glass", "thin_glass"), glass("Make it solid glass", "solid_glass")});
    }

    /// A kind of glass, and light that passes through it instead of alpha.
    Fix glass(std::string label, std::string_view key) const {
        return {std::move(label), [master = m.id, key](const Project& p) {
                    const auto kinds = surfaceKinds();
                    const auto kind = std::find_if(kinds.begin(), kinds.end(), [&](const SurfaceKind& k) { return k.key == key; });
                    Result<Project> next = edit::applyKind(p, master, *kind);
                    if (!next) return next;
                    SurfaceSettings c = next->master(master)->surface;
                    c.alphaMode = AlphaMode::Opaque;
                    return edit::setSurface(*next, master, c);
                }};
    }

    void meshes() {
        if (s.doubleSided) return;
        for (size_t i = 0; i < m_project.lineup.specimens.size(); ++i) {
            const Specimen& specimen = m_project.lineup.specimens[i];
            // What hangs is seen from both sides; ground and water lie, and nobody looks from below.
            const bool pane = specimen.mesh.starts_with("shape:plane") && s.has(Layer::Transmission);
            if (!specimen.mesh.starts_with("shape:sheet") && !pane) continue;
            for (const Id& worn : specimen.wears)
                if (m_project.masterOf(worn) == &m)
                    return say(
                        s.has(Layer::Transmission) ? "advice.one-sided-glass" : "advice.one-sided-plane", "",
                        fmt::format("Specimen {} is a single sheet and the surface is one-sided: from behind it is not there.", i + 1),
                        {surface("Make it double-sided", [](SurfaceSettings& c) { c.doubleSided = true; })});
        }
    }
};

} // namespace

std::vector<Diagnostic> adviceFor(const Project& project, const Master& master) {
    std::vector<Diagnostic> out = Adviser(project, master).run();
    for (Diagnostic& d : loopAdvice(project, master)) out.push_back(std::move(d));
    return out;
}

std::span<const KnownIndex> knownIndices() {
    static constexpr KnownIndex all[] = {
        {"Air", 1.0f},       {"Ice", 1.31f},          {"Water", 1.333f},  {"Skin, milk", 1.4f},      {"Oil", 1.47f},
        {"Acrylic", 1.49f},  {"Window glass", 1.52f}, {"Amber", 1.54f},   {"Polycarbonate", 1.585f}, {"Flint glass", 1.62f},
        {"Sapphire", 1.77f}, {"Zircon", 1.95f},       {"Diamond", 2.417f}};
    return all;
}

std::span<const KnownMetal> knownMetals() {
    static const KnownMetal all[] = {
        {"Silver", Value::vec3(0.95f, 0.93f, 0.88f)},   {"Aluminium", Value::vec3(0.91f, 0.92f, 0.92f)},
        {"Gold", Value::vec3(1.0f, 0.77f, 0.31f)},      {"Copper", Value::vec3(0.93f, 0.62f, 0.52f)},
        {"Brass", Value::vec3(0.89f, 0.74f, 0.42f)},    {"Chromium", Value::vec3(0.55f, 0.55f, 0.55f)},
        {"Nickel", Value::vec3(0.65f, 0.60f, 0.53f)},   {"Iron", Value::vec3(0.53f, 0.51f, 0.49f)},
        {"Titanium", Value::vec3(0.54f, 0.50f, 0.45f)}, {"Zinc", Value::vec3(0.66f, 0.69f, 0.72f)},
    };
    return all;
}

} // namespace hue
