#pragma once
#include <nlohmann/json.hpp>
#include <string>
#include <string_view>

namespace hue {

using Json = nlohmann::ordered_json;

/// Stable text for version control: keys in the order they were written, lists of plain values on one line.
std::string textOf(const Json& json);

/// Puts back the fields that a reader did not know; `extra` is a JSON object as text, or empty.
void addRest(Json& json, const std::string& extra);

} // namespace hue
