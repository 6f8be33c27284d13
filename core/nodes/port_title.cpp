#include "core/nodes/port_title.h"

#include "core/document/parameter_kinds.h"

#include <algorithm>

namespace hue {
namespace {

/// The parameter whose card leads to an input; null where there is none.
const Parameter* parameterAt(const Master& board, const Node& card, const std::string& input) {
    const auto wire = card.wires.find(input);
    const Node* from = wire == card.wires.end() ? nullptr : board.graph.find(wire->second.node);
    if (!from || from->kind != "parameter") return nullptr;
    const auto id = from->settings.find("parameter");
    return id == from->settings.end() ? nullptr : board.parameter(id->second);
}

} // namespace

std::string portTitle(const Master& board, const Node& card, std::string_view port) {
    if (card.kind == "choose" && port.size() == 3 && port.starts_with("in"))
        if (const Parameter* p = parameterAt(board, card, "which")) {
            const std::vector<std::string> options = optionsOf(*p);
            if (const size_t at = size_t(port[2] - '1'); at < options.size()) return options[at];
        }
    std::string out(port);
    std::replace(out.begin(), out.end(), '_', ' ');
    return out;
}

} // namespace hue
