#pragma once
// Lights from HDR and EXR files: pictures of the whole surroundings, width twice the height (equirectangular).
// Threads: any. What is kept between calls is kept under a lock.
#include "core/base/result.h"
#include "core/surface/environment.h"

#include <filesystem>
#include <memory>

namespace hue {

/// Reads and prefilters; +Z of the scene is in the middle of the picture, +X left of it. Takes some hundred milliseconds.
/// With a cache folder the result is kept there by the file's content, and read from there next time.
/// Errors: light.missing, light.unreadable, light.not-a-panorama.
Result<LightPtr> readLight(const std::filesystem::path& file, const std::filesystem::path& cache = {});

/// Whether a file can be a light, by its head. Errors: those of readLight.
Outcome canBeLight(const std::filesystem::path& file);

/// Where prefiltered lights are kept between starts; empty when the user has no home.
std::filesystem::path lightCacheFolder();

/// A light by id or path, ready to draw with.
struct ReadyLight {
    std::string key; ///< differs for different lights and file contents
    Sun sun;
    LightPtr filtered;
    std::string problem;          ///< why a stand-in light is given
    std::filesystem::path unread; ///< a file that nobody has read yet, for which the neutral light stands in; see LightLibrary::read
};

/// Lights of a project. Any thread.
class LightLibrary {
  public:
    LightLibrary();
    ~LightLibrary();
    /// A file that was not read yet, or has changed since, is read now with `wait`; else it is named as unread.
    ReadyLight get(const std::string& id, const std::filesystem::path& folder, bool wait);
    /// Reads a file, so that get() finds it; takes some hundred milliseconds. Callers that want the same file wait for the first.
    void read(const std::filesystem::path& file);

  private:
    struct Shared;
    std::unique_ptr<Shared> m;
};

} // namespace hue
