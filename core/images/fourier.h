#pragma once
// Fourier transforms of planes that repeat.
// Threads: any. Nothing is kept between calls.
#include "core/images/image.h"

#include <complex>

namespace hue {

/// In place, rows then columns, on all cores; unscaled in both directions, so there and back multiplies by width*height.
class Spectrum {
  public:
    Spectrum(int width, int height) : m_width(width), m_height(height), m_values(size_t(width) * size_t(height)) {}
    explicit Spectrum(const Plane& plane);
    int width() const { return m_width; }
    int height() const { return m_height; }
    std::complex<float>& at(int x, int y) { return m_values[size_t(y) * size_t(m_width) + size_t(x)]; }
    void transform(bool back);
    Plane real() const;

  private:
    int m_width, m_height;
    std::vector<std::complex<float>> m_values;
};

} // namespace hue
