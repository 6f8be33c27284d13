#include "core/images/fourier.h"

#include <kiss_fft.h>
#include <memory>

namespace hue {

Spectrum::Spectrum(const Plane& plane) : Spectrum(plane.width, plane.height) {
    for (size_t i = 0; i < m_values.size(); ++i) m_values[i] = plane.values[i];
}

Plane Spectrum::real() const {
    Plane p(m_width, m_height);
    for (size_t i = 0; i < m_values.size(); ++i) p.values[i] = m_values[i].real();
    return p;
}

void Spectrum::transform(bool back) {
    struct Free {
        void operator()(kiss_fft_cfg c) const { kiss_fft_free(c); }
    };
    using Config = std::unique_ptr<kiss_fft_state, Free>;
    forRows(m_height, 0, [&](int from, int to) {
        const Config config(kiss_fft_alloc(m_width, back, nullptr, nullptr));
        std::vector<kiss_fft_cpx> in(static_cast<size_t>(m_width)), out(in.size());
        for (int y = from; y < to; ++y) {
            for (int x = 0; x < m_width; ++x) in[size_t(x)] = {at(x, y).real(), at(x, y).imag()};
            kiss_fft(config.get(), in.data(), out.data());
            for (int x = 0; x < m_width; ++x) at(x, y) = {out[size_t(x)].r, out[size_t(x)].i};
        }
    });
    // Eight columns at a time, which is a cache line of a row.
    const int groups = (m_width + 7) / 8;
    forRows(groups, 0, [&](int from, int to) {
        const Config config(kiss_fft_alloc(m_height, back, nullptr, nullptr));
        std::vector<kiss_fft_cpx> in(size_t(m_height) * 8), out(static_cast<size_t>(m_height));
        for (int g = from; g < to; ++g) {
            const int first = g * 8, count = std::min(8, m_width - first);
            for (int y = 0; y < m_height; ++y)
                for (int k = 0; k < count; ++k)
                    in[size_t(k) * size_t(m_height) + size_t(y)] = {at(first + k, y).real(), at(first + k, y).imag()};
            for (int k = 0; k < count; ++k) {
                kiss_fft(config.get(), in.data() + size_t(k) * size_t(m_height), out.data());
                for (int y = 0; y < m_height; ++y) at(first + k, y) = {out[size_t(y)].r, out[size_t(y)].i};
            }
        }
    });
}

} // namespace hue
