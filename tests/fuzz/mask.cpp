// Any lines as the shapes of a mask: what is understood is drawn, with values from 0 to 1.
#include "core/maps/mask.h"
#include "tests/fuzz/fuzz.h"

#include <sstream>

using namespace hue;

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
    MaskDrawing d;
    d.width = d.height = 24;
    std::istringstream lines(fuzz::textOf(data, size));
    int count = 0;
    for (std::string line; std::getline(lines, line) && count < 8; ++count) {
        const Result<MaskShape> shape = maskShapeOf(line, count % 2 ? 0.1f : 0.f);
        if (shape) d.shapes.push_back(*shape);
        else fuzz::isReason(shape.error());
    }
    d.seamless = size % 2;
    const Result<Plane> mask = drawMask(d);
    if (!mask) {
        fuzz::isReason(mask.error());
        return 0;
    }
    for (float x : mask->values)
        if (!(x >= 0 && x <= 1)) std::abort();
    return 0;
}
