#pragma once
namespace CLI {
class App;
}

namespace hue::cli {

/// "suggest" and "fit".
void addSuggestCommands(CLI::App& app, int& code);

} // namespace hue::cli
