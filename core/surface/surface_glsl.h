#pragma once
// The stages that light the channels. Where the channels come from does not matter: from a linked build of the graph or
// from the CPU evaluator.
// Threads: any. Nothing is kept between calls.
#include <string>

namespace hue {

/// How the channels lie in the targets, as GLSL: hs_Surface, hs_plain() with the defaults, hs_write() or hs_read(ivec2). Twin of
/// packPixel() in channel_targets.h, from the same table. With `full` all targets, else those of the core.
std::string channelTargetsGlsl(bool full, bool writes);
/// The name of the sampler that a stage reads a target by.
std::string targetSampler(int target);

/// The reflectance model: hs_reflect(surface, v, l, out diffuse, out mirrored), twin of reflect() in reflectance.h.
std::string reflectanceGlsl();

// The stages below are put together once.

/// Reads the channel targets and writes linear radiance, premultiplied with coverage.
const std::string& lightingFragmentStage(bool full);
/// Reads the channel targets and writes what is shown of a channel or a check, already encoded for the screen.
const std::string& viewFragmentStage(bool full);
/// Backdrop where nothing is covered; the first thing that is drawn into a picture.
const std::string& backdropFragmentStage();
/// Radiance to screen: exposure, glare, tone curve, encoding.
const std::string& screenFragmentStage();
/// What is brighter than the screen's white, for glare.
const std::string& glareFragmentStage();

} // namespace hue
