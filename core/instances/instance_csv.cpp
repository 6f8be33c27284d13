#include "core/instances/instance_csv.h"

#include "core/base/csv.h"
#include "core/document/lineage.h"
#include "core/edits/edit_parts.h"
#include "core/edits/edits.h"
#include "core/instances/value_words.h"

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <map>
#include <optional>
#include <set>
#include <unordered_map>

namespace hue {
namespace {

constexpr std::string_view kInstance = "instance", kParent = "parent";

/// The heading of a parameter's column.
std::string headingOf(const Parameter& p) {
    return p.codeName == kInstance || p.codeName == kParent ? "parameter " + p.codeName : p.codeName;
}

/// Where instances stand in a project, by id.
std::unordered_map<std::string_view, size_t> slotsOf(const Project& project) {
    std::unordered_map<std::string_view, size_t> out;
    for (size_t k = 0; k < project.instances.size(); ++k) out.emplace(project.instances[k]->id, k);
    return out;
}

/// Of one master, parents before their children, these in the order of the project.
std::vector<InstancePtr> inTreeOrder(const Project& project, const Master& master) {
    std::unordered_map<std::string_view, std::vector<InstancePtr>> children;
    for (const InstancePtr& i : project.instances) children[i->parent].push_back(i);
    std::vector<InstancePtr> out;
    std::vector<std::pair<std::string_view, size_t>> way{{master.id, 0}};
    while (!way.empty()) {
        auto& [parent, next] = way.back();
        const auto its = children.find(parent);
        if (its == children.end() || next >= its->second.size()) {
            way.pop_back();
            continue;
        }
        out.push_back(its->second[next++]);
        way.emplace_back(out.back()->id, 0);
    }
    return out;
}

class Reading {
  public:
    Reading(const Project& project, const Master& master, const Csv& rows, const std::vector<size_t>& lines)
        : m_master(master), m_rows(rows), m_lines(lines) {
        m_out.project = project;
        const std::vector<const Master*> masters = mastersOfInstances(project);
        for (size_t k = 0; k < project.instances.size(); ++k)
            if (masters[k] == &master) m_byName.emplace(project.instances[k]->name, project.instances[k]->id);
    }

