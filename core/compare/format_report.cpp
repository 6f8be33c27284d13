#include "core/compare/format_report.h"

#include "core/base/value.h"
#include "core/compare/compare.h"
#include "core/images/channel_names.h"
#include "core/maps/normal_tools.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <fmt/format.h>

namespace hue {
namespace {

/// 8-bit RGBA for FLIP: the picture, or one channel as grey.
std::vector<uint8_t> shown(const Image& image, int channel) {
    std::vector<uint8_t> out(size_t(image.width) * size_t(image.height) * 4, 255);
    std::vector<float> row(size_t(image.width) * size_t(image.channels));
    for (int y = 0; y < image.height; ++y) {
        toFloats(image.type, image.row(y), row.size(), row.data());
        for (int x = 0; x < image.width; ++x) {
            uint8_t* p = &out[(size_t(y) * size_t(image.width) + size_t(x)) * 4];
            for (int c = 0; c < 3; ++c) {
                const int from = channel >= 0 ? channel : image.channels >= 3 ? c : 0;
                p[c] = uint8_t(std::clamp(row[size_t(x * image.channels + from)], 0.f, 1.f) * 255 + 0.5f);
            }
        }
    }
    return out;
}

double visibleError(const Image& a, const Image& b, int channel) {
    const auto first = shown(a, channel), second = shown(b, channel);
    const std::vector<float> errors = flipErrors({a.width, a.height, first.data()}, {b.width, b.height, second.data()});
    double sum = 0;
    for (float e : errors) sum += e;
    return sum / double(errors.size());
}

/// Angles between two encoded normal maps, in degrees: mean and 99th percentile.
std::pair<double, double> turned(const Image& a, const Image& b) {
    std::vector<float> angles;
    angles.reserve(size_t(a.width) * size_t(a.height));
    std::vector<float> ra(size_t(a.width) * size_t(a.channels)), rb(size_t(b.width) * size_t(b.channels));
    double sum = 0;
    for (int y = 0; y < a.height; ++y) {
        toFloats(a.type, a.row(y), ra.size(), ra.data());
        toFloats(b.type, b.row(y), rb.size(), rb.data());
        for (int x = 0; x < a.width; ++x) {
            double dot = 0, la = 0, lb = 0;
            for (int c = 0; c < 3; ++c) {
                const double p = ra[size_t(x * a.channels + c)] * 2 - 1, q = rb[size_t(x * b.channels + c)] * 2 - 1;
                dot += p * q, la += p * p, lb += q * q;
            }
            const double cosine = la > 1e-9 && lb > 1e-9 ? dot / std::sqrt(la * lb) : 1;
            angles.push_back(float(std::acos(std::clamp(cosine, -1.0, 1.0)) * 57.29577951));
            sum += angles.back();
        }
    }
    auto at = angles.begin() + long(double(angles.size() - 1) * 0.99);
    std::nth_element(angles.begin(), at, angles.end());
    return {sum / double(angles.size()), *at};
}

/// Steps of the error across the borders of blocks against steps inside.
double blockMarksOf(const Image& a, const Image& b, int channel, int blockWidth) {
    if (blockWidth < 2 || a.width < 2 * blockWidth) return 1;
    double border = 0, inside = 0;
    size_t borders = 0, insides = 0;
    for (int y = 0; y < a.height; y += std::max(1, a.height / 512)) {
        float before = b.at(0, y, channel) - a.at(0, y, channel);
        for (int x = 1; x < a.width; ++x) {
            const float here = b.at(x, y, channel) - a.at(x, y, channel), step = std::fabs(here - before);
            before = here;
            if (x % blockWidth == 0) border += step, ++borders;
            else inside += step, ++insides;
        }
    }
    if (!borders || !insides) return 1;
    const double b_ = border / double(borders), i_ = inside / double(insides);
    return i_ > 1e-7 ? b_ / i_ : 1;
}

} // namespace

Image judgedPart(const Image& image, int side) {
    // At a multiple of every block's size, so that blocks lie as they do in the whole.
    const int w = std::min(image.width, side), h = std::min(image.height, side);
    if (w == image.width && h == image.height) return image;
    const int left = (image.width - w) / 2 / 120 * 120, top = (image.height - h) / 2 / 120 * 120;
    Image out(w, h, image.channels, image.type);
    const size_t pixel = size_t(image.channels) * bytesOf(image.type);
    for (int y = 0; y < h; ++y) std::memcpy(out.row(y), image.row(top + y) + size_t(left) * pixel, out.rowBytes());
    return out;
}

std::array<bool, 4> meaningfulChannels(const MapFacts& f, MapKind kind) {
    std::array<bool, 4> out{};
    for (int c = 0; c < f.channels; ++c) out[size_t(c)] = !f.channel[size_t(c)].constant();
    if (f.grey && f.channels >= 3) out[1] = out[2] = false;
    // Z follows from X and Y.
    if (kind == MapKind::Normal && f.channels >= 3) out[2] = false;
    return out;
}

constexpr int kSeenSide = 480; ///< pixels; a multiple of every block's size

Result<FormatReport> reportOn(const Image& whole, MapKind kind, BlockFormat format, const EncodeOptions& options, int side) {
    FormatReport r;
    r.format = format;
    r.channels = whole.channels;
    r.bytes = cardBytes(format, whole.width, whole.height, whole.channels);
    r.bitsPerPixel = double(levelBytes(format, whole.width, whole.height, cardChannels(format, whole.channels))) * 8 /
                     (double(whole.width) * whole.height);
    const Image image = judgedPart(whole, side);
    Result<Image> decoded = asCompressed(image, format, options);
    if (!decoded) return decoded.error();
    // Two components carry a normal: the third is rebuilt, as the shader does.
    if (kind == MapKind::Normal && image.channels >= 3 && infoOf(format).channels == 2) *decoded = renormalised(*decoded, true);
    double squares = 0;
    int counted = 0;
    // What the eye sees is judged in the middle: FLIP takes longer than everything else together.
    const Image seen = judgedPart(image, kSeenSide), seenDecoded = judgedPart(*decoded, kSeenSide);
    for (int c = 0; c < image.channels; ++c) {
        ChannelError& e = r.channel[size_t(c)];
        double sum = 0;
        std::vector<float> a(size_t(image.width) * size_t(image.channels)), b(size_t(image.width) * size_t(image.channels));
        float low = 2, high = -1;
        for (int y = 0; y < image.height; ++y) {
            toFloats(image.type, image.row(y), a.size(), a.data());
            toFloats(decoded->type, decoded->row(y), b.size(), b.data());
            for (size_t x = size_t(c); x < a.size(); x += size_t(image.channels)) {
                const double d = double(a[x]) - b[x];
                sum += d * d;
                e.worst = std::max(e.worst, std::fabs(d));
                low = std::min(low, a[x]), high = std::max(high, a[x]);
            }
        }
        sum /= double(image.width) * image.height;
        e.psnr = sum < 1e-10 ? 99 : std::min(99.0, -10 * std::log10(sum));
        e.visible = visibleError(seen, seenDecoded, c);
        e.judged = kind == MapKind::Normal && c == 2 ? Judged::Follows : low == high ? Judged::Constant : Judged::Yes;
        if (e.judged != Judged::Yes) continue;
        squares += sum;
        ++counted;
    }
    if (counted && squares > 1e-10) r.psnr = std::min(99.0, -10 * std::log10(squares / counted));
    if (image.channels >= 3 && kind == MapKind::Color) r.visible = visibleError(seen, seenDecoded, -1);
    else r.visible = r.channel[0].visible;
    if (kind == MapKind::Normal && image.channels >= 3) {
        std::tie(r.normalError, r.normalWorst) = turned(image, *decoded);
    } else {
        // A height of five hundredths of its width is a usual depth; of colors their brightest channel.
        const HeightScale scale{float(image.width) / 1024, 0.02f};
        const int c = image.channels >= 3 ? 1 : 0;
        std::tie(r.normalError, r.normalWorst) = turned(normalsFromHeight(planeOf(image, c), scale, SampleType::U16),
                                                        normalsFromHeight(planeOf(*decoded, c), scale, SampleType::U16));
    }
    r.blockMarks = blockMarksOf(image, *decoded, 0, infoOf(format).width);
    r.decoded = std::move(*decoded);
    return r;
}

std::string judgedChannels(const FormatReport& report) {
    const auto names = channelNames(report.channels);
    std::vector<std::string> judged, constant, follows;
    for (size_t c = 0; c < names.size(); ++c)
        (report.channel[c].judged == Judged::Yes        ? judged
         : report.channel[c].judged == Judged::Constant ? constant
                                                        : follows)
            .push_back(std::string(names[c]));
    if (judged.size() == names.size()) return "all channels";
    const auto joined = [](const std::vector<std::string>& words) {
        std::string out;
        for (size_t i = 0; i < words.size(); ++i)
            out += fmt::format("{}{}", i == 0 ? "" : i + 1 == words.size() ? " and " : ", ", words[i]);
        return out;
    };
    std::string left;
    if (!constant.empty()) left = fmt::format("{} {} the same everywhere", joined(constant), constant.size() == 1 ? "is" : "are");
    if (!follows.empty()) left += fmt::format("{}{} follows from the others", left.empty() ? "" : ", ", joined(follows));
    return fmt::format("{} ({})", judged.empty() ? "no channel" : joined(judged), left);
}

Image errorPicture(const Image& a, const Image& b, float gain) {
    const int channels = a.channels >= 3 ? 3 : 1;
    Image out(a.width, a.height, channels, SampleType::U8);
    forRows(a.height, 0, [&](int from, int to) {
        std::vector<float> ra(size_t(a.width) * size_t(a.channels)), rb(size_t(b.width) * size_t(b.channels)),
            row(size_t(a.width) * size_t(channels));
        for (int y = from; y < to; ++y) {
            toFloats(a.type, a.row(y), ra.size(), ra.data());
            toFloats(b.type, b.row(y), rb.size(), rb.data());
            for (int x = 0; x < a.width; ++x)
                for (int c = 0; c < channels; ++c)
                    row[size_t(x * channels + c)] =
                        std::fabs(ra[size_t(x * a.channels + c)] - rb[size_t(x * b.channels + std::min(c, b.channels - 1))]) * gain;
            fromFloats(SampleType::U8, row.data(), row.size(), out.row(y));
        }
    });
    return out;
}

std::vector<BlockFormat> formatsFor(const Image& image, MapKind kind) {
    if (image.type == SampleType::F16 || image.type == SampleType::F32) return {BlockFormat::Half};
    std::vector<BlockFormat> out{BlockFormat::Plain8,  BlockFormat::Bc1,     BlockFormat::Bc3,     BlockFormat::Bc7,
                                 BlockFormat::Astc4x4, BlockFormat::Astc5x5, BlockFormat::Astc6x6, BlockFormat::Astc8x8};
    if (kind == MapKind::Normal || image.channels == 2) out.insert(out.begin() + 3, BlockFormat::Bc5);
    if (image.channels == 1) out.insert(out.begin() + 3, BlockFormat::Bc4);
    return out;
}

Result<Choice> chooseFormat(const Image& image, const MapFacts& facts, MapKind kind, const ChooseRequest& request, int threads) {
    const std::array<bool, 4> needed = meaningfulChannels(facts, kind);
    const bool alpha = facts.channels == 4 ? needed[3] : facts.channels == 2 && needed[1] && kind != MapKind::Normal;
    const bool colors = needed[1] || needed[2];
    Choice choice;
    if (image.type == SampleType::F16 || image.type == SampleType::F32) {
        choice.format = BlockFormat::Half;
        choice.reason = "It has values beyond 0 to 1, or floats that need them: half keeps those.";
        choice.fits = cardBytes(BlockFormat::Half, image.width, image.height, image.channels) <= request.mostBytes;
        return choice;
    }
    std::vector<BlockFormat> candidates;
    std::string carries = !colors && !alpha         ? "one channel"
                          : kind == MapKind::Normal ? "two components of a normal"
                          : alpha                   ? "colors with alpha"
                                                    : "three channels";
    if (request.family == FormatFamily::Astc) {
        candidates = {BlockFormat::Astc8x8, BlockFormat::Astc6x6, BlockFormat::Astc5x5, BlockFormat::Astc4x4, BlockFormat::Plain8};
    } else if (!colors && !alpha) {
        // Four bits for one channel are as small as it gets; a color map must stay sRGB, which BC4 is not.
        candidates = kind == MapKind::Color ? std::vector{BlockFormat::Bc1, BlockFormat::Bc7, BlockFormat::Plain8}
                                            : std::vector{BlockFormat::Bc4, BlockFormat::Plain8};
    } else if (kind == MapKind::Normal) {
        candidates = {BlockFormat::Bc5, BlockFormat::Plain8};
    } else if (alpha) {
        candidates = facts.channels == 2 ? std::vector{BlockFormat::Bc5, BlockFormat::Plain8}
                                         : std::vector{BlockFormat::Bc3, BlockFormat::Bc7, BlockFormat::Plain8};
    } else {
        candidates = {BlockFormat::Bc1, BlockFormat::Bc7, BlockFormat::Plain8};
    }
    const bool angles = kind == MapKind::Normal || kind == MapKind::Height;
    std::string before;
    bool found = false;
    for (BlockFormat f : candidates) {
        EncodeOptions options;
        options.srgb = kind == MapKind::Color;
        options.threads = threads;
        auto report = reportOn(image, kind, f, options, 1024);
        if (!report) return report.error();
        report->decoded = {};
        const bool good = report->psnr >= request.leastPsnr && (!angles || report->normalError <= request.mostNormalError);
        const std::string figures = angles ? fmt::format("{:.1f} dB, {:.2f}\u00B0 of turn", report->psnr, report->normalError)
                                           : fmt::format("{:.1f} dB", report->psnr);
        if (good && !found) {
            found = true;
            choice.format = f;
            choice.reason = fmt::format("It carries {}. {} reaches {} with {:.2f} MB{}", carries, infoOf(f).name, figures,
                                        double(report->bytes) / 1e6, before.empty() ? "." : "; " + before);
        }
        if (!good) before = fmt::format("{} would reach only {}.", infoOf(f).name, figures);
        choice.tried.push_back(std::move(*report));
        if (found) break;
    }
    const FormatReport& taken = choice.tried.back();
    if (taken.bytes > request.mostBytes) {
        choice.fits = false;
        choice.reason += fmt::format(" That is more than the {:.2f} MB that are allowed: halve the size, or allow a larger error.",
                                     double(request.mostBytes) / 1e6);
    }
    return choice;
}

} // namespace hue
