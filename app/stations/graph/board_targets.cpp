// What commands outside of the board mean by its selection.
#include "app/stations/graph/board.h"
#include "core/edits/edits.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/catalogue.h"

namespace hue {

std::optional<Source> Board::tapTarget() const {
    if (m_selectedWire)
        if (auto source = sourceOf(*m_selectedWire)) return source;
    if (m_selectedOutput) return m_selectedOutput;
    if (m_selection.size() != 1 || !m_session.master()) return {};
    const Node* node = m_session.master()->graph.find(*m_selection.begin());
    const NodeDef* def = node ? nodeDefOf(m_session.project(), *node) : nullptr;
    if (!def) return {};
    for (const PortDef& port : def->outputs)
        if (port.width != kMapPort) return Source{node->id, std::string(port.key), {}};
    return {};
}

std::vector<Source> Board::tapTargets() const {
    std::vector<Source> out;
    if (m_selection.size() > 1 && !m_selectedWire && m_session.master()) {
        for (const Id& id : m_selection) {
            const Node* node = m_session.master()->graph.find(id);
            const NodeDef* def = node ? nodeDefOf(m_session.project(), *node) : nullptr;
            if (!def || node->kind == "parameter") continue;
            for (const PortDef& port : def->outputs)
                if (port.width != kMapPort) {
                    out.push_back({id, std::string(port.key), {}});
                    break;
                }
        }
        std::sort(out.begin(), out.end(), [&](const Source& a, const Source& b) {
            return m_session.master()->graph.find(a.node)->position.y < m_session.master()->graph.find(b.node)->position.y;
        });
        return out;
    }
    if (const auto one = tapTarget()) out.push_back(*one);
    return out;
}

static std::optional<std::string> firstColor(const Node& node, const NodeDef& def, const std::function<bool(const PortDef&)>& shows) {
    for (const PortDef& port : def.inputs)
        if (port.unwired == Unwired::Constant && carriesNumbers(port.width) && !node.wires.contains(std::string(port.key)) && shows(port))
            return std::string(port.key);
    return {};
}

bool Board::hasColor() const {
    const Node* node = m_selection.size() == 1 && m_session.master() ? m_session.master()->graph.find(*m_selection.begin()) : nullptr;
    const NodeDef* def = node ? nodeDefOf(m_session.project(), *node) : nullptr;
    return def && firstColor(*node, *def, [&](const PortDef& port) { return showsColor(*node, port); });
}

void Board::takeColor(const Value& value) {
    if (!hasColor()) return;
    const Node* node = m_session.master()->graph.find(*m_selection.begin());
    const auto port = firstColor(*node, *nodeDefOf(m_session.project(), *node), [&](const PortDef& p) { return showsColor(*node, p); });
    m_session.apply(tr("take color"), [&](const Project& p) { return edit::setConstant(p, m_session.masterId(), node->id, *port, value); });
}

} // namespace hue
