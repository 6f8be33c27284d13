#include "core/nodes/add_line.h"

#include "core/document/names.h"
#include "core/document/parameter_kinds.h"
#include "core/formula/formula.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/finish.h"

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>
#include <fmt/format.h>
#include <optional>

namespace hue {
namespace {

std::string_view trimmed(std::string_view t) {
    while (!t.empty() && std::isspace(static_cast<unsigned char>(t.front()))) t.remove_prefix(1);
    while (!t.empty() && std::isspace(static_cast<unsigned char>(t.back()))) t.remove_suffix(1);
    return t;
}

std::string lowerCase(std::string_view text) {
    std::string out(text);
    for (char& c : out) c = char(std::tolower(static_cast<unsigned char>(c)));
    return out;
}

/// A number at the front of the text, which is then moved behind it.
std::optional<float> takeNumber(std::string_view& text) {
    text = trimmed(text);
    if (text.starts_with('+')) text.remove_prefix(1);
    float x = 0;
    const auto [end, bad] = std::from_chars(text.data(), text.data() + text.size(), x);
    if (bad != std::errc{} || !std::isfinite(x)) return {};
    text.remove_prefix(size_t(end - text.data()));
    return x;
}

std::optional<Value> numbers(std::string_view text) {
    Value v{0, {}};
    text = trimmed(text);
    while (!text.empty()) {
        const auto x = takeNumber(text);
        if (!x || v.width == 4) return {};
        v[v.width++] = *x;
        text = trimmed(text);
        if (text.starts_with(',')) text.remove_prefix(1);
    }
    return v.width ? std::optional(v) : std::nullopt;
}

Proposal constantProposal(const Value& v, const std::string& title, const std::string& detail) {
    Proposal p;
    p.kind = Proposal::Kind::Constant;
    p.title = title;
    p.detail = detail;
    p.family = "Inputs";
    p.node = makeNode("constant");
    p.node.constants["value"] = v;
    return p;
}

/// A color without its #: six digits, letters among them; 336699 stays a number.
bool bareColor(std::string_view text, Value& color) {
    const auto isLetter = [](char c) { return std::isalpha(static_cast<unsigned char>(c)) != 0; };
    return std::any_of(text.begin(), text.end(), isLetter) && colorFromHex("#" + std::string(text), color);
}

/// What may stand behind a figure: "mm", "/s"; no second figure, and no color.
bool isUnit(std::string_view text) {
    return std::none_of(text.begin(), text.end(), [](char c) { return std::isspace(static_cast<unsigned char>(c)); }) &&
           (text.empty() || !(std::isdigit(static_cast<unsigned char>(text[0])) || std::string_view(".+-#").find(text[0]) != text.npos));
}

/// "on", "plain / stripes / checks", either with ", build" behind it: a switch or a choice, the first option its default.
bool named(std::string_view typed, Parameter& p) {
    std::string_view rest = typed;
    if (const size_t comma = rest.find(','); comma != rest.npos) {
        if (trimmed(rest.substr(comma + 1)) != "build") return false;
        p.build = true;
        rest = trimmed(rest.substr(0, comma));
    }
    if (rest == "on" || rest == "off") {
        p.type = ParameterType::OnOff;
        p.standard.value = Value::number(rest == "on" ? 1 : 0);
        return true;
    }
    std::vector<std::string> options;
    for (size_t at = 0; at <= rest.size();) {
        const size_t end = std::min(rest.find('/', at), rest.size());
        options.emplace_back(trimmed(rest.substr(at, end - at)));
        at = end + 1;
    }
    const auto isWord = [](const std::string& o) { return !o.empty() && std::isalpha(static_cast<unsigned char>(o[0])); };
    if (options.size() < 2 || options.size() > size_t(Parameter::kMostOptions) || !std::all_of(options.begin(), options.end(), isWord)) {
        p.build = false;
        return false;
    }
    p.type = ParameterType::Choice;
    p.options = std::move(options);
    p.standard.value = Value::number(0);
    return true;
}

/// "grout width = 6 mm, 0 to 20", "drift = 0.1 0.2 m/s"
std::optional<Proposal> parameterProposal(const Master& master, std::string_view typed) {
    const size_t equals = typed.find('=');
    if (equals == std::string_view::npos || equals == 0) return {};
    const std::string name(trimmed(typed.substr(0, equals)));
    std::string_view rest = trimmed(typed.substr(equals + 1));
    if (name.empty()) return {};
    Parameter p;
    p.name = name;
    p.name[0] = char(std::toupper(static_cast<unsigned char>(p.name[0])));
    p.codeName = codeNameFrom(name);
    Value color;
    std::string understood;
    static const std::map<std::string, MapKind> maps{{"map", MapKind::Color},
                                                     {"color map", MapKind::Color},
                                                     {"data map", MapKind::Data},
                                                     {"normal map", MapKind::Normal},
                                                     {"height map", MapKind::Height}};
    if (const auto map = maps.find(lowerCase(rest)); map != maps.end()) {
        p.type = ParameterType::Map;
        p.mapKind = map->second;
        understood = std::string(rest == "map" ? "color map" : rest) + ", none at first";
    } else if (lowerCase(rest) == "curve" || lowerCase(rest) == "gradient") {
        p.type = lowerCase(rest) == "curve" ? ParameterType::Curve : ParameterType::Gradient;
        understood = p.type == ParameterType::Curve ? "curve, from 0 to 1 at first" : "gradient, from black to white at first";
    } else if (lowerCase(rest) == "finish") {
        p.type = ParameterType::Finish;
        understood = "finish, of nothing at first: instances say whose";
    } else if (lowerCase(rest) == "map set") {
        p.type = ParameterType::MapSet;
        understood = "map set, none at first: maps are taken of it on the sheet";
    } else if (named(rest, p)) {
        understood = fmt::format("{}{}, default {}", p.build ? "build choice, " : "",
                                 p.type == ParameterType::OnOff ? "on or off" : fmt::format("one of {}", p.options.size()),
                                 optionOf(p, p.standard.value));
    } else if (colorFromHex(rest, color) || bareColor(rest, color)) {
        p.type = ParameterType::Color;
        p.standard.value = color;
        p.hardMin = 0;
        understood = "color, default " + hexFromColor(color);
    } else {
        Value v{0, {}};
        while (const auto x = takeNumber(rest)) {
            if (v.width == 3) return {};
            v[v.width++] = *x;
        }
        if (!v.width) return {};
        p.type = parameterTypeFor(v.width, false);
        p.standard.value = v;
        const size_t comma = rest.find(',');
        p.unit = std::string(trimmed(rest.substr(0, comma)));
        if (!isUnit(p.unit)) return {};
        const std::string unit = p.unit.empty() ? "" : " " + p.unit;
        std::string figures;
        float least = v[0], most = v[0];
        for (int c = 0; c < v.width; ++c) {
            figures += fmt::format(" {:g}", v[c]);
            least = std::min(least, v[c]), most = std::max(most, v[c]);
        }
        understood = fmt::format("{}, default{}{}",
                                 v.width == 1   ? "number"
                                 : v.width == 2 ? "vector of two"
                                                : "vector of three",
                                 figures, unit);
        p.softMin = std::min(0.f, least);
        p.softMax = std::max(1.f, most > 1 ? 2 * most : 1.f);
        if (comma != std::string_view::npos) {
            // "0 to 20" or "0..20"; the dots are looked for first, since "0." is a number as well.
            const std::string_view range = rest.substr(comma + 1);
            size_t to = range.find("..");
            if (to == std::string_view::npos) to = range.find("to");
            if (to == std::string_view::npos) return {};
            std::string_view from = range.substr(0, to), until = range.substr(to + 2);
            const auto low = takeNumber(from), high = takeNumber(until);
            if (!low || !high || !trimmed(from).empty()) return {};
            p.softMin = p.hardMin = std::min(*low, *high);
            p.softMax = p.hardMax = std::max(*low, *high);
            understood += fmt::format(", limits {:g} to {:g}{}", p.softMin, p.softMax, unit);
        }
    }
    for (const Parameter& other : master.parameters)
        if (lowerCase(other.name) == lowerCase(p.name)) understood += "; the name is taken already";
    Proposal out;
    out.kind = Proposal::Kind::Parameter;
    out.title = "Expose " + p.name;
    out.detail = understood;
    out.family = "Parameters";
    out.parameter = p;
    out.node = makeNode(p.type == ParameterType::Finish ? kFinishOfKind : std::string_view("parameter"));
    return out;
}

/// "=a*0.5+b"
std::optional<Proposal> formulaProposal(std::string_view typed) {
    if (!typed.starts_with('=')) return {};
    const std::string text(trimmed(typed.substr(1)));
    Proposal out;
    out.title = "Formula";
    out.family = "Math";
    out.node = makeNode("formula");
    if (text.empty()) {
        out.detail = "arithmetic over a, b, c and d, such as =a*0.5+b";
        return out;
    }
    out.node.settings["formula"] = text;
    const ParsedFormula parsed = parseFormula(text);
    if (parsed.problem) {
        out.detail = describe(*parsed.problem);
        return out;
    }
    std::string ports;
    for (const std::string& name : namesRead(parsed.formula))
        if (findNodeDef("formula")->input(name)) ports += (ports.empty() ? "" : ", ") + name;
    out.detail = ports.empty() ? "a formula without inputs" : "a formula of " + ports;
    return out;
}

} // namespace

std::vector<Proposal> propose(const Project& project, const Master& master, std::string_view typed,
                              const std::function<bool(const NodeDef&)>& fits, const Uses& uses, const std::vector<AssemblyPtr>& library) {
    std::vector<Proposal> out;
    typed = trimmed(typed);
    const std::string lower = lowerCase(typed);
    Value color;
    if (colorFromHex(typed, color)) out.push_back(constantProposal(color, "Color " + hexFromColor(color), "a constant color"));
    else if (const auto v = numbers(typed)) {
        static constexpr std::string_view what[] = {"a constant number", "two constant numbers", "a constant color or vector",
                                                    "four constant numbers"};
        std::string title = "Constant";
        for (int c = 0; c < v->width; ++c) title += fmt::format(" {:g}", (*v)[c]);
        out.push_back(constantProposal(*v, title, std::string(what[v->width - 1])));
    } else if (auto p = parameterProposal(master, typed)) {
        out.push_back(*p);
    } else if (auto f = formulaProposal(typed)) {
        out.push_back(*f);
        return out;
    }
    for (const Parameter& p : master.parameters) {
        if (typed.empty() || lowerCase(p.name).find(lower) == std::string::npos) continue;
        Proposal place;
        place.title = p.name;
        place.detail = project.assembly(master.id) ? "an input of this assembly" : "a parameter of this master";
        place.family = "Parameters";
        place.node = parameterCard(p);
        out.push_back(place);
    }
    // Those of the project, and of the library what it does not have yet; none that holds what is on the board.
    std::map<const NodeDef*, AssemblyPtr> assemblies;
    std::vector<const NodeDef*> defs;
    const auto offer = [&](const AssemblyPtr& assembly) {
        const NodeDef* def = &cardOf(*assembly).def;
        defs.push_back(def);
        assemblies[def] = assembly;
    };
    for (const AssemblyPtr& a : project.assemblies)
        if (!wouldHoldItself(project, master.id, a->id)) offer(a);
    for (const AssemblyPtr& a : library)
        if (!project.assembly(a->id)) offer(a);
    const bool within = project.assembly(master.id) != nullptr;
    for (const NodeDef* def : searchCatalogue(typed, uses, defs)) {
        if (def->key == "parameter" || (def->key == kOutputKind && !within) || (fits && !fits(*def))) continue;
        Proposal node;
        node.title = def->name;
        node.detail = def->help;
        node.family = def->family;
        if (const auto of = assemblies.find(def); of != assemblies.end()) {
            node.node = makeAssemblyNode(of->second->id);
            if (!project.assembly(of->second->id)) node.assembly = of->second;
        } else {
            node.node = makeNode(def->key);
        }
        out.push_back(node);
    }
    const NodeDef& finishes = *findNodeDef(kFinishOfKind);
    if (typed.size() > 1 && (!fits || fits(finishes)))
        for (const Id& worn : wearableOn(project, master.id)) {
            const std::string name = project.nameOf(worn);
            if (lowerCase(name).find(lower) == std::string::npos) continue;
            Proposal finish;
            finish.title = "Finish of " + name;
            finish.detail = finishes.help;
            finish.family = finishes.family;
            finish.node = makeNode(finishes.key);
            finish.node.settings[std::string(kFinishOfSetting)] = worn;
            out.push_back(finish);
        }
    for (const auto& map : project.maps) {
        if (typed.empty() ||
            (lowerCase(map->name).find(lower) == std::string::npos && lowerCase(map->path).find(lower) == std::string::npos))
            continue;
        Proposal image;
        image.kind = Proposal::Kind::Map;
        image.title = "Image " + map->name;
        image.detail = map->path;
        image.family = "Maps";
        image.node = makeNode("image");
        image.node.title = map->name;
        image.node.settings["map"] = map->id;
        out.push_back(image);
    }
    return out;
}

} // namespace hue
