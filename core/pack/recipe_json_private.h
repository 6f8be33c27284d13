#pragma once
// Recipes within other JSON: project files hold them too.
#include "core/base/fields_private.h"
#include "core/pack/recipe.h"

namespace hue {

Json recipeJson(const Recipe& recipe);
Recipe recipeOf(const Json& json, std::vector<Diagnostic>& report);

} // namespace hue
