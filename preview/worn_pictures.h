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
    /// Errors: those of WornPictures. `first` and `assets` stay as long as this.
    static Result<LooksApart> start(const Project& first, Assets& assets, const Id& worn, int side);
    const RenderedPicture& first() const { return m_first; }
    Result<RenderedPicture> picture(const Project& state) { return m_pictures->draw(state, m_worn); }
    /// CIEDE2000 and FLIP, means over the picture; nothing where it has none.
    std::optional<Comparison> of(const Project& state);

  private:
    LooksApart(std::unique_ptr<WornPictures> pictures, RenderedPicture first, Id worn)
        : m_pictures(std::move(pictures)), m_first(std::move(first)), m_worn(std::move(worn)) {}
    std::unique_ptr<WornPictures> m_pictures;
    RenderedPicture m_first;
    Id m_worn;
};

} // namespace hue
