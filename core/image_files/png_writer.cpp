#include "core/image_files/png_writer.h"

#include "core/base/work.h"

#include <algorithm>
#include <cstdio>
#include <cstring>
#include <zlib.h>

namespace hue {
namespace {

namespace fs = std::filesystem;

constexpr size_t kBandBytes = 1 << 20;
constexpr size_t kWindow = 32768;
// Past this level zlib takes twice the time for some hundredths of the size.
constexpr int kLevel = 4;

void put32(uint8_t* p, uint32_t v) {
    for (int k = 0; k < 4; ++k) p[k] = uint8_t(v >> (24 - 8 * k));
}

/// One of the five filters of the PNG specification, 9.2; the one with the smallest sum of absolute differences is
/// kept, out of None, Sub, Up and Paeth.
class RowFilter {
  public:
    RowFilter(size_t rowBytes, size_t pixelBytes)
        : m_pixel(pixelBytes), m_tries{std::vector<uint8_t>(rowBytes), std::vector<uint8_t>(rowBytes), std::vector<uint8_t>(rowBytes)} {}

    void append(const uint8_t* row, const uint8_t* above, size_t bytes, std::vector<uint8_t>& out) {
        auto weigh = [&](const uint8_t* p) {
            uint32_t sum = 0;
            for (size_t i = 0; i < bytes; ++i) sum += uint32_t(p[i] < 128 ? p[i] : 256 - p[i]);
            return sum;
        };
        uint8_t* sub = m_tries[0].data();
        std::memcpy(sub, row, std::min(m_pixel, bytes));
        for (size_t i = m_pixel; i < bytes; ++i) sub[i] = uint8_t(row[i] - row[i - m_pixel]);
        uint8_t kind = 0;
        const uint8_t* best = row;
        uint32_t least = weigh(row);
        auto offer = [&](uint8_t k, const uint8_t* p) {
            if (const uint32_t w = weigh(p); w < least) least = w, kind = k, best = p;
        };
        offer(1, sub);
        if (above) {
            uint8_t *up = m_tries[1].data(), *paeth = m_tries[2].data();
            for (size_t i = 0; i < bytes; ++i) up[i] = uint8_t(row[i] - above[i]);
            offer(2, up);
            for (size_t i = 0; i < std::min(m_pixel, bytes); ++i) paeth[i] = up[i];
            for (size_t i = m_pixel; i < bytes; ++i) {
                const int a = row[i - m_pixel], b = above[i], c = above[i - m_pixel];
                const int pa = std::abs(b - c), pb = std::abs(a - c), pc = std::abs(a + b - 2 * c);
                const int guess = pa <= pb && pa <= pc ? a : pb <= pc ? b : c;
                paeth[i] = uint8_t(row[i] - guess);
            }
            offer(4, paeth);
        }
        out.push_back(kind);
        out.insert(out.end(), best, best + bytes);
    }

  private:
    size_t m_pixel;
    std::vector<uint8_t> m_tries[3];
};

struct Band {
    std::vector<uint8_t> rows;     ///< as the file stores samples
    std::vector<uint8_t> filtered; ///< filter bytes included
    std::vector<uint8_t> packed;
    uLong adler = 1;
};

class PngWriter final : public ImageWriter {
  public:
    /// `write` receives the bytes in order and says whether they went through; `end` finishes, given whether all of them did.
    PngWriter(const ImageFacts& facts, std::function<bool(const void*, size_t)> write, std::function<Outcome(bool)> end)
        : m_facts(facts), m_write(std::move(write)), m_end(std::move(end)) {
        m_rowBytes = size_t(facts.width) * size_t(facts.channels) * bytesOf(facts.type);
        m_bandRows = std::max(1, int(kBandBytes / std::max<size_t>(m_rowBytes, 1)));
        m_bandsAtOnce = threadsAtOnce();
    }

    void begin(PixelEncoding encoding) {
        static constexpr uint8_t signature[] = {0x89, 'P', 'N', 'G', '\r', '\n', 0x1A, '\n'};
        write(signature, sizeof signature);
        uint8_t head[13] = {};
        put32(head, uint32_t(m_facts.width));
        put32(head + 4, uint32_t(m_facts.height));
        head[8] = m_facts.type == SampleType::U8 ? 8 : 16;
        static constexpr uint8_t colorTypes[] = {0, 4, 2, 6};
        head[9] = colorTypes[m_facts.channels - 1];
        chunk("IHDR", head, sizeof head);
        // Data maps say nothing of their encoding: a gamma written there makes some readers change the values.
        const uint8_t intent = 0;
        if (encoding == PixelEncoding::Srgb) chunk("sRGB", &intent, 1);
        const uint8_t start[] = {0x78, 0x5E}; // zlib, window of 32 KB
        m_pending.assign(start, start + 2);
    }

    Outcome rows(const std::byte* samples, int count) override {
        const auto* from = reinterpret_cast<const uint8_t*>(samples);
        for (int y = 0; y < count; ++y, from += m_rowBytes) {
            if (m_bands.empty() || m_bands.back().rows.size() >= size_t(m_bandRows) * m_rowBytes) {
                if (int(m_bands.size()) == m_bandsAtOnce) flush(false);
                m_bands.emplace_back();
                m_bands.back().rows.reserve(size_t(m_bandRows) * m_rowBytes);
            }
            std::vector<uint8_t>& rows = m_bands.back().rows;
            const size_t at = rows.size();
            rows.insert(rows.end(), from, from + m_rowBytes);
            if (m_facts.type == SampleType::U16)
                for (size_t i = at; i < rows.size(); i += 2) std::swap(rows[i], rows[i + 1]);
        }
        return m_good ? Done{} : m_end(false);
    }

