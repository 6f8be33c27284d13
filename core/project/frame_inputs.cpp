#include "core/project/frame_inputs.h"

#include "core/compile/compile.h"
#include "core/project/map_library.h"

namespace hue {

FrameInputs frameInputs(const Project& project, Assets& assets, const Resolved& resolved, double time,
                        std::optional<MapLibrary::View> view) {
    FrameInputs inputs;
    inputs.time = time;
    inputs.parameter = [&project, &resolved](const Id& id) {
        Value live;
        if (resolved.master && liveConstantValue(project, *resolved.master, id, live)) return live;
        auto it = resolved.values.find(id);
        return it == resolved.values.end() ? Value{} : it->second.value.value;
    };
    inputs.map = [&project, &assets, &resolved, view](const MapSlot& slot) {
        return assets.map(project, resolved, slot, view.value_or(assets.view()));
    };
    return inputs;
}

} // namespace hue
