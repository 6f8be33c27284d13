#pragma once
// Recipes: the usual ones, those of files, and what is wrong with one.
// Threads: any. Nothing is kept between calls.
#include "core/document/recipe.h"

#include <filesystem>

namespace hue {

/// The usual layouts.
const std::vector<Recipe>& builtInRecipes();
/// By name among the built-in ones, or the path of a recipe file. Error: recipe.unknown, with those there are.
Result<Recipe> findRecipe(const std::string& nameOrFile);

/// Recipe files are JSON, suffix .huerecipe. Errors: recipe.unreadable, with what is odd and where; file.cannot-write.
std::string recipeText(const Recipe& recipe);
Result<Recipe> parseRecipe(const std::string& text, const std::string& name);
Result<Recipe> readRecipe(const std::filesystem::path& file);
Outcome writeRecipe(const Recipe& recipe, const std::filesystem::path& file);

/// Empty when the recipe can be carried out; else what is wrong and where.
std::string problemOf(const Recipe& recipe);

} // namespace hue
