#include "core/surface/views.h"

#include "core/surface/channels.h"

#include <algorithm>
#include <cctype>

namespace hue {

const std::vector<ViewDef>& views() {
    using Kind = ViewDef::Kind;
    static const std::vector<ViewDef> all = [] {
        std::vector<ViewDef> list{{"lit", "lit", "The surface in its light", Kind::Light, 0},
                                  {"light_only", "light only", "The light alone, on a white surface with its normals", Kind::Light, 1},
                                  {"unlit", "unlit", "Base color with alpha, without light", Kind::Check, 100}};
        for (size_t i = 0; i < channels().size(); ++i) {
            const ChannelDef& c = channels()[i];
            std::string name(c.name);
            for (char& letter : name) letter = char(std::tolower(letter));
            // The offset is no channel of a pixel; dressing puts its wire in the place of the surface.
            const bool offset = c.key == "vertex_offset";
            list.push_back({std::string(c.key), name, std::string(c.help), offset ? Kind::Check : Kind::Channel, offset ? 102 : int(i)});
        }
        list.push_back({"wire", "wire", "The chosen wire on the mesh", Kind::Check, 102});
        list.push_back({"invalid", "invalid pixels", "Not finite: red stripes; out of a channel's range: amber stripes", Kind::Check, 101});
        list.push_back({"world_normal", "world normals", "Of the mesh, without maps", Kind::Mesh, 0});
        list.push_back({"faces", "face orientation", "Backs of faces are dark and striped", Kind::Mesh, 1});
        list.push_back({"uv0", "UV0 grid", "Eighths of the first UV set; the unit square is lighter", Kind::Mesh, 2});
        list.push_back({"uv1", "UV1 grid", "Eighths of the second UV set", Kind::Mesh, 3});
        list.push_back({"vertex_color", "vertex colors", "Painted on the mesh", Kind::Mesh, 4});
        list.push_back({"wireframe", "wireframe", "The mesh's edges", Kind::Mesh, 5});
        list.push_back({"overdraw", "overdraw", "How often each pixel is computed", Kind::Count, 0});
        list.push_back({"cost", "cost per pixel", "Operations and fetches spent on each pixel, overdraw included", Kind::Count, 1});
        return list;
    }();
    return all;
}

int findView(std::string_view key) {
    std::string wanted(key);
    std::replace(wanted.begin(), wanted.end(), '-', '_');
    for (size_t i = 0; i < views().size(); ++i)
        if (views()[i].key == wanted) return int(i);
    return -1;
}

} // namespace hue
