#pragma once
// Recipes: the usual ones, those of files, and what is wrong with one.
// Threads: any. Nothing is kept between calls.
#include "core/document/recipe.h"

#include <filesystem>
#include <functional>
#include <optional>

namespace hue {

/// The usual layouts.
const std::vector<Recipe>& builtInRecipes();
/// By name among the built-in ones, or the path of a recipe file. Error: recipe.unknown, with those there are.
Result<Recipe> findRecipe(const std::string& nameOrFile);

/// The recipe with a number in the place of a role's map, in all lanes that read it. Error: recipe.no-role, with those there are.
Result<Recipe> withNumber(const Recipe& recipe, const std::string& role, float number);
/// What a map set without a map of that role shows: nothing is hidden (occlusion, alpha, opacity, mask 1), nothing is metal or glows (0),
/// and nothing lies higher (height 1/2). Of other roles nothing is known.
std::optional<float> neutralOf(const std::string& role);

/// The recipe with neutral numbers in the place of roles that are not given; `filled` receives them: "occlusion 1". Roles of which nothing
/// is known stay.
Recipe withNeutrals(const Recipe& recipe, const std::function<bool(const std::string& role)>& given, std::vector<std::string>& filled);

/// Recipe files are JSON, suffix .huerecipe. Errors: recipe.unreadable, with what is odd and where; file.cannot-write.
std::string recipeText(const Recipe& recipe);
Result<Recipe> parseRecipe(const std::string& text, const std::string& name);
Result<Recipe> readRecipe(const std::filesystem::path& file);
Outcome writeRecipe(const Recipe& recipe, const std::filesystem::path& file);

/// Empty when the recipe can be carried out; else what is wrong and where.
std::string problemOf(const Recipe& recipe);

} // namespace hue
