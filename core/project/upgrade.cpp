#include "core/nodes/catalogue.h"
#include "core/project/upgrade_private.h"

namespace hue {
namespace {

/// Format 1: the scale of Place 2D multiplied, and its offset was added.
void placeAsToday(Graph& graph) {
    std::vector<NodePtr> changed;
    for (const auto& [id, node] : graph.nodes) {
        if (node->kind != "place_2d") continue;
        auto next = std::make_shared<Node>(*node);
        if (auto scale = next->constants.extract("scale")) {
            scale.key() = "tiling";
            next->constants.insert(std::move(scale));
        }
        if (auto scale = next->wires.extract("scale")) {
            scale.key() = "tiling";
            next->wires.insert(std::move(scale));
        }
        if (auto offset = next->constants.find("offset"); offset != next->constants.end())
            for (int c = 0; c < offset->second.width; ++c) offset->second.v[size_t(c)] *= -1;
        if (auto offset = next->wires.find("offset"); offset != next->wires.end()) {
            Node turned = makeNode("multiply", {node->position.x - 120, node->position.y + 60});
            // The same file gives the same project.
            turned.id = id + "_offset";
            while (graph.nodes.contains(turned.id)) turned.id += "_";
            turned.title = "Offset";
            turned.wires["in1"] = offset->second;
            turned.constants["in2"] = Value::number(-1);
            offset->second = {turned.id, "out", {}};
            changed.push_back(std::make_shared<Node>(std::move(turned)));
        }
        changed.push_back(std::move(next));
    }
    for (const NodePtr& node : changed) graph.nodes[node->id] = node;
}

} // namespace

void upgrade(Project& project, int format) {
    if (format >= 2) return;
    for (MasterPtr& master : project.masters) {
        auto next = std::make_shared<Master>(*master);
        placeAsToday(next->graph);
        master = std::move(next);
    }
}

} // namespace hue
