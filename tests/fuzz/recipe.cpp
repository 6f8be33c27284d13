// Any text as a recipe.
#include "core/pack/recipe.h"
#include "tests/fuzz/json_text.h"

using namespace hue;

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
    const Result<Recipe> recipe = parseRecipe(fuzz::textOf(data, size), "input");
    if (!recipe) {
        fuzz::isReason(recipe.error());
        return 0;
    }
    if (!problemOf(*recipe).empty()) std::abort();
    const Result<Recipe> again = parseRecipe(recipeText(*recipe), "input");
    if (!again || recipeText(*again) != recipeText(*recipe)) std::abort();
    return 0;
}