    Outcome finish() override {
        flush(true);
        chunk("IEND", nullptr, 0);
        return m_end(m_good);
    }

  private:
    void write(const void* p, size_t n) { m_good = m_good && m_write(p, n); }

    void chunk(const char* name, const uint8_t* data, size_t bytes) {
        uint8_t four[4];
        put32(four, uint32_t(bytes));
        write(four, 4);
        uLong crc = crc32(0, reinterpret_cast<const Bytef*>(name), 4);
        if (bytes) crc = crc32(crc, data, uInt(bytes));
        write(name, 4);
        if (bytes) write(data, bytes);
        put32(four, uint32_t(crc));
        write(four, 4);
    }

    /// Filters and deflates all bands that wait, side by side, and writes them in order.
    void flush(bool last) {
        const size_t pixel = size_t(m_facts.channels) * bytesOf(m_facts.type);
        forEach(m_bands.size(), [&](size_t b) {
            Band& band = m_bands[b];
            RowFilter filter(m_rowBytes, pixel);
            const size_t count = band.rows.size() / m_rowBytes;
            band.filtered.reserve(band.rows.size() + count);
            const std::vector<uint8_t>& before = b ? m_bands[b - 1].rows : m_lastRow;
            const uint8_t* above = before.empty() ? nullptr : before.data() + before.size() - m_rowBytes;
            for (size_t y = 0; y < count; ++y) {
                const uint8_t* row = band.rows.data() + y * m_rowBytes;
                filter.append(row, above, m_rowBytes, band.filtered);
                above = row;
            }
            band.adler = adler32(1, band.filtered.data(), uInt(band.filtered.size()));
        });
        forEach(m_bands.size(), [&](size_t b) {
            Band& band = m_bands[b];
            z_stream z{};
            deflateInit2(&z, kLevel, Z_DEFLATED, -15, 9, Z_DEFAULT_STRATEGY);
            const std::vector<uint8_t>& before = b ? m_bands[b - 1].filtered : m_window;
            const size_t known = std::min(before.size(), kWindow);
            if (known) deflateSetDictionary(&z, before.data() + before.size() - known, uInt(known));
            band.packed.resize(deflateBound(&z, uLong(band.filtered.size())) + 16);
            z.next_in = band.filtered.data();
            z.avail_in = uInt(band.filtered.size());
            z.next_out = band.packed.data();
            z.avail_out = uInt(band.packed.size());
            deflate(&z, last && b + 1 == m_bands.size() ? Z_FINISH : Z_SYNC_FLUSH);
            band.packed.resize(band.packed.size() - z.avail_out);
            deflateEnd(&z);
        });
        for (Band& band : m_bands) {
            m_pending.insert(m_pending.end(), band.packed.begin(), band.packed.end());
            m_adler = adler32_combine(m_adler, band.adler, long(band.filtered.size()));
        }
        if (!m_bands.empty()) {
            Band& end = m_bands.back();
            m_lastRow.assign(end.rows.end() - long(m_rowBytes), end.rows.end());
            m_window = std::move(end.filtered);
            if (m_window.size() > kWindow) m_window.erase(m_window.begin(), m_window.end() - long(kWindow));
        }
        m_bands.clear();
        if (last) {
            m_pending.resize(m_pending.size() + 4);
            put32(m_pending.data() + m_pending.size() - 4, uint32_t(m_adler));
        }
        chunk("IDAT", m_pending.data(), m_pending.size());
        m_pending.clear();
    }

    ImageFacts m_facts;
    std::function<bool(const void*, size_t)> m_write;
    std::function<Outcome(bool)> m_end;
    size_t m_rowBytes = 0;
    int m_bandRows = 1, m_bandsAtOnce = 1;
    std::vector<Band> m_bands;
    std::vector<uint8_t> m_lastRow, m_window, m_pending;
    uLong m_adler = 1;
    bool m_good = true;
};

} // namespace

Result<std::unique_ptr<ImageWriter>> createPngWriter(NewFile file, const ImageFacts& facts, PixelEncoding encoding) {
    struct Open {
        NewFile file;
        std::FILE* stream;
        explicit Open(NewFile f) : file(std::move(f)), stream(std::fopen(file.temporary().c_str(), "wb")) {}
        ~Open() {
            if (stream) std::fclose(stream);
        }
    };
    auto open = std::make_shared<Open>(std::move(file));
    if (!open->stream) return open->file.failed(std::strerror(errno));
    auto writer = std::make_unique<PngWriter>(
        facts, [open](const void* p, size_t n) { return std::fwrite(p, 1, n, open->stream) == n; },
        [open](bool good) -> Outcome {
            if (std::fclose(std::exchange(open->stream, nullptr)) != 0 || !good) return open->file.failed();
            return open->file.keep();
        });
    writer->begin(encoding);
    return std::unique_ptr<ImageWriter>(std::move(writer));
}

std::vector<unsigned char> pngOf(const Image& image, PixelEncoding encoding) {
    std::vector<unsigned char> bytes;
    PngWriter writer(
        {image.width, image.height, image.channels, image.type, {}},
        [&](const void* p, size_t n) {
            const auto* from = static_cast<const unsigned char*>(p);
            bytes.insert(bytes.end(), from, from + n);
            return true;
        },
        [](bool) -> Outcome { return Done{}; });
    writer.begin(encoding);
    if (!writer.rows(image.samples.data(), image.height) || !writer.finish()) bytes.clear();
    return bytes;
}

} // namespace hue
