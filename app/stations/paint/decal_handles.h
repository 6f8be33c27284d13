#pragma once
// The frame of the decal in hand, as it lies in the picture, and what the mouse takes hold of.
#include "core/decals/decal_box.h"
#include "core/picture/sight.h"

#include <QPainter>

namespace hue {

/// A thin frame on the surface with a short mast: corners size, the mast's end turns, the middle moves.
struct DecalHandles {
    enum class Grip { None, Middle, Corner, Mast };

    QPolygonF frame;
    std::array<QPointF, 4> corners;
    QPointF mastFoot, mastEnd;
    bool whole = false; ///< all of it lies before the eye; else nothing is drawn, nor taken hold of

    DecalHandles() = default;
    DecalHandles(const View& view, const SurfaceRays& surface, const Decal& decal);

    Grip gripAt(const QPointF& at) const;
    /// `held`: with its handles, else the frame alone.
    void paint(QPainter& p, bool held) const;
};

} // namespace hue
