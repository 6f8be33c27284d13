#pragma once
// Lights from HDR and EXR files: pictures of the whole surroundings, width twice the height (equirectangular).
#include "core/base/result.h"
#include "core/surface/environment.h"

#include <filesystem>
#include <map>
#include <mutex>

namespace hue {

/// Reads and prefilters; +Z of the scene is in the middle of the picture, +X left of it. Takes some hundred milliseconds.
/// With a cache folder the result is kept there by the file's content, and read from there next time.
/// Errors: light.missing, light.unreadable, light.not-a-panorama.
Result<LightPtr> readLight(const std::filesystem::path& file, const std::filesystem::path& cache = {});

/// Where prefiltered lights are kept between starts; empty when the user has no home.
std::filesystem::path lightCacheFolder();

/// A light by id or path, ready to draw with.
struct ReadyLight {
    std::string key; ///< differs for different lights and file contents
    Sun sun;
    LightPtr filtered;
    std::string problem; ///< why a stand-in light is given
};

/// Lights of a project. Files are read in the background when asked to.
class LightLibrary {
  public:
    ~LightLibrary();
    /// For a file that is not ready yet, `wait` reads it now; else the neutral light stands in and `whenReady` is called
    /// from another thread once it is there.
    ReadyLight get(const std::string& id, const std::filesystem::path& folder, bool wait, const std::function<void()>& whenReady = {});

  private:
    struct Shared;
    std::shared_ptr<Shared> m_shared;
};

} // namespace hue
