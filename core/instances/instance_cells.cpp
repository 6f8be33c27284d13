#include "core/instances/instance_cells.h"

#include "core/edits/edit_parts.h"
#include "core/edits/edits.h"
#include "core/instances/instance_csv.h"
#include "core/instances/value_words.h"

#include <fmt/format.h>
#include <optional>
#include <unordered_map>

namespace hue {
namespace {

/// Changes instances in place, each copied once.
class Changing {
  public:
    explicit Changing(const Project& project) : m_before(project), m_project(project) {
        for (size_t k = 0; k < project.instances.size(); ++k) m_slots.emplace(project.instances[k]->id, k);
    }

    Outcome set(const Cell& cell, std::string_view words) {
        const Resolved all = resolve(m_before, cell.worn);
        if (!all.master) return edit::refuse("edit.no-instance", "The instance is not in the project.");
        const Parameter* p = all.master->parameter(cell.parameter);
        if (!p) return edit::refuse("edit.no-parameter", fmt::format("{} has no such parameter.", all.master->name));
        const ParameterValue now = all.values.at(p->id).value;
        const Result<ParameterValue> value = valueFrom(m_before, *p, words, &now);
        if (!value) return value.error();
        if (Instance* instance = its(cell.worn)) {
            if (Outcome o = edit::unlocked(m_before, *instance); !o) return o;
            if (Outcome o = edit::canHold(m_before, *all.master, *p, *value); !o) return o;
            instance->own[p->id] = limited(*p, *value);
            if (p->width()) instance->own[p->id].map.clear();
            return Done{};
        }
        Result<Project> next = edit::setOwn(m_project, cell.worn, p->id, *value);
        if (!next) return next.error();
        m_project = std::move(*next);
        return Done{};
    }

    /// Whether there was something to clear.
    Result<bool> clear(const Cell& cell) {
        Instance* instance = its(cell.worn);
        if (!instance || !instance->own.contains(cell.parameter)) return false;
        if (Outcome o = edit::unlocked(m_before, *instance); !o) return o.error();
        instance->own.erase(cell.parameter);
        return true;
    }

    Project take() { return std::move(m_project); }

  private:
    /// Null for what is no instance.
    Instance* its(const Id& id) {
        if (const auto known = m_copies.find(id); known != m_copies.end()) return known->second;
        const auto slot = m_slots.find(id);
        if (slot == m_slots.end()) return nullptr;
        auto copy = std::make_shared<Instance>(*m_before.instances[slot->second]);
        m_copies.emplace(id, copy.get());
        Instance* out = copy.get();
        m_project.instances[slot->second] = std::move(copy);
        return out;
    }

    const Project& m_before;
    Project m_project;
    std::unordered_map<std::string_view, size_t> m_slots;
    std::unordered_map<Id, Instance*> m_copies;
};

} // namespace

Result<Project> withWords(const Project& project, std::span<const Cell> cells, std::string_view words) {
    Changing changing(project);
    for (const Cell& cell : cells)
        if (const Outcome done = changing.set(cell, words); !done) return done.error();
    return changing.take();
}

Result<Project> withoutOwn(const Project& project, std::span<const Cell> cells) {
    Changing changing(project);
    bool any = false;
    for (const Cell& cell : cells) {
        const Result<bool> cleared = changing.clear(cell);
        if (!cleared) return cleared.error();
        any = any || *cleared;
    }
    if (!any) return edit::refuse("instance.inherits", "All of these values are inherited already, or are those of a master.");
    return changing.take();
}

Result<Project> withPasted(const Project& project, std::span<const Id> rows, std::span<const Id> columns, const Csv& table) {
    if (table.empty())
        return edit::refuse("value.words", "There is no table in the clipboard. Copy cells of a spreadsheet, or of this table.");
    Changing changing(project);
    const bool fills = table.size() == 1;
    for (size_t r = 0; r < rows.size() && (fills || r < table.size()); ++r) {
        const std::vector<std::string>& from = table[fills ? 0 : r];
        for (size_t c = 0; c < columns.size() && (from.size() == 1 || c < from.size()); ++c) {
            // One cell alone fills all; a column of a table stays one.
            if (c > 0 && from.size() == 1 && !fills) break;
            const std::string& words = from[from.size() == 1 ? 0 : c];
            if (words.empty() || words.starts_with(kInherited)) continue;
            if (const Outcome done = changing.set({rows[r], columns[c]}, words); !done)
                return Error{done.error().code, fmt::format("Row {}: {} Nothing was changed.", r + 1, done.error().sentence), {}};
        }
    }
    return changing.take();
}

} // namespace hue
