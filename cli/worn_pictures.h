#pragma once
// Pictures of masters and instances without a window: as a contact sheet, and kept in a folder to be compared with later.
#include "cli/opened.h"
#include "core/picture/looks.h"
#include "core/surface/light_files.h"
#include "preview/egl_context.h"
#include "preview/renderer.h"

#include <memory>

namespace CLI {
class App;
}

namespace hue::cli {

/// Draws what is worn, one after the other, each on the same mesh in the project's light.
class WornPictures {
  public:
    /// Errors: those of finding a graphics driver.
    static Result<std::unique_ptr<WornPictures>> start(Opened& opened);

    int side = 256, samples = 16; ///< pixels; samples of each
    double time = 0;              ///< seconds
    Id mesh = "shape:sphere";
    /// RGBA, `side` square. Errors: why the light cannot be read, why it has no picture.
    Result<RenderedPicture> draw(const Id& worn);

  private:
    explicit WornPictures(Opened& opened) : m_opened(opened) {}
    Opened& m_opened;
    std::unique_ptr<EglContext> m_context;
    std::unique_ptr<Renderer> m_renderer;
    LookCache m_looks;
    LightLibrary m_lights;
};

struct PictureCheck {
    std::string folder; ///< of the kept pictures
    std::string sheet;  ///< FILE.png: those that differ, as they were kept and as they are
    bool keep = false;  ///< draw and keep them, whatever was there
    double limit = 1;   ///< CIEDE2000, mean over the picture
};
/// Every master and instance against its kept picture; prints what differs beyond the limit, the most first, what is new and what is gone.
/// 0 where nothing differs, 1 where something does, 2 where it cannot be done.
int checkPictures(Opened& opened, const PictureCheck& check);

} // namespace hue::cli
