#pragma once
// Black-and-white masks, drawn from shapes.
// Threads: any. Nothing is kept between calls.
#include "core/images/image.h"

#include <string>

namespace hue {

/// All places and sizes as shares of the mask's width and height, from the top left corner.
struct MaskShape {
    enum class Kind { Rectangle, Ellipse, Polygon, Line, Text } kind = Kind::Rectangle;
    float x = 0.25f, y = 0.25f, width = 0.5f, height = 0.5f; ///< the box of a rectangle, ellipse or text
    float turn = 0;                                          ///< degrees, about the middle of the box; not of polygons and lines
    float rounding = 0;                                      ///< of a rectangle's corners, share of the smaller side
    std::vector<std::pair<float, float>> points;             ///< of a polygon (closed) or line
    float thickness = 0.02f;                                 ///< of a line, share of the height
    std::string text;                                        ///< UTF-8; fills the box's height and is centred
    float soft = 0;                                          ///< width of the soft edge, share of the height; 0: one pixel
    float value = 1;                                         ///< 0..1: what it paints over what is there
};
std::string_view nameOf(MaskShape::Kind);

struct MaskDrawing {
    int width = 1024, height = 1024; ///< pixels
    float ground = 0;                ///< 0..1
    bool seamless = false;           ///< what leaves at one side comes in at the other
    std::vector<MaskShape> shapes;   ///< later ones over earlier ones
};
/// As people type it: "rectangle X Y WIDTH HEIGHT", "ellipse ...", "line X1 Y1 X2 Y2 THICKNESS", "polygon X1 Y1 X2 Y2 ...", "text X Y WIDTH
/// HEIGHT WORDS". Before the kind there may stand "turn=DEGREES" and "value=0..1". Error: mask.shape.
Result<MaskShape> maskShapeOf(const std::string& text, float soft);
/// Values 0..1. Errors: mask.size, mask.shape (a polygon of fewer than three points, and the like).
Result<Plane> drawMask(const MaskDrawing& drawing);

} // namespace hue
