// Recipes as text.
#include "core/base/files.h"
#include "core/pack/recipe.h"
#include "core/pack/recipe_json_private.h"

#include <fmt/format.h>
#include <fstream>
#include <sstream>

namespace hue {
std::string recipeText(const Recipe& r) {
    Json j{{"kind", "huestack recipe"}, {"format", 1}};
    const Json fields = FieldWriter::of(r);
    for (const auto& [key, v] : fields.items()) j[key] = v;
    return textOf(j);
}

Result<Recipe> parseRecipe(const std::string& text, const std::string& name) {
    auto refuse = [&](const std::string& why) {
        return Error{"recipe.unreadable", fmt::format("{} cannot be read as a recipe: {}.", name, why), {}};
    };
    const Json j = Json::parse(text, nullptr, false);
    if (j.is_discarded() || !j.is_object()) return refuse("it is not JSON, or was cut off");
    if (j.value("kind", Json()) != "huestack recipe") return refuse("its kind is not \"huestack recipe\"");
    if (j.contains("format") && j["format"].is_number() && j["format"].get<double>() > 1) return refuse("a newer version wrote it");
    std::vector<Diagnostic> report;
    Recipe r;
    FieldReader reader(j, "the recipe", report, [](char) { return std::string(); });
    reader.ignore({"kind", "format"});
    describe(reader, r);
    // In a file that is given on, a field that is not understood would make another map than the one that was meant.
    for (const Diagnostic& d : report)
        if (d.code != "unknown.field") return refuse(d.sentence); // those are kept
    if (const std::string problem = problemOf(r); !problem.empty()) return refuse(problem);
    return r;
}

Result<Recipe> readRecipe(const std::filesystem::path& file) {
    if (const std::string why = whyUnreadable(file); !why.empty())
        return Error{"recipe.unreadable", fmt::format("{} {}. Give the file of a recipe.", file.string(), why), {}};
    std::ifstream in(file, std::ios::binary);
    if (!in) return Error{"recipe.unreadable", fmt::format("{} cannot be read. Check its permissions.", file.string()), {}};
    std::ostringstream text;
    text << in.rdbuf();
    return parseRecipe(text.str(), file.string());
}

Outcome writeRecipe(const Recipe& recipe, const std::filesystem::path& file) { return writeFile(file, recipeText(recipe)); }

} // namespace hue
