#pragma once
// Pictures as a project's lineup wants them: the same settings for the window and for the command line.
#include "core/compare/compare.h"
#include "preview/renderer.h"

namespace hue {

/// Settings of a specimen's picture; the size is the caller's. A light's file that is not read yet is read now with `wait`; else a
/// neutral light stands in and `lightFile.unread` names it. `lightFile.problem` says why a stand-in light is given.
RenderSettings settingsFor(const Project& project, const Specimen& specimen, LightLibrary& lights, const std::filesystem::path& folder,
                           bool wait);
/// Settings of one of the passes, of four samples a pixel each, whose mean is a fine picture.
RenderSettings finePass(RenderSettings settings, int pass);
/// With 1 to 256 samples a pixel; 4 and more are rounded up to a multiple of four. Errors: those of rendering.
Result<RenderedPicture> renderWithSamples(Renderer& renderer, const DressedSpecimen& specimen, const RenderSettings& settings, int samples);
/// Samples of a pixel of what stands still, in the window and where nothing else is said.
constexpr int kFineSamples = 16;

/// What dressing needs to know of the view.
DressOptions dressFor(const Project& project, const RenderSettings& settings);

/// The picture that a specimen is compared against: rendered with the specimen's mesh and settings when the yardstick is something
/// worn, a map set or another specimen, read from a file otherwise. Nothing when there is no yardstick or it is this specimen.
/// Errors: yardstick.missing, and those of rendering and of reading maps.
Result<std::optional<RenderedPicture>> yardstickPicture(Renderer& renderer, const Project& project, Assets& assets, LookCache& looks,
                                                        size_t specimen, const RenderSettings& settings, double time);

/// A project with a master that shows a map set as it is: base color, occlusion-roughness-metallic, normal, height; any may
/// be missing.
Project withMapSet(const Project& project, const std::array<Id, 4>& maps, const Id& id = "yardstick", const std::string& name = "Map set");

/// An 8-bit RGBA picture from any file that is read. Errors: those of reading.
Result<RenderedPicture> readScreenPicture(const std::filesystem::path& file);
/// An 8-bit PNG of RGBA pixels as a screen shows them, alpha left out. Errors: those of writing.
Outcome writeScreenPicture(const std::filesystem::path& file, const std::vector<uint8_t>& rgba, int width, int height);

} // namespace hue
