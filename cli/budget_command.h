#pragma once
// hsk budget: what a project costs against a target.
namespace CLI {
class App;
}

namespace hue::cli {

/// Adds the command to the program; `code` receives what it returns: 0 within the limits, 1 over one, 2 where it cannot be told.
void addBudgetCommand(CLI::App& app, int& code);

} // namespace hue::cli
