#pragma once
// Commands of hsk that work on parameters and instances.
namespace CLI {
class App;
}

namespace hue::cli {

/// Adds the commands to the program; `code` receives what the chosen one returns.
void addInstanceCommands(CLI::App& app, int& code);

} // namespace hue::cli
