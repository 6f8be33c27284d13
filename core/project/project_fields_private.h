#pragma once
// The fields of the project file, each described once; see described_private.h.
#include "core/base/described_private.h"
#include "core/document/copied_cards.h"
#include "core/document/parameter_kinds.h"
#include "core/document/project.h"
#include "core/images/map.h"
#include "core/mesh/paint_data.h"
#include "core/pack/recipe_json_private.h"
#include "core/surface/channels.h"

namespace hue {

inline constexpr Word<MapKind> kMapKinds[] = {
    {"color", MapKind::Color}, {"data", MapKind::Data}, {"normal", MapKind::Normal}, {"height", MapKind::Height}};
inline constexpr Word<Wrap> kWraps[] = {{"repeat", Wrap::Repeat}, {"mirror", Wrap::Mirror}, {"clamp", Wrap::Clamp}};
inline constexpr Word<AlphaMode> kAlphaModes[] = {{"opaque", AlphaMode::Opaque}, {"mask", AlphaMode::Mask}, {"blend", AlphaMode::Blend}};
inline constexpr Word<Follows> kFollows[] = {
    {"value", Follows::Value}, {"uv", Follows::Uv}, {"normal", Follows::Normal}, {"position", Follows::Position}};
inline constexpr Word<SliderCurve> kSliders[] = {
    {"even", SliderCurve::Even}, {"fine below", SliderCurve::FineBelow}, {"decades", SliderCurve::Decades}};
inline constexpr Word<SharedParameter::Moves> kMoves[] = {
    {"not", SharedParameter::Moves::Not}, {"swells", SharedParameter::Moves::Swells}, {"runs", SharedParameter::Moves::Runs}};
inline constexpr Word<ParameterType> kSharedTypes[] = {{"number", ParameterType::Number}, {"color", ParameterType::Color}};
inline constexpr Word<MapOrigin::From> kOrigins[] = {
    {"wire", MapOrigin::From::Wire}, {"packing", MapOrigin::From::Packing}, {"words", MapOrigin::From::Words}};
inline constexpr Word<Yardstick::What> kWhats[] = {{"none", Yardstick::What::None},       {"specimen", Yardstick::What::Specimen},
                                                   {"worn", Yardstick::What::Worn},       {"maps", Yardstick::What::Maps},
                                                   {"picture", Yardstick::What::Picture}, {"original", Yardstick::What::Original}};
inline constexpr Word<Placements::Form> kForms[] = {
    {"row", Placements::Form::Row}, {"grid", Placements::Form::Grid}, {"ring", Placements::Form::Ring}};
inline constexpr Word<Yardstick::Show> kShows[] = {
    {"beside", Yardstick::Show::Beside}, {"split", Yardstick::Show::Split}, {"difference", Yardstick::Show::Difference}};
constexpr float kAny = 1e9f; ///< a range without an end

template <class F> void describe(F& f, Source& s) {
    f.text("from", s.node, "id of the card that it starts at", Written::Always);
    f.text("port", s.port, "output there", Written::Always, "out");
    f.text("take", s.take, "letters of rgba or xyzw, or luma; all components when missing");
    f.truth("perVertex", s.perVertex, false, "computed at the vertices of the mesh, and carried over its triangles");
    f.text("underpass", s.underpass, "its name where it is drawn at its two ends alone");
    f.rest(s.extra);
}

template <class F> void describe(F& f, MapOrigin& o) {
    f.choice("from", o.from, MapOrigin::From::File, wordsOf(kOrigins), "what it is made from");
    if (F::kReads || o.from == MapOrigin::From::Wire) {
        f.text("worn", o.worn, "the master or instance whose wire it is", Written::Always);
        f.object("wire", o.wire, true, "a wire", "of that master");
    }
    if (F::kReads || o.from == MapOrigin::From::Wire || o.from == MapOrigin::From::Words) {
        float width = float(o.width), height = float(o.height);
        float* const size[] = {&width, &height};
        static constexpr float standard[] = {1024, 1024};
        f.numbers("size", size, standard, 1, float(kLargestSide), "pixels", Written::Always);
        o.width = int(width), o.height = int(height);
    }
    if (F::kReads || o.from == MapOrigin::From::Wire) {
        f.choice("samples", o.type, SampleType::U8, wordsOf(kSampleTypes), "of each pixel", Written::Always);
        f.truth("seamless", o.seamless, false, "its edges are made to meet", Written::Always);
    }
    if (F::kReads || o.from == MapOrigin::From::Words) f.text("words", o.words, "that stand on it, white with nothing around them");
    f.text("fingerprint", o.fingerprint, "of what it was made from; it is made again when that differs");
    f.rest(o.extra);
}

template <class F> void describe(F& f, MapFile& m) {
    f.id(m.id, 't');
    f.text("name", m.name, "for people", Written::Always, m.id);
    f.text("path", m.path, "relative to the file's folder", Written::Always);
    f.choice("kind", m.kind, MapKind::Color, wordsOf(kMapKinds), "decides its decoding", Written::Always);
    f.choice("wrap", m.wrap, Wrap::Repeat, wordsOf(kWraps), "beyond its edges", Written::Always);
    f.text("hash", m.hash, "of its content when it was last seen (XXH3, 64 bit)");
    f.text("set", m.set, "name of the map set that it belongs to");
    f.text("role", m.role,
           "what it holds there: base color, normal, height, roughness, metallic, occlusion, emissive, opacity, gloss, "
           "specular, mask, packed");
    f.text("format", m.format, "of the graphics card: bc1 ... astc-8x8; plain when missing");
    f.object("madeFrom", m.origin, m.origin.from != MapOrigin::From::File, "an origin", "of a map that the project makes itself");
    f.rest(m.extra);
}

template <class F> void describe(F& f, Packing& p) {
    f.id(p.id, 'k');
    f.object("recipe", p.recipe, true, "a recipe", "as in a recipe file");
    f.textsByName("sources", p.sources, "map ids by role", Written::Always);
    f.text("map", p.map, "that it makes");
    f.text("fingerprint", p.fingerprint, "of what it was made from");
    f.rest(p.extra);
}

template <class F> void describe(F& f, MeshFile& m) {
    f.id(m.id, 'g');
    f.text("name", m.name, "for people", Written::Always, m.id);
    f.text("path", m.path, "of a glTF or GLB file, relative to the file's folder", Written::Always);
    f.rest(m.extra);
}

template <class F> void describe(F& f, LiveRules& l) {
    int channel = l.channel + 1;
    f.integer("channel", channel, 1, 1, PaintData::kChannels, "of the paint, from 1", Written::Always);
    if (F::kReads) l.channel = channel - 1;
    f.texts("rules", l.rules, "as hsk paint takes them, the first below the others", Written::Always);
    f.text("fingerprint", l.fingerprint, "of what they were reckoned from; they are reckoned again when that differs");
    f.rest(l.extra);
}

template <class F> void describe(F& f, Paintwork& w) {
    f.id(w.id, 'w');
    f.text("name", w.name, "for people", Written::Always, w.id);
    f.text("mesh", w.mesh, "an id, or shape:sphere and the like, that it is painted on", Written::Always);
    f.text("path", w.path, "of a GLB file with the paint as its vertex colors, inside of the file's folder", Written::Always);
    std::string fingerprint = fingerprintOf(w);
    f.text("fingerprint", fingerprint, "of the paint (XXH3, 64 bit)");
    if (F::kReads) w.fingerprint = fingerprint;
    f.list("live", w.live, "live rules", "rules of channels, below what the hand has painted", Written::WhenSet);
    f.rest(w.extra);
}

template <class F> void describe(F& f, Node& n) {
    f.id(n.id, 'n');
    f.text("kind", n.kind, "a node; hsk nodes lists them", Written::Always);
    f.text("title", n.title, "the node's name when missing");
    float* const at[] = {&n.position.x, &n.position.y};
    static constexpr float origin[] = {0, 0};
    f.numbers("at", at, origin, -kAny, kAny, "of its top left corner on the board", Written::Always);
    f.truth("muted", n.muted, false, "passes its first fitting input through");
    f.truth("locked", n.locked, false, "no saving that is found by itself changes it");
    f.values("values", n.constants, "of unwired ports");
    f.textsByName("settings", n.settings, "choices that are compiled in");
    f.objectsByName("wires", n.wires, "a wire", "by input port");
    f.rest(n.extra);
}

template <class F> void describe(F& f, Bay& b) {
    f.id(b.id, 'b');
    f.text("name", b.name, "for people", Written::Always);
    f.texts("cards", b.nodes, "ids of the cards within", Written::Always);
    f.text("inside", b.inside, "id of the bay that it lies in");
    f.truth("folded", b.folded, false, "drawn as one box");
    f.truth("scratch", b.scratch, false, "what lies in it is not mentioned among the problems");
    f.rest(b.extra);
}

template <class F> void describe(F& f, Parameter& p) {
    static const std::vector<Word<ParameterType>> types = [] {
        std::vector<Word<ParameterType>> out;
        for (const ParameterKind& k : parameterKinds()) out.push_back({k.key, k.type});
        return out;
    }();
    f.id(p.id, 'p');
    f.text("name", p.name, "for people", Written::Always, p.id);
    f.text("code", p.codeName, "for code", Written::Always, p.name);
    f.choice("type", p.type, ParameterType::Number, wordsOf(types), "", Written::Always);
    if (F::kReads || p.type == ParameterType::Map)
        f.choice("kind", p.mapKind, MapKind::Color, wordsOf(kMapKinds), "of a map", Written::Always);
    f.truth("alpha", p.alpha, false, "of a color: with a fourth component");
    f.own(
        "default",
        [&](const Json* j) {
            const bool words = p.width() == 0;
            if (j && words && j->is_string()) p.standard.map = j->get<std::string>();
            else if (j && !words) Fields::readValue(*j, p.standard.value);
            p.standard.value.width = std::max(1, p.width());
        },
        [&]() -> Json { return !p.width() ? Json(p.standard.map) : FieldWriter::of(p.standard.value); },
        R"({"oneOf": [{"type": "number"}, {"type": "array", "items": {"type": "number"}, "minItems": 1, "maxItems": 4}, {"type": "string"}]})",
        "a number, a list, the id of a map, master or instance, the name of a map set, or a curve or gradient in words");
    if (F::kReads || p.width()) {
        float* const soft[] = {&p.softMin, &p.softMax};
        float* const hard[] = {&p.hardMin, &p.hardMax};
        static constexpr float range[] = {0, 1}, limits[] = {-kAny, kAny};
        f.numbers("range", soft, range, -3e38f, 3e38f, "of the slider", Written::Always);
        f.numbers("limits", hard, limits, -3e38f, 3e38f, "never left", Written::Always);
    }
    f.text("unit", p.unit, "behind its figure");
    f.text("group", p.group, "on the sheet");
    f.text("description", p.description, "one sentence");
    f.choice("follows", p.follows, Follows::Value, wordsOf(kFollows), "of an assembly: what it reads while nothing is wired to it");
    if (F::kReads || p.type == ParameterType::Choice) f.texts("options", p.options, "of a choice: names of its values 0, 1, ...");
    f.truth("build", p.build, false, "of on_off and choice: resolved when compiling");
    f.number("step", p.step, 0, 0, kAny, "of the slider, from its low end on");
    f.choice("slider", p.slider, SliderCurve::Even, wordsOf(kSliders), "how its length is shared out");
    f.text("shownBy", p.shownWhen.parameter, "id of a parameter, on_off or choice, that shows or hides it on the sheet");
    f.own(
        "shownAt",
        [&](const Json* j) {
            if (!j || !j->is_array()) return;
            for (const Json& at : *j)
                if (at.is_number_integer())
                    p.shownWhen.is.push_back(int(std::clamp<long>(at.template get<long>(), 0, Parameter::kMostOptions)));
        },
        [&]() -> Json { return p.shownWhen.is.empty() ? Json() : Json(p.shownWhen.is); },
        R"({"type": "array", "items": {"type": "integer"}})", "values of that parameter at which it is shown");
    f.text("shared", p.shared, "id of a shared parameter that it follows");
    f.texts("components", p.components, "names of those of a vector");
    f.number("strongest", p.strongest, 1, 1, Parameter::kStrongest, "of a color: the largest component it is meant to have");
    f.integer("mostPixels", p.mostPixels, 0, 0, kLargestSide, "of a map: the longest side it is meant to have; 0: any");
    f.integer("leastChannels", p.leastChannels, 0, 0, 4, "of a map: the channels it is to have at least; 0: any");
    f.text("ofSet", p.ofSet, "of a map: id of the map set parameter whose set gives it");
    f.text("setRole", p.setRole, "of such a map: the role that it takes of the set");
    f.rest(p.extra);
}

template <class F> void describe(F& f, CopiedCards& c) {
    f.keyed("cards", c.nodes, "a card", "nodes of a board", "what was copied");
    f.list("bays", c.bays, "a bay", "that are copied as a whole", Written::WhenSet);
    f.list("parameters", c.parameters, "a parameter", "that the cards read", Written::WhenSet);
    f.list("assemblies", c.assemblies, "an assembly", "that the cards stand for", Written::WhenSet);
    f.list("maps", c.maps, "a map", "that the cards read", Written::WhenSet);
}

template <class F> void describeLines(F& f, BoardText& lines) {
    f.text("text", lines.text, "the board as lines, as they were written last");
    f.textsByName("textCards", lines.cards, "ids of the cards that names in the lines stand for");
}

/// Values of parameters by their ids: numbers, lists, ids of maps.
template <class F> void describeValues(F& f, std::map<Id, ParameterValue>& values, std::string_view about) {
    f.own(
        "values",
        [&](const Json* j) {
            if (!j || !j->is_object()) return;
            for (const auto& [id, its] : j->items()) {
                ParameterValue v;
                if (its.is_string()) v.map = its.template get<std::string>();
                else if (!Fields::readValue(its, v.value)) continue;
                values[id] = v;
            }
        },
        [&]() -> Json {
            Json out = Json::object();
            for (const auto& [id, v] : values) out[id] = v.value.width == 0 || !v.map.empty() ? Json(v.map) : FieldWriter::of(v.value);
            return out;
        },
        R"({"type": "object", "additionalProperties": {"oneOf": [{"type": "number"}, {"type": "array", "items": {"type": "number"}, "minItems": 1, "maxItems": 4}, {"type": "string"}]}})",
        about);
}

template <class F> void describe(F& f, Preset& p) {
    f.text("name", p.name, "for people", Written::Always);
    describeValues(f, p.values, "that it gives, by parameter id");
    f.rest(p.extra);
}

template <class F> void describe(F& f, SharedParameter& s) {
    f.id(s.id, 's');
    f.text("name", s.name, "for people", Written::Always, s.id);
    f.choice("type", s.type, ParameterType::Number, wordsOf(kSharedTypes), "", Written::Always);
    const auto value = [&](const char* key, Value& v, std::string_view about) {
        f.own(
            key,
            [&](const Json* j) {
                if (j) Fields::readValue(*j, v);
                v.width = s.type == ParameterType::Color ? 3 : 1;
            },
            [&]() -> Json { return FieldWriter::of(v); },
            R"({"oneOf": [{"type": "number"}, {"type": "array", "items": {"type": "number"}, "minItems": 1, "maxItems": 4}]})", about);
    };
    value("value", s.value, "of all parameters that follow it");
    value("until", s.until, "where it moves to");
    float* const soft[] = {&s.softMin, &s.softMax};
    static constexpr float range[] = {0, 1};
    f.numbers("range", soft, range, -3e38f, 3e38f, "of the slider");
    f.text("unit", s.unit, "behind its figure");
    f.choice("moves", s.moves, SharedParameter::Moves::Not, wordsOf(kMoves), "with time");
    f.number("period", s.period, 8, 0.01f, 3600, "seconds");
    f.rest(s.extra);
}

template <class F> void describe(F& f, Master& m) {
    static const std::vector<Word<uint32_t>> layerWords = [] {
        std::vector<Word<uint32_t>> out;
        for (const LayerDef& l : layers()) out.push_back({l.key, uint32_t(l.layer)});
        return out;
    }();
    f.id(m.id, 'm');
    f.text("name", m.name, "for people", Written::Always, m.id);
    f.choice("alphaMode", m.surface.alphaMode, AlphaMode::Opaque, wordsOf(kAlphaModes), "", Written::Always);
    f.number("alphaCutoff", m.surface.alphaCutoff, 0.5f, 0, 1, "of the alpha mode mask", Written::Always);
    f.truth("doubleSided", m.surface.doubleSided, false, "", Written::Always);
    f.truth("unlit", m.surface.unlit, false, "shows its base color, whatever the light", Written::Always);
    f.truth("simpleDiffuse", m.surface.simpleDiffuse, false, "scatters evenly, reflects nothing");
    f.truth("decal", m.surface.decal, false, "worn by decals");
    f.truth("highlightsFade", m.surface.highlightsFade, true, "with blend: reflections go with alpha");
    f.bits("layers", m.surface.layers, m.otherLayers, wordsOf(layerWords), "what the surface has beyond the core");
    f.texts("silencedAdvice", m.silencedAdvice, "codes of advice that is not given for this master");
    f.list("parameters", m.parameters, "a parameter", "in the order of the sheet");
    f.objectsByName("channels", m.graph.channelWires, "a wire",
                    "into the surface, by the key of a channel; finish feeds all that have none", Written::Always);
    f.values("channelValues", m.graph.channelConstants, "of unwired channels");
    f.texts("mutedChannels", m.graph.mutedChannels, "that show their defaults");
    f.keyed("cards", m.graph.nodes, "a card", "nodes on the board", m.name);
    f.list("bays", m.graph.bays, "a bay", "boxes around cards", Written::WhenSet);
    describeLines(f, m.graph.lines);
    f.list("presets", m.presets, "a preset", "values under a name, to be given to instances", Written::WhenSet);
    f.rest(m.extra);
}

template <class F> void describe(F& f, Assembly& a) {
    f.id(a.id, 'a');
    f.text("name", a.name, "for people", Written::Always, a.id);
    f.text("description", a.description, "one sentence");
    f.integer("version", a.version, 1, 1, 1000000, "raised when it is shared with changes", Written::Always);
    f.list("parameters", a.parameters, "a parameter", "its inputs, in the order of its card");
    f.keyed("cards", a.graph.nodes, "a card", "nodes on the board; each output card is an output", a.name);
    f.list("bays", a.graph.bays, "a bay", "boxes around cards", Written::WhenSet);
    describeLines(f, a.graph.lines);
    f.rest(a.extra);
}

template <class F> void describe(F& f, Instance& i) {
    f.id(i.id, 'i');
    f.text("name", i.name, "for people", Written::Always, i.id);
    f.text("parent", i.parent, "a master or another instance", Written::Always);
    describeValues(f, i.own, "its own, by parameter id");
    f.optionalChoice("alphaMode", i.alphaMode, wordsOf(kAlphaModes), "its own");
    f.optionalNumber("alphaCutoff", i.alphaCutoff, 0.5f, 0, 1, "its own");
    f.optionalTruth("doubleSided", i.doubleSided, "its own");
    f.truth("locked", i.locked, false, "its values do not change until it is unlocked");
    f.texts("tags", i.tags, "words to find it by");
    f.text("note", i.note, "for people");
    f.rest(i.extra);
}

template <class F> void describeOrbit(F& f, Orbit& o) {
    f.number("yaw", o.yaw, 30, -kAny, kAny, "degrees", Written::Always);
    f.number("pitch", o.pitch, 18, -89, 89, "degrees", Written::Always);
    f.number("standOff", o.standOff, 1, 0.2f, 10, "distance as a multiple of the one at which the mesh fits", Written::Always);
    float* const pan[] = {&o.panX, &o.panY};
    static constexpr float middle[] = {0, 0};
    f.numbers("pan", pan, middle, -4, 4, "in heights of the picture");
}
template <class F> void describe(F& f, Orbit& o) {
    describeOrbit(f, o);
    f.rest(o.extra);
}

template <class F> void describe(F& f, Thing& t) {
    f.text("kind", t.kind, "signs, bolt, steps, tubes or rail", Written::Always);
    float* const at[] = {&t.position[0], &t.position[1], &t.position[2]};
    static constexpr float origin[] = {0, 0, 0};
    f.numbers("at", at, origin, -kAny, kAny, "metres from the specimen's place", Written::Always);
    f.number("size", t.size, 1, 0.05f, 20, "");
    f.truth("castsShadow", t.castsShadow, true, "");
    f.rest(t.extra);
}

template <class F> void describe(F& f, Placements& p) {
    f.choice("form", p.form, Placements::Form::Row, wordsOf(kForms), "", Written::Always);
    f.integer("count", p.count, 5, 2, Placements::kMost, "how many; across, of a grid", Written::Always);
    f.integer("rows", p.rows, 3, 1, 32, "of a grid");
    f.number("spacing", p.spacing, 1.25f, 0.1f, 10, "from one to the next, as a multiple of the mesh's width");
    f.number("turn", p.turn, 0, -kAny, kAny, "degrees by which the last is turned more than the first");
    f.number("lift", p.lift, 0, -100, 100, "metres by which the last stands higher");
    f.number("size", p.size, 1, 0.1f, 10, "of the last as a multiple of the first");
    f.rest(p.extra);
}

template <class F> void describe(F& f, Decal& d) {
    f.id(d.id, 'd');
    f.text("name", d.name, "for people", Written::Always, "Decal");
    f.text("wears", d.wears, "id of an instance, or of a master, of the kind decal", Written::Always);
    float* const at[] = {&d.position[0], &d.position[1], &d.position[2]};
    static constexpr float origin[] = {0, 0, 0};
    f.numbers("at", at, origin, -kAny, kAny, "middle of its box, metres, object space", Written::Always);
    float* const facing[] = {&d.facing[0], &d.facing[1], &d.facing[2]};
    static constexpr float forward[] = {0, 0, 1};
    f.numbers("facing", facing, forward, -kAny, kAny, "out of the surface", Written::Always);
    if (d.facing == std::array<float, 3>{}) d.facing = {0, 0, 1};
    f.number("turn", d.turn, 0, -kAny, kAny, "degrees, counter-clockwise seen from outside");
    float* const size[] = {&d.width, &d.height, &d.depth};
    static constexpr float standard[] = {0.5f, 0.5f, 0.2f};
    f.numbers("size", size, standard, 1e-4f, 1e4f, "width, height and depth, metres", Written::Always);
    f.truth("mirrored", d.mirrored, false, "left and right change places");
    float* const fade[] = {&d.fadeFrom, &d.fadeTo};
    static constexpr float angles[] = {60, 80};
    f.numbers("fade", fade, angles, 0, 90, "degrees that the surface looks away where it begins to fade, and is gone");
    f.number("depthFade", d.depthFade, 0.25f, 0, 1, "share of the depth, at either end, over which it fades");
    static constexpr const char* channels[] = {"baseColor", "normal", "roughness", "metallic", "occlusion", "emissive"};
    for (size_t k = 0; k < d.weights.size(); ++k) f.number(channels[k], d.weights[k], 1, 0, 1, "how much of it counts");
    f.texts("keptOff", d.keptOff, "names of slots");
    f.truth("hidden", d.hidden, false, "");
    f.truth("locked", d.locked, false, "the mouse does not take hold of it");
    f.rest(d.extra);
}

template <class F> void describe(F& f, Specimen& s) {
    f.text("mesh", s.mesh, "an id, or shape:sphere and the like, with /1 to /5 for the density", Written::Always, "shape:sphere");
    f.texts("wears", s.wears, "ids of masters or instances, by slot", Written::Always);
    f.text("paintwork", s.paintwork, "id of what is painted on it");
    f.list("decals", s.decals, "a decal", "on its mesh, the lowest first", Written::WhenSet);
    f.list("things", s.things, "a thing", "around it", Written::WhenSet);
    f.optionalObject("orbit", s.orbit, "an orbit", "its own");
    f.text("light", s.light, "its own");
    f.optionalObject("placements", s.placements, "placements", "how the mesh is repeated; else it stands once");
    f.integer("subdivisions", s.subdivisions, 0, 0, 5, "each makes four triangles of one");
    f.truth("castsShadow", s.castsShadow, true, "");
    f.rest(s.extra);
}

template <class F> void describe(F& f, Yardstick& y) {
    f.choice("what", y.what, Yardstick::What::None, wordsOf(kWhats), "", Written::Always);
    f.choice("show", y.show, Yardstick::Show::Split, wordsOf(kShows), "", Written::Always);
    f.number("split", y.split, 0.5f, 0, 1, "share from the left", Written::Always);
    f.number("gain", y.gain, 4, 0.1f, 100, "of the difference", Written::Always);
    if (F::kReads || y.what == Yardstick::What::Specimen) f.integer("specimen", y.specimen, 0, 0, 5, "counted from 0", Written::Always);
    if (F::kReads || y.what == Yardstick::What::Worn) f.text("worn", y.worn, "a master or instance", Written::Always);
    if (F::kReads || y.what == Yardstick::What::Maps) {
        std::vector<std::string> maps(y.maps.begin(), F::kReads ? y.maps.begin() : y.maps.end());
        f.texts("maps", maps, "base color, occlusion-roughness-metallic, normal, height; empty for none", Written::Always);
        for (size_t i = 0; i < y.maps.size() && i < maps.size(); ++i) y.maps[i] = maps[i];
    }
    if (F::kReads || y.what == Yardstick::What::Picture) f.text("picture", y.picture, "path of a picture", Written::Always);
    f.rest(y.extra);
}

template <class F> void describe(F& f, Lineup& l) {
    f.list("specimens", l.specimens, "a specimen", "at most six");
    f.text("view", l.view, "what the specimens show", Written::Always, "lit");
    f.object("wire", l.wire, !l.wire.node.empty(), "a wire", "what the view wire shows");
    f.text("wireMaster", l.wireMaster, "whose wire that is");
    float* const range[] = {&l.viewLow, &l.viewHigh};
    static constexpr float whole[] = {0, 1};
    f.numbers("viewRange", range, whole, -kAny, kAny, "from black to white");
    if (!(l.viewHigh > l.viewLow)) l.viewLow = 0, l.viewHigh = 1;
    f.text("light", l.light, "of a light made by code, or the path of an HDR or EXR file", Written::Always, "sodium-shed");
    f.number("rotation", l.rotation, 0, -kAny, kAny, "of the light, degrees");
    l.rotation = std::fmod(l.rotation, 360.f);
    f.number("sun", l.sun, 1, 0, 8, "strength of the light's sun");
    f.number("exposure", l.exposure, 0, -8, 8, "stops", Written::Always);
    f.text("tone", l.tone, "curve: linear, filmic, neutral", Written::Always, "neutral");
    f.number("glare", l.glare, 0.1f, 0, 1, "", Written::Always);
    f.text("backdrop", l.backdrop, "surround, environment, depot", Written::Always, "surround");
    describeOrbit(f, l.orbit);
    f.object("yardstick", l.yardstick, l.yardstick.what != Yardstick::What::None || !l.yardstick.extra.empty(), "a yardstick",
             "what the specimens are compared against");
    f.rest(l.extra);
}

template <class F> void describe(F& f, Project& p) {
    f.text("name", p.name, "for people", Written::Always, "Untitled");
    f.list("maps", p.maps, "a map", "image files");
    f.list("packings", p.packings, "a packing", "maps that recipes make", Written::WhenSet);
    f.list("meshes", p.meshes, "a mesh", "glTF files");
    f.list("paintworks", p.paintworks, "a paintwork", "what is painted on meshes", Written::WhenSet);
    f.list("masters", p.masters, "a master", "");
    f.list("assemblies", p.assemblies, "an assembly", "graphs used as nodes", Written::WhenSet);
    f.list("instances", p.instances, "an instance", "");
    f.object("lineup", p.lineup, true, "the lineup", "specimens, scene, camera");
    f.list("shared", p.shared, "a shared parameter", "values that many masters follow", Written::WhenSet);
    f.number("loop", p.loopSeconds, 8, 0.1f, 3600, "seconds", Written::Always);
    f.rest(p.extra);
}

} // namespace hue