    Result<CsvRead> read() {
        if (const Outcome known = findColumns(); !known) return known.error();
        findInstances();
        setParents();
        setValues();
        if (m_wrong.empty()) return std::move(m_out);
        std::stable_sort(m_wrong.begin(), m_wrong.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
        std::vector<std::string> told;
        constexpr size_t kTold = 10;
        for (size_t k = 0; k < std::min(m_wrong.size(), kTold); ++k)
            told.push_back(fmt::format("Line {}{}", m_lines[m_wrong[k].first], m_wrong[k].second));
        return Error{"csv.value",
                     fmt::format("Nothing was changed. {}{}", fmt::join(told, " "),
                                 m_wrong.size() > kTold ? fmt::format(" And {} more.", m_wrong.size() - kTold) : ""),
                     {}};
    }

  private:
    void wrong(size_t row, std::string what) { m_wrong.emplace_back(row, std::move(what)); }
    std::string cell(size_t row, size_t column) const {
        if (column >= m_rows[row].size()) return {};
        const std::string& all = m_rows[row][column];
        const size_t first = all.find_first_not_of(' ');
        return first == all.npos ? std::string{} : all.substr(first, all.find_last_not_of(' ') + 1 - first);
    }
    /// "Line Ochre", or "Bodywork/Line Ochre".
    std::string nameIn(size_t row, size_t column) const {
        const std::string all = cell(row, column), start = m_master.name + "/";
        return all.starts_with(start) ? all.substr(start.size()) : all;
    }

    Outcome findColumns() {
        std::vector<std::string> unknown;
        std::set<std::string> met;
        for (size_t c = 0; !m_rows.empty() && c < m_rows[0].size(); ++c) {
            const std::string head = cell(0, c);
            if (!head.empty() && !met.insert(head).second)
                return Error{"csv.column", fmt::format("The first line names {} twice. Leave one of the columns out.", head), {}};
            if (head == kInstance) m_nameColumn = c;
            else if (head == kParent) m_parentColumn = c;
            else if (const Parameter* p = parameter(head)) m_columns.emplace_back(c, p);
            else if (!head.empty()) unknown.push_back(head);
        }
        if (!m_nameColumn)
            return Error{"csv.column", "The first line has to name the columns, and one of them has to be \"instance\".", {}};
        if (unknown.empty()) return Done{};
        std::vector<std::string> names;
        for (const Parameter& p : m_master.parameters) names.push_back(headingOf(p));
        return Error{"csv.column",
                     fmt::format("{} has no parameter {}. There are: {}.", m_master.name, fmt::join(unknown, ", "), fmt::join(names, ", ")),
                     {}};
    }

    const Parameter* parameter(const std::string& head) const {
        for (const Parameter& p : m_master.parameters)
            if (headingOf(p) == head) return &p;
        for (const Parameter& p : m_master.parameters)
            if (p.name == head) return &p;
        return nullptr;
    }

    /// Of each row; those that are not there are made, as children of the master for now.
    void findInstances() {
        std::map<std::string, size_t> met;
        m_instances.resize(m_rows.size());
        for (size_t row = 1; row < m_rows.size(); ++row) {
            const std::string name = nameIn(row, *m_nameColumn);
            if (name.empty()) {
                if (std::any_of(m_rows[row].begin(), m_rows[row].end(), [](const std::string& c) { return !c.empty(); }))
                    wrong(row, " names no instance.");
                continue;
            }
            if (const auto [before, first] = met.emplace(name, row); !first) {
                wrong(row, fmt::format(" names {} again, as line {} does.", name, m_lines[before->second]));
                continue;
            }
            if (const auto known = m_byName.find(name); known != m_byName.end()) {
                m_instances[row] = known->second;
                continue;
            }
            if (name.find('/') != name.npos) {
                wrong(row, fmt::format(": {} holds a slash, which a name cannot: it stands between master and instance.", name));
                continue;
            }
            auto fresh = std::make_shared<Instance>();
            fresh->id = m_instances[row] = newId('i');
            fresh->name = name, fresh->parent = m_master.id;
            m_byName.emplace(name, fresh->id);
            m_out.project.instances.push_back(std::move(fresh));
            m_out.added.push_back(name);
        }
    }

    void setParents() {
        if (!m_parentColumn) return;
        const auto slots = slotsOf(m_out.project);
        const std::set<std::string> added(m_out.added.begin(), m_out.added.end());
        for (size_t row = 1; row < m_rows.size(); ++row) {
            if (m_instances[row].empty()) continue;
            const std::string name = nameIn(row, *m_parentColumn);
            const auto known = m_byName.find(name);
            const bool master = name.empty() || (known == m_byName.end() && name == m_master.name);
            if (!master && known == m_byName.end()) {
                wrong(row, fmt::format(": {} has no instance {} to derive from.", m_master.name, name));
                continue;
            }
            const Id& parent = master ? m_master.id : known->second;
            if (m_out.project.instances[slots.at(m_instances[row])]->parent == parent) continue;
            Result<Project> next = edit::changeParent(m_out.project, m_instances[row], parent);
            if (!next) {
                wrong(row, ": " + next.error().sentence);
                continue;
            }
            m_out.project = std::move(*next);
            const std::string its = nameIn(row, *m_nameColumn);
            if (!added.contains(its)) m_out.moved.push_back(its);
        }
    }

    void setValues() {
        const auto slots = slotsOf(m_out.project);
        for (size_t row = 1; row < m_rows.size(); ++row) {
            if (m_instances[row].empty()) continue;
            InstancePtr& slot = m_out.project.instances[slots.at(m_instances[row])];
            auto next = std::make_shared<Instance>(*slot);
            const size_t before = m_out.values;
            for (const auto& [column, p] : m_columns)
                if (setValue(row, column, *p, *next)) ++m_out.values;
            if (slot->locked && m_out.values > before) wrong(row, ": " + edit::unlocked(m_out.project, *slot).error().sentence);
            slot = std::move(next);
        }
    }

    /// Whether that changed something.
    bool setValue(size_t row, size_t column, const Parameter& p, Instance& instance) {
        const std::string words = cell(row, column);
        if (words.empty() || words.starts_with(kInherited)) return instance.own.erase(p.id) > 0;
        const Result<ParameterValue> value = valueFrom(m_out.project, p, words);
        if (!value) {
            wrong(row, ": " + value.error().sentence);
            return false;
        }
        if (const Outcome o = edit::canHold(m_out.project, m_master, p, *value); !o) {
            wrong(row, ": " + o.error().sentence);
            return false;
        }
        const ParameterValue inside = limited(p, *value);
        if (p.width() && !(inside.value == value->value))
            m_out.cautions.push_back(fmt::format("Line {}: {} of {} is brought inside of its limits, from {} to {}.", m_lines[row], p.name,
                                                 instance.name, words, wordsOf(m_out.project, p, inside)));
        const auto now = instance.own.find(p.id);
        if (now != instance.own.end() && now->second.map == inside.map && (!p.width() || now->second.value == inside.value)) return false;
        instance.own[p.id] = inside;
        return true;
    }

    const Master& m_master;
    const Csv& m_rows;
    const std::vector<size_t>& m_lines;
    std::optional<size_t> m_nameColumn, m_parentColumn;
    std::vector<std::pair<size_t, const Parameter*>> m_columns;
    std::unordered_map<std::string, Id> m_byName;        ///< instances of the master
    std::vector<Id> m_instances;                         ///< by row
    std::vector<std::pair<size_t, std::string>> m_wrong; ///< by row, what follows "Line 7"
    CsvRead m_out;
};

} // namespace

std::string instanceCsv(const Project& project, const Master& master, bool inherited) {
    Csv rows(1, {std::string(kInstance), std::string(kParent)});
    for (const Parameter& p : master.parameters) rows[0].push_back(headingOf(p));
    const auto slots = slotsOf(project);
    for (const InstancePtr& i : inTreeOrder(project, master)) {
        const auto parent = slots.find(i->parent);
        std::vector<std::string> row{i->name, parent == slots.end() ? "" : project.instances[parent->second]->name};
        const Resolved all = inherited ? resolve(project, i->id) : Resolved{};
        for (const Parameter& p : master.parameters) {
            const auto own = i->own.find(p.id);
            if (own != i->own.end()) row.push_back(wordsOf(project, p, own->second));
            else row.push_back(inherited ? std::string(kInherited) + wordsOf(project, p, all.values.at(p.id).value) : "");
        }
        rows.push_back(std::move(row));
    }
    return csvText(rows);
}

std::string valuesText(const Project& project, std::span<const Id> instances, std::span<const Id> parameters) {
    Csv rows;
    for (const Id& id : instances) {
        const Resolved all = resolve(project, id);
        auto& row = rows.emplace_back();
        for (const Id& parameter : parameters) {
            const Parameter* p = all.master ? all.master->parameter(parameter) : nullptr;
            row.push_back(p ? wordsOf(project, *p, all.values.at(parameter).value) : "");
        }
    }
    return csvText(rows, '\t');
}

Result<CsvRead> withInstanceCsv(const Project& project, const Master& master, std::string_view text) {
    std::vector<size_t> lines;
    const Result<Csv> rows = csvFrom(text, &lines);
    if (!rows) return rows.error();
    return Reading(project, master, *rows, lines).read();
}

} // namespace hue
