#include "core/maps/tiling.h"

#include "core/images/fourier.h"
#include "core/images/mips.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace hue {
namespace {

Plane lightOf(const Image& image) {
    Plane light(image.width, image.height);
    const int colors = image.channels >= 3 ? 3 : 1;
    for (int c = 0; c < colors; ++c) {
        const Plane p = planeOf(image, c);
        for (size_t i = 0; i < light.values.size(); ++i)
            light.values[i] += (std::isfinite(p.values[i]) ? p.values[i] : 0.f) / float(colors);
    }
    return light;
}

/// Of steps from line n-1 to line 0, against the steps of lines near the edge; `get(line, place)`.
template <class Get> float seamOf(int lines, int places, Get get) {
    if (lines < 4) return 1;
    // How far each step strays from the mean of the steps before and behind it.
    auto stray = [&](int line) {
        double sum = 0;
        for (int k = 0; k < places; ++k) {
            auto at = [&](int l) { return double(get(((l % lines) + lines) % lines, k)); };
            const double step = at(line + 1) - at(line), before = at(line) - at(line - 1), behind = at(line + 2) - at(line + 1);
            const double off = step - (before + behind) / 2;
            sum += off * off;
        }
        return std::sqrt(sum / places);
    };
    const double seam = stray(lines - 1);
    // Lines all over the map, since one beside the seam may happen to be quiet.
    const int count = std::min(96, lines - 3);
    std::vector<double> usual;
    for (int k = 0; k < count; ++k) usual.push_back(stray(1 + k * (lines - 3) / count));
    std::sort(usual.begin(), usual.end());
    // Black and white masks have many empty lines; the upper part tells what the map does where it does anything.
    const double typical = usual[usual.size() * 3 / 4];
    constexpr double kInvisible = 0.5 / 255; // a step below one of 8 bits shows nowhere
    return float((seam + kInvisible) / (typical + kInvisible));
}

} // namespace

SeamMeter seamMeter(const Image& image) {
    // Some hundred lines are looked at, so a large map is not made floats as a whole.
    const int colors = image.channels >= 3 ? 3 : 1;
    const auto light = [&](int x, int y) {
        float sum = 0;
        for (int c = 0; c < colors; ++c)
            if (const float v = image.at(x, y, c); std::isfinite(v)) sum += v / float(colors);
        return sum;
    };
    return {seamOf(image.width, image.height, [&](int x, int y) { return light(x, y); }),
            seamOf(image.height, image.width, [&](int y, int x) { return light(x, y); })};
}

RepetitionMeter repetitionMeter(const Image& image) {
    constexpr int side = 256, most = 2048;
    // A large map is halved first: a float for each of its pixels would take more memory than the map.
    Image halves;
    const auto now = [&]() -> const Image& { return halves.empty() ? image : halves; };
    while (now().width > most && now().height > most) halves = halved(now(), false);
    const Plane light = resized(lightOf(now()), std::min(side, image.width), std::min(side, image.height), Filter::Box);
    const int w = light.width, h = light.height;
    double mean = 0;
    for (float v : light.values) mean += v;
    mean /= double(light.values.size());
    Spectrum s(w, h);
    double power = 0;
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) {
            const float v = light.at(x, y) - float(mean);
            s.at(x, y) = v;
            power += double(v) * v;
        }
    RepetitionMeter m;
    if (power / double(w * h) < 1e-8) return m;
    s.transform(false);
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) s.at(x, y) = std::norm(s.at(x, y));
    s.transform(true);
    const float whole = s.at(0, 0).real();
    // Around the middle every map is like itself; a peak is higher than all around it.
    const int clear = std::max(2, std::min(w, h) / 24);
    for (int y = 0; y <= h / 2; ++y)
        for (int x = -w / 2; x < w / 2; ++x) {
            if (x * x + y * y < clear * clear) continue;
            auto at = [&](int i, int k) { return s.at(((i % w) + w) % w, ((k % h) + h) % h).real(); };
            const float here = at(x, y);
            bool peak = true;
            for (int j = -1; j <= 1 && peak; ++j)
                for (int i = -1; i <= 1; ++i) peak = peak && here >= at(x + i, y + j);
            // A peak that repeats the whole tile is no repetition inside it.
            if (!peak || here / whole <= m.strength) continue;
            m.strength = std::clamp(here / whole, 0.f, 1.f);
            m.stepX = float(std::abs(x)) / float(w), m.stepY = float(y) / float(h);
        }
    // Sixteen pieces by sixteen: does one stand out?
    const Plane pieces = resized(light, std::min(16, w), std::min(16, h), Filter::Box);
    double sum = 0, squares = 0;
    float furthest = 0;
    for (float v : pieces.values) sum += v, squares += double(v) * v;
    const double n = double(pieces.values.size()), middle = sum / n, spread = std::sqrt(std::max(0.0, squares / n - middle * middle));
    for (float v : pieces.values) furthest = std::max(furthest, std::fabs(v - float(middle)));
    if (spread > 1e-4) m.landmark = float(furthest / spread);
    return m;
}

Image offsetByHalf(const Image& image) {
    Image out = image;
    const size_t pixel = size_t(image.channels) * bytesOf(image.type);
    const size_t half = size_t(image.width / 2) * pixel, rest = image.rowBytes() - half;
    for (int y = 0; y < image.height; ++y) {
        const std::byte* from = image.row((y + image.height / 2) % image.height);
        std::copy(from + half, from + half + rest, out.row(y));
        std::copy(from, from + half, out.row(y) + rest);
    }
    return out;
}

} // namespace hue
