#include "core/project/merge.h"

#include "core/base/json_text_private.h"
#include "core/project/paint_store_private.h"
#include "core/project/store.h"

#include <algorithm>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <set>

namespace hue {
namespace {

using JsonPtr = const Json*; ///< null: not there

Json asJson(const Project& p) { return Json::parse(projectText(p)); }

bool same(JsonPtr a, JsonPtr b) { return a == b || (a && b && *a == *b); }

std::string idOf(const Json& j) {
    const auto it = j.is_object() ? j.find("id") : j.end();
    return it != j.end() && it->is_string() ? it->get<std::string>() : std::string();
}

/// A list whose entries can be told apart whatever their order.
bool byId(const Json& list) {
    return list.is_array() && std::all_of(list.begin(), list.end(), [](const Json& j) { return !idOf(j).empty(); });
}

JsonPtr entry(JsonPtr list, const std::string& id) {
    if (list)
        for (const Json& j : *list)
            if (idOf(j) == id) return &j;
    return nullptr;
}
JsonPtr field(JsonPtr object, const std::string& key) {
    if (!object) return nullptr;
    const auto it = object->find(key);
    return it == object->end() ? nullptr : &*it;
}

/// For people: the name or title, else the kind with the id.
std::string nameOf(const Json& j) {
    for (const char* key : {"name", "title"})
        if (const auto it = j.find(key); it != j.end() && it->is_string() && !it->get_ref<const std::string&>().empty())
            return it->get<std::string>();
    const auto kind = j.find("kind");
    return kind != j.end() && kind->is_string() ? fmt::format("{} {}", kind->get<std::string>(), idOf(j)) : idOf(j);
}

std::string below(const std::string& where, const std::string& name) { return where.empty() ? name : where + " / " + name; }

/// For one line.
std::string inShort(JsonPtr j) {
    if (!j) return "-";
    std::string text = j->dump(-1, ' ', false, Json::error_handler_t::replace);
    constexpr size_t kMost = 60;
    if (text.size() <= kMost) return text;
    size_t end = kMost - 3;
    while (end > 0 && (static_cast<unsigned char>(text[end]) & 0xC0) == 0x80) --end; // not within a letter
    return text.substr(0, end) + "...";
}

class Comparison {
  public:
    std::vector<Difference> found;

    /// Two objects that are both there.
    void objects(const Json& from, const Json& to, const std::string& where) {
        Difference changed{Difference::How::Changed, where.empty() ? "the project" : where, {}, {}};
        const auto differs = [&](const std::string& field, JsonPtr a, JsonPtr b) {
            changed.fields.push_back(field);
            changed.values.emplace_back(inShort(a), inShort(b));
        };
        std::vector<std::pair<std::string, std::pair<JsonPtr, JsonPtr>>> lists;
        const auto look = [&](const std::string& key) {
            const JsonPtr a = field(&from, key), b = field(&to, key);
            if (same(a, b)) return;
            const bool deep = (!a || byId(*a)) && (!b || byId(*b)) && !((!a || a->empty()) && (!b || b->empty()));
            if (deep) {
                lists.push_back({key, {a, b}});
            } else if ((!a || a->is_object()) && (!b || b->is_object())) {
                // Values by name are told by their names.
                std::set<std::string> names;
                for (const JsonPtr side : {a, b})
                    if (side)
                        for (const auto& [name, v] : side->items())
                            if (!same(field(a, name), field(b, name))) names.insert(name);
                for (const std::string& name : names) differs(key + " " + name, field(a, name), field(b, name));
            } else {
                differs(key, a, b);
            }
        };
        for (const auto& [key, v] : from.items()) look(key);
        for (const auto& [key, v] : to.items())
            if (!field(&from, key)) look(key);
        if (!changed.fields.empty()) found.push_back(std::move(changed));
        static const Json none = Json::array();
        for (const auto& [key, both] : lists) {
            const auto& [a, b] = both;
            for (const Json& j : a ? *a : none) {
                const JsonPtr other = entry(b, idOf(j));
                if (!other) found.push_back({Difference::How::Removed, below(below(where, key), nameOf(j)), {}, {}});
                else if (!(*other == j)) objects(j, *other, below(below(where, key), nameOf(*other)));
            }
            for (const Json& j : b ? *b : none)
                if (!entry(a, idOf(j))) found.push_back({Difference::How::Added, below(below(where, key), nameOf(j)), {}, {}});
        }
    }
};

class Merger {
  public:
    std::vector<std::string> conflicts;

    /// Of one place; what is not there any more is nothing.
    std::optional<Json> at(JsonPtr base, JsonPtr ours, JsonPtr theirs, const std::string& where) {
        const auto take = [](JsonPtr j) { return j ? std::optional(*j) : std::nullopt; };
        if (same(ours, theirs) || same(theirs, base)) return take(ours);
        if (same(ours, base)) return take(theirs);
        if (!ours || !theirs) {
            // One removed what the other changed; work is not thrown away unasked.
            conflicts.push_back(where);
            return take(ours ? ours : theirs);
        }
        if (ours->is_object() && theirs->is_object()) return objects(base && base->is_object() ? base : nullptr, *ours, *theirs, where);
        const bool lists = byId(*ours) && byId(*theirs) && (!base || byId(*base));
        if (lists) return entries(base, *ours, *theirs, where);
        conflicts.push_back(where);
        return *ours;
    }

  private:
    Json objects(JsonPtr base, const Json& ours, const Json& theirs, const std::string& where) {
        Json out = Json::object();
        const auto put = [&](const std::string& key) {
            if (auto merged = at(field(base, key), field(&ours, key), field(&theirs, key), below(where, key)))
                out[key] = std::move(*merged);
        };
        for (const auto& [key, v] : ours.items()) put(key);
        for (const auto& [key, v] : theirs.items())
            if (!ours.contains(key)) put(key);
        return out;
    }

    Json entries(JsonPtr base, const Json& ours, const Json& theirs, const std::string& where) {
        Json out = Json::array();
        const auto put = [&](const Json& j) {
            const std::string id = idOf(j);
            if (auto merged = at(entry(base, id), entry(&ours, id), entry(&theirs, id), below(where, nameOf(j))))
                out.push_back(std::move(*merged));
        };
        for (const Json& j : ours) put(j);
        for (const Json& j : theirs)
            if (!entry(&ours, idOf(j))) put(j);
        return out;
    }
};

} // namespace

std::string Difference::sentence() const {
    switch (how) {
    case How::Added: return where + ": added";
    case How::Removed: return where + ": removed";
    case How::Changed: break;
    }
    return fmt::format("{}: {} changed", where, fmt::join(fields, ", "));
}

std::vector<Difference> differences(const Project& from, const Project& to) {
    Comparison c;
    c.objects(asJson(from), asJson(to), {});
    return std::move(c.found);
}

Result<Merged> merged(const Project& base, const Project& ours, const Project& theirs) {
    const Json b = asJson(base), o = asJson(ours), t = asJson(theirs);
    Merger merger;
    const auto json = merger.at(&b, &o, &t, {});
    Result<Loaded> loaded = parseProject(textOf(*json), ours.name);
    if (!loaded) return loaded.error();
    for (const Project* side : {&ours, &theirs, &base}) sharePaint(loaded->project, *side);
    return Merged{std::move(loaded->project), std::move(merger.conflicts)};
}

} // namespace hue
