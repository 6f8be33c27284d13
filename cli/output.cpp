#include "cli/output.h"

#include "core/nodes/catalogue.h"

#include <cstdio>
#include <fmt/format.h>

namespace hue::cli {

int fail(const std::string& sentence) {
    fmt::print(stderr, "hsk: {}\n", sentence);
    return 2;
}
int fail(const Error& error) { return fail(error.sentence); }

void print(const std::string& line) { fmt::print("{}\n", line); }
void print(const Json& json) { print(json.dump(2, ' ', false, Json::error_handler_t::replace)); }
void printCautions(const std::vector<std::string>& cautions) {
    for (const std::string& c : cautions) fmt::print(stderr, "caution: {}\n", c);
}

std::string placeText(const Project& project, const Place& place) {
    const Master* master = project.board(place.master);
    std::string out = master ? master->name : "project";
    if (const Node* node = master ? master->graph.find(place.node) : nullptr)
        out += fmt::format("/{} ({})", cardTitle(project, *master, *node), node->id);
    if (!place.port.empty()) out += "/" + place.port;
    return out;
}

} // namespace hue::cli
