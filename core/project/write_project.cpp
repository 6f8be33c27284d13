#include "core/nodes/catalogue.h"
#include "core/project/project_fields_private.h"
#include "core/project/store.h"

namespace hue {
namespace {

/// An own value that is a map, set or neutral, has no numbers here: its description tells the two apart by that.
Project withMapsToldApart(Project p) {
    for (InstancePtr& slot : p.instances) {
        const Master* master = p.masterOf(slot->id);
        auto copy = std::make_shared<Instance>(*slot);
        for (auto& [id, own] : copy->own) {
            const Parameter* parameter = master ? master->parameter(id) : nullptr;
            if (parameter ? !parameter->width() : !own.map.empty()) own.value.width = 0;
        }
        slot = std::move(copy);
    }
    for (MasterPtr& slot : p.masters) {
        if (slot->presets.empty()) continue;
        auto copy = std::make_shared<Master>(*slot);
        for (Preset& preset : copy->presets)
            for (auto& [id, value] : preset.values)
                if (const Parameter* of = slot->parameter(id); of ? !of->width() : !value.map.empty())
                    value.value.width = 0;
        slot = std::move(copy);
    }
    return p;
}

} // namespace

std::string projectText(const Project& p) {
    Json j{{"kind", "huestack project"}, {"format", kFormat}};
    Json fields = FieldWriter::of(withMapsToldApart(p));
    for (auto it = fields.begin(); it != fields.end(); ++it) j[it.key()] = std::move(it.value());
    return textOf(j);
}

std::string projectSchema() {
    Json defs = Json::object();
    std::vector<std::array<std::string, 4>> table;
    FieldSchema schema(defs, table, "the project");
    Project project;
    describe(schema, project);
    Json out{{"$schema", "https://json-schema.org/draft/2020-12/schema"}, {"title", "Hue Stack project"}};
    const Json its = schema.schema();
    for (const auto& [key, value] : its.items()) out[key] = value;
    out["required"] = {"kind", "format"};
    out["properties"]["kind"] = {{"const", "huestack project"}};
    out["properties"]["format"] = {{"type", "integer"}, {"minimum", 1}, {"maximum", kFormat}};
    out["$defs"] = defs;
    return textOf(out);
}

std::string projectFieldsTable() {
    Json defs = Json::object();
    std::vector<std::array<std::string, 4>> table;
    FieldSchema schema(defs, table, "the project");
    Project project;
    describe(schema, project);
    // Rows of one object stand together, in the order in which objects are first named.
    std::vector<std::string> places;
    for (const auto& row : table)
        if (std::find(places.begin(), places.end(), row[0]) == places.end()) places.push_back(row[0]);
    std::string out;
    for (const std::string& place : places) {
        std::string title = place;
        title[0] = char(std::toupper(title[0]));
        out += fmt::format("### {}\n\n| field | holds | |\n|---|---|---|\n", title);
        for (const auto& row : table)
            if (row[0] == place) out += fmt::format("| `{}` | {} | {} |\n", row[1], row[2], row[3]);
        out += "\n";
    }
    return out;
}

} // namespace hue
