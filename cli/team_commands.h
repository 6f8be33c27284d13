#pragma once
// Commands of hsk for several who work on one project.

namespace CLI {
class App;
}

namespace hue::cli {

/// Adds the commands to the program; `code` receives what the chosen one returns.
void addTeamCommands(CLI::App& app, int& code);

} // namespace hue::cli
