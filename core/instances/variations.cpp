#include "core/instances/variations.h"

#include "core/document/lineage.h"
#include "core/document/names.h"
#include "core/edits/edit_parts.h"
#include "core/edits/edits.h"
#include "core/instances/value_words.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numeric>
#include <random>

namespace hue {
namespace {

/// Of a number of instances, where in its range one of them stands: 0..1, by component.
class Places {
  public:
    explicit Places(const Variations& v) : m_random(v.seed), m_count(size_t(v.count)), m_gradual(v.gradual) {}

    std::vector<float> next() {
        std::vector<float> out;
        const std::vector<size_t> parts = shuffled();
        for (const size_t part : parts)
            out.push_back(!m_gradual ? (float(part) + chance()) / float(m_count) : m_count > 1 ? float(part) / float(m_count - 1) : 0.f);
        return out;
    }
    /// All numbers below the count once; in their order where that is gradual.
    std::vector<size_t> shuffled() {
        std::vector<size_t> out(m_count);
        std::iota(out.begin(), out.end(), size_t(0));
        // The standard's own way to shuffle differs from library to library.
        for (size_t k = out.size(); !m_gradual && k > 1; --k) std::swap(out[k - 1], out[m_random() % k]);
        return out;
    }

  private:
    float chance() { return float(m_random() >> 8) / float(1 << 24); }

    std::mt19937 m_random;
    size_t m_count;
    bool m_gradual;
};

std::vector<std::string> namesBeside(const Project& project, const Master* master) {
    std::vector<std::string> out;
    const std::vector<const Master*> masters = mastersOfInstances(project);
    for (size_t k = 0; k < masters.size(); ++k)
        if (masters[k] == master) out.push_back(project.instances[k]->name);
    return out;
}

} // namespace

Result<Varied> variedFrom(const Project& project, const Parameter& p, std::string_view words) {
    Varied out{p.id, {}, {}};
    if (!p.width()) {
        for (size_t at = 0; at <= words.size();) {
            const size_t end = std::min(words.find(';', at), words.size());
            const Result<ParameterValue> map = valueFrom(project, p, words.substr(at, end - at));
            if (!map) return map.error();
            out.maps.push_back(map->map);
            at = end + 1;
        }
        return out;
    }
    const size_t dots = words.find("..");
    if (dots == words.npos)
        return Error{
            "vary.range", fmt::format("\"{}\" is no range of {}. Write its low end, two dots and its high end.", words, p.name), {}};
    const Result<ParameterValue> low = valueFrom(project, p, words.substr(0, dots)), high = valueFrom(project, p, words.substr(dots + 2));
    if (!low) return low.error();
    if (!high) return high.error();
    out.low = low->value, out.high = high->value;
    return out;
}

Result<Project> withVariations(const Project& project, const Variations& v, std::vector<Id>* made) {
    const Master* master = project.masterOf(v.parent);
    if (!master) return edit::refuse("instance.no-parent", "An instance needs a master or another instance as its parent.");
    if (v.count < 1 || v.count > kMostVariations)
        return edit::refuse("vary.count", fmt::format("{} variations cannot be made; 1 to {} can.", v.count, kMostVariations));
    if (v.varied.empty()) return edit::refuse("vary.nothing", "Nothing varies. Choose at least one parameter and its range.");

    const Instance* parent = project.instance(v.parent);
    const std::string name = !v.name.empty() ? v.name : parent ? parent->name : "Variation";
    if (name.find('/') != name.npos)
        return edit::refuse("name.slash", "A name cannot hold a slash: it stands between master and instance.");
    std::vector<std::string> names = namesBeside(project, master);
    std::vector<std::shared_ptr<Instance>> instances;
    for (int k = 0; k < v.count; ++k) {
        auto& instance = instances.emplace_back(std::make_shared<Instance>());
        instance->id = newId('i');
        instance->parent = v.parent;
        instance->name = freeName(names, fmt::format("{} {}", name, k + 1));
        names.push_back(instance->name);
    }
    Places places(v);
    for (const Varied& varied : v.varied) {
        const Parameter* p = master->parameter(varied.parameter);
        if (!p) return edit::refuse("edit.no-parameter", fmt::format("{} has no such parameter.", master->name));
        if (!p->width()) {
            if (varied.maps.empty())
                return edit::refuse("vary.nothing", fmt::format("{} varies among no {}. Choose some.", p->name,
                                                                p->type == ParameterType::Map ? "maps" : "values"));
            for (const Id& value : varied.maps)
                if (Outcome o = edit::canHold(project, *master, *p, {{}, value}); !o) return o.error();
            const std::vector<size_t> order = places.shuffled();
            for (size_t k = 0; k < instances.size(); ++k)
                instances[k]->own[p->id] = limited(*p, {{}, varied.maps[order[k] % varied.maps.size()]});
            continue;
        }
        // A color or a vector goes along a line, and does not take any mix of its components.
        const std::vector<float> at = places.next();
        for (size_t k = 0; k < instances.size(); ++k) {
            ParameterValue value{varied.low, {}};
            for (int c = 0; c < p->width(); ++c) value.value[c] = varied.low[c] + (varied.high[c] - varied.low[c]) * at[k];
            if (p->isNamed() || p->type == ParameterType::Integer) {
                // Each whole number between the ends gets the same share of the way.
                const float low = std::min(varied.low[0], varied.high[0]), high = std::max(varied.low[0], varied.high[0]);
                const float way = varied.low[0] <= varied.high[0] ? at[k] : 1 - at[k];
                value.value[0] = std::min(high, std::floor(low + (high - low + 1) * way));
            }
            instances[k]->own[p->id] = limited(*p, value);
        }
    }
    Project next = project;
    for (size_t k = 0; k < instances.size(); ++k) {
        if (v.without.contains(int(k))) continue;
        if (made) made->push_back(instances[k]->id);
        next.instances.push_back(std::move(instances[k]));
    }
    if (next.instances.size() == project.instances.size())
        return edit::refuse("vary.none-kept", "None of them is kept. Keep one at least.");
    return next;
}

Result<Project> withMapSets(const Project& project, const Id& parent, std::vector<Id>* made) {
    const Master* master = project.masterOf(parent);
    if (!master) return edit::refuse("instance.no-parent", "An instance needs a master or another instance as its parent.");
    Result<Project> next = project;
    std::vector<Id> ids;
    for (const std::string& set : project.mapSets()) {
        const bool fits = std::any_of(master->parameters.begin(), master->parameters.end(), [&](const Parameter& p) {
            return p.type == ParameterType::Map && project.mapOfSet(set, edit::roleOf(p));
        });
        if (!fits) continue;
        Instance instance;
        instance.id = newId('i');
        instance.parent = parent;
        instance.name = set;
        std::replace(instance.name.begin(), instance.name.end(), '/', ' ');
        ids.push_back(instance.id);
        next = edit::addInstance(*next, std::move(instance));
        if (next) next = edit::wearSet(*next, ids.back(), set);
        if (!next) return next;
    }
    if (ids.empty())
        return edit::refuse("vary.no-set",
                            fmt::format("No map set of the project has a map for a parameter of {}. Bring a set in, or expose "
                                        "its maps as parameters.",
                                        master->name));
    if (made) *made = std::move(ids);
    return next;
}

} // namespace hue
