#pragma once
#include "core/base/result.h"
#include "core/project/store.h"

#include <nlohmann/json.hpp>

namespace hue::cli {

using Json = nlohmann::ordered_json;

/// Prints the sentence to stderr; the code for "can't run".
int fail(const Error& error);
int fail(const std::string& sentence);
void print(const std::string& line);
void print(const Json& json);
/// To stderr, a line each.
void printCautions(const std::vector<std::string>& cautions);

/// "Bodywork: Mix: mix", as far as it is known.
std::string placeText(const Project& project, const Place& place);

} // namespace hue::cli
