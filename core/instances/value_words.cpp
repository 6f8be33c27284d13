#include "core/instances/value_words.h"

#include "core/document/drawn.h"
#include "core/document/parameter_kinds.h"

#include <charconv>
#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <optional>

namespace hue {
namespace {

constexpr std::string_view kNeutral = "neutral", kNone = "none";

std::string_view trimmed(std::string_view s) {
    const size_t first = s.find_first_not_of(" \t\r\n");
    return first == s.npos ? std::string_view{} : s.substr(first, s.find_last_not_of(" \t\r\n") + 1 - first);
}

/// A finite number, all of the word.
std::optional<float> numberFrom(std::string_view word) {
    std::string plain(word);
    if (plain.find('.') == plain.npos)
        if (const size_t comma = plain.find(','); comma != plain.npos) plain[comma] = '.';
    const char *begin = plain.data(), *end = begin + plain.size();
    if (begin != end && *begin == '+') ++begin;
    float out = 0;
    const auto [last, problem] = std::from_chars(begin, end, out);
    if (problem != std::errc{} || last != end || !std::isfinite(out)) return {};
    return out;
}

/// As many as the parameter has components, or one for all.
std::optional<Value> numbersFrom(std::string_view words, int width) {
    Value out{0, {}};
    while (!(words = trimmed(words)).empty()) {
        const size_t end = std::min(words.find_first_of(" \t"), words.size());
        const std::optional<float> x = numberFrom(words.substr(0, end));
        if (!x || out.width == 4) return {};
        out[out.width++] = *x;
        words.remove_prefix(end);
    }
    if (out.width == 1)
        for (; out.width < width; ++out.width) out[out.width] = out[0];
    if (out.width != width) return {};
    return out;
}

/// A number as it is written, so that 0.18 times 1.1 is 0.198 as on paper.
double asWritten(float x) {
    const std::string words = fmt::format("{}", x);
    double out = 0;
    std::from_chars(words.data(), words.data() + words.size(), out);
    return out;
}

std::string takes(const Parameter& p) {
    switch (p.type) {
    case ParameterType::Map: return "the name of a map of the project, or neutral";
    case ParameterType::Color:
        return p.alpha ? "a color as #RRGGBB with its alpha behind it, or four numbers with blanks between them"
                       : "a color as #RRGGBB, or three numbers with blanks between them";
    case ParameterType::OnOff: return "on or off";
    case ParameterType::Choice: return fmt::format("{}", fmt::join(p.options, ", "));
    case ParameterType::Integer: return "a whole number";
    case ParameterType::Curve: return "such as curve smooth: 0 0, 0.4 0.25, 1 1";
    case ParameterType::Gradient: return "such as gradient straight: 0 #102030, 1 #dca54a";
    case ParameterType::Finish: return "the name of a master or instance, or none";
    case ParameterType::MapSet: return "the name of a map set of the project, or none";
    default: break;
    }
    return p.width() == 1 ? "a number" : fmt::format("{} numbers with blanks between them", p.width());
}

} // namespace

std::string wordsOf(const Project& project, const Parameter& p, const ParameterValue& value) {
    if (p.type == ParameterType::Map) {
        const MapFile* map = project.map(value.map);
        return map ? map->name : std::string(kNeutral);
    }
    if (p.type == ParameterType::Finish) {
        const std::string name = project.nameOf(value.map);
        return value.map.empty() ? std::string(kNone) : !name.empty() && project.findByName(name) == value.map ? name : value.map;
    }
    if (p.type == ParameterType::MapSet) return value.map.empty() ? std::string(kNone) : value.map;
    if (!p.width()) return value.map;
    if (p.isNamed()) return optionOf(p, value.value);
    if (p.type == ParameterType::Color) {
        const Value color{3, {value.value[0], value.value[1], value.value[2], 0}};
        const std::string hex = hexFromColor(color);
        if (Value back; colorFromHex(hex, back) && back == color) return p.alpha ? fmt::format("{} {}", hex, value.value[3]) : hex;
    }
    std::string out;
    for (int c = 0; c < p.width(); ++c) out += fmt::format("{}{}", c ? " " : "", value.value[c] + 0.f); // a zero has no sign
    return out;
}

Result<ParameterValue> valueFrom(const Project& project, const Parameter& p, std::string_view given, const ParameterValue* now) {
    const std::string_view words = trimmed(given);
    const Error wrong{"value.words", fmt::format("\"{}\" is no value of {}: it takes {}.", words, p.name, takes(p)), {}};
    if (p.type == ParameterType::Map) {
        for (const auto& map : project.maps)
            if (map->name == words) return ParameterValue{{}, map->id};
        if (words == kNeutral) return ParameterValue{};
        if (project.map(std::string(words))) return ParameterValue{{}, std::string(words)};
        return wrong;
    }
    if (p.type == ParameterType::Curve || p.type == ParameterType::Gradient) {
        const Result<Drawn> drawn = drawnFrom(words);
        if (!drawn) return drawn.error();
        if ((drawn->kind == Drawn::Kind::Curve) != (p.type == ParameterType::Curve)) return wrong;
        return ParameterValue{{}, textOf(*drawn)};
    }
    if (p.type == ParameterType::MapSet) {
        const std::vector<std::string> sets = project.mapSets();
        if (std::find(sets.begin(), sets.end(), words) != sets.end()) return ParameterValue{{}, std::string(words)};
        return words == kNone ? Result<ParameterValue>(ParameterValue{}) : Result<ParameterValue>(wrong);
    }
    if (p.type == ParameterType::Finish) {
        if (words == kNone) return ParameterValue{};
        const std::string name(words);
        const Id worn = project.masterOf(name) ? name : project.findByName(name);
        return worn.empty() ? Result<ParameterValue>(wrong) : ParameterValue{{}, worn};
    }
    if (p.isNamed()) {
        const std::vector<std::string> options = optionsOf(p);
        for (size_t k = 0; k < options.size(); ++k)
            if (options[k] == words) return ParameterValue{Value::number(float(k)), {}};
        // By its place, where no option is called so.
        if (const auto x = numberFrom(words); x && *x == std::floor(*x) && *x >= 0 && *x < float(options.size()))
            return ParameterValue{Value::number(*x), {}};
        return wrong;
    }
    if (now && !words.empty() && std::string_view("*/+").find(words[0]) != std::string_view::npos) {
        const std::optional<Value> by = numbersFrom(words.substr(1), p.width());
        if (!by) return wrong;
        ParameterValue out = *now;
        for (int c = 0; c < p.width(); ++c) {
            float& x = out.value[c];
            const double was = asWritten(x), with = asWritten((*by)[c]);
            x = float(words[0] == '*' ? was * with : words[0] == '/' ? was / with : was + with);
            if (!std::isfinite(x))
                return Error{
                    "value.not-finite", fmt::format("{} takes finite numbers only, and {} gives none. Type another.", p.name, words), {}};
        }
        return out;
    }
    Value color;
    if (p.type == ParameterType::Color) {
        const size_t end = std::min(words.find_first_of(" \t"), words.size());
        if (colorFromHex(words.substr(0, end), color)) {
            const std::optional<Value> alpha = numbersFrom(words.substr(end), 1);
            if (p.alpha ? !alpha && end < words.size() : end < words.size()) return wrong;
            if (p.alpha) color = {4, {color[0], color[1], color[2], alpha ? (*alpha)[0] : now ? now->value[3] : 1.f}};
            return ParameterValue{color, {}};
        }
    }
    const std::optional<Value> numbers = numbersFrom(words, p.width());
    if (!numbers) return wrong;
    if (p.type == ParameterType::Integer && (*numbers)[0] != std::floor((*numbers)[0])) return wrong;
    return ParameterValue{*numbers, {}};
}

std::vector<std::string> changedValues(const Project& before, const Project& after, const Id& parameter) {
    std::vector<std::string> out;
    for (const InstancePtr& was : before.instances) {
        const auto own = was->own.find(parameter);
        const Instance* is = own == was->own.end() ? nullptr : after.instance(was->id);
        if (!is) continue;
        const Master *old = before.masterOf(was->id), *fresh = after.masterOf(was->id);
        const Parameter *p = old ? old->parameter(parameter) : nullptr, *q = fresh ? fresh->parameter(parameter) : nullptr;
        const auto now = is->own.find(parameter);
        if (!p || !q || now == is->own.end()) continue;
        const std::string first = wordsOf(before, *p, own->second), then = wordsOf(after, *q, now->second);
        // A number that is written as the name of the same place, or an option that has another name, is the same value.
        if (first == then || own->second == now->second) continue;
        out.push_back(fmt::format("{}: {} becomes {}", was->name, first, then));
    }
    return out;
}

std::vector<std::string> changedByMerge(const Project& before, const Project& after, const Id& kept, const Id& gone) {
    std::vector<std::string> out;
    const auto look = [&](const Id& worn, const std::string& name) {
        const Resolved was = resolve(before, worn), is = resolve(after, worn);
        const auto now = is.values.find(kept);
        if (!was.master || now == is.values.end()) return;
        for (const Id& id : {kept, gone}) {
            const auto then = was.values.find(id);
            const Parameter* p = was.master->parameter(id);
            if (!p || then == was.values.end() || then->second.value == now->second.value) continue;
            out.push_back(fmt::format("{}: {} was {} and is {}", name, p->name, wordsOf(before, *p, then->second.value),
                                      wordsOf(after, *is.master->parameter(kept), now->second.value)));
        }
    };
    for (const MasterPtr& m : before.masters)
        if (m->parameter(kept)) look(m->id, m->name);
    for (const InstancePtr& i : before.instances) look(i->id, i->name);
    return out;
}

} // namespace hue
