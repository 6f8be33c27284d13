#pragma once
// A lit picture of a specimen by the CPU alone: what is seen until a graphics driver has linked its stages, and an independent second
// opinion on what it draws.
// Threads: any. Nothing is kept between calls.
#include "core/base/work.h"
#include "core/picture/view.h"
#include "core/surface/picture_channels.h"

namespace hue {

/// Packed channels of a region of the opaque surfaces, masks cut away. `rasterise` gives the attributes of one round: of what is nearest
/// behind `cut`, a depth for each pixel of the region, null in the first round.
using Rasterise = std::function<Result<AttributePicture>(const std::vector<float>* cut)>;
/// `depth` gets that of the pixels, 1 where nothing is.
Result<ChannelPicture> opaqueChannels(const DressedSpecimen& specimen, const View& view, const Rasterise& rasterise,
                                      std::vector<float>* depth = nullptr, const Work& work = {});

/// Whether softwarePicture() can draw these settings: those whose view is lit.
bool drawsInSoftware(const RenderSettings& settings);

/// The picture with one sample a pixel. What it leaves to a graphics card: reflections of things, and for surfaces that let light through
/// what their cards ask of the scene behind them (depth and color), which get the values of an empty scene.
/// Errors: light.unknown; render.size; work.cancelled.
Result<RenderedPicture> softwarePicture(const DressedSpecimen& specimen, const RenderSettings& settings, const Work& work = {});

} // namespace hue
