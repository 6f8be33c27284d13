#include "app/stations/paint/decal_handles.h"

#include "app/parts/theme.h"
#include "core/base/vectors.h"

namespace hue {
namespace {

constexpr double kReach = 9; ///< pixels around a handle

} // namespace

DecalHandles::DecalHandles(const View& view, const SurfaceRays& surface, const Decal& decal) {
    whole = true;
    const auto pixel = [&](const Rgb& place) {
        const auto at = pixelOf(view, place);
        whole = whole && at;
        return at ? QPointF(double((*at)[0]), double((*at)[1])) : QPointF();
    };
    for (const Rgb& place : frameOn(surface, decal)) frame << pixel(place);
    const auto places = decalCorners(decal);
    for (size_t k = 0; k < 4; ++k) corners[k] = pixel(places[k]);
    // From the middle of the upper edge out of the surface, leaning up so that it is seen from the front as well.
    const DecalAxes axes = decalAxes(decal);
    const Rgb foot = scaled(sum(places[2], places[3]), 0.5f);
    mastFoot = pixel(foot);
    mastEnd = pixel(sum(foot, sum(scaled(axes.up, 0.2f * decal.height), scaled(axes.out, decal.depth / 2))));
}

DecalHandles::Grip DecalHandles::gripAt(const QPointF& at) const {
    if (!whole) return Grip::None;
    const auto near = [&](const QPointF& handle) { return QLineF(at, handle).length() <= kReach; };
    if (near(mastEnd)) return Grip::Mast;
    for (const QPointF& corner : corners)
        if (near(corner)) return Grip::Corner;
    return frame.containsPoint(at, Qt::OddEvenFill) ? Grip::Middle : Grip::None;
}

void DecalHandles::paint(QPainter& p, bool held) const {
    if (!whole) return;
    const Theme& t = theme();
    p.setBrush(Qt::NoBrush);
    const auto line = [&](auto draw) {
        p.setPen(QPen(t.card, 3));
        draw();
        p.setPen(QPen(t.ink, 1));
        draw();
    };
    line([&] { p.drawPolygon(frame); });
    if (!held) return;
    line([&] { p.drawLine(mastFoot, mastEnd); });
    p.setPen(QPen(t.ink, 1));
    p.setBrush(t.card);
    for (const QPointF& corner : corners) p.drawRect(QRectF(corner - QPointF(3.5, 3.5), QSizeF(7, 7)));
    p.drawEllipse(mastEnd, 4.5, 4.5);
    p.setBrush(Qt::NoBrush);
}

} // namespace hue
