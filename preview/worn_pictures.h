#pragma once
// Pictures of masters and instances without a window, one by one or together on a contact sheet.
// Threads: the one that started it.
#include "core/base/work.h"
#include "core/compare/compare.h"
#include "core/picture/contact_sheet.h"
#include "core/picture/looks.h"
#include "core/surface/light_files.h"
#include "preview/egl_context.h"
#include "preview/renderer.h"

#include <memory>
#include <optional>

namespace hue {

/// Draws what is worn, one after the other, each on the same mesh in the project's light.
class WornPictures {
  public:
    /// Both stay as long as this. Errors: those of finding a graphics driver.
    static Result<std::unique_ptr<WornPictures>> start(const Project& project, Assets& assets);

    int side = 256, samples = 16; ///< pixels; samples of each
    double time = 0;              ///< seconds
    Id mesh = "shape:sphere";
    /// RGBA, `side` square. Errors: why the light cannot be read, why it has no picture.
    Result<RenderedPicture> draw(const Id& worn) { return draw(m_project, worn); }
    /// The same of another state of the project.
    Result<RenderedPicture> draw(const Project& state, const Id& worn);
    /// All of them, each with its name under it; where they are of one master, without that before each. RGBA of the layout's width and
    /// height. Errors: those of draw(), sheet.too-large, stopped.
    Result<std::vector<uint8_t>> sheet(const std::vector<Id>& worn, const SheetLayout& layout, const Work& work = {});

  private:
    WornPictures(const Project& project, Assets& assets) : m_project(project), m_assets(assets) {}
    const Project& m_project;
    Assets& m_assets;
    std::unique_ptr<EglContext> m_context;
    std::unique_ptr<Renderer> m_renderer;
    LookCache m_looks;
    LightLibrary m_lights;
};

inline PictureView viewOf(const RenderedPicture& p) { return {p.width, p.height, p.rgba.data()}; }

/// How far what is worn lies, in other states of the project, from how it looks in the first. Draw with assets that show maps as a graphics
/// card reads them: what a block format does is to be seen.
class LooksApart {
  public:
    /// Of all of `worn`, which is not empty. Errors: those of WornPictures, of the first; others that cannot be drawn are left out.
    /// `first` and `assets` stay as long as this.
    static Result<LooksApart> start(const Project& first, Assets& assets, const std::vector<Id>& worn, int side);
    struct Look {
        Id worn;
        RenderedPicture picture;
    };
    /// Those that are drawn, as they look in the first state.
    const std::vector<Look>& first() const { return m_first; }
    struct Apart {
        size_t which = 0;        ///< of first(): the one that differs most
        Comparison by;           ///< CIEDE2000 and FLIP, means over its picture
        RenderedPicture picture; ///< of it, in the other state
    };
    /// Error: why one of them has no picture in that state.
    Result<Apart> of(const Project& state);

  private:
    LooksApart(std::unique_ptr<WornPictures> pictures, std::vector<Look> first)
        : m_pictures(std::move(pictures)), m_first(std::move(first)) {}
    std::unique_ptr<WornPictures> m_pictures;
    std::vector<Look> m_first;
};

} // namespace hue
