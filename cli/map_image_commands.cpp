// Commands that make one image file from others.
#include "cli/map_commands.h"

#include "cli/opened.h"
#include "cli/output.h"
#include "core/compare/format_report.h"
#include "core/compress/block_file.h"
#include "core/images/channel_names.h"
#include "core/make/made_maps.h"
#include "core/maps/conversions.h"
#include "core/maps/map_levels.h"
#include "core/maps/map_sets.h"
#include "core/maps/mask.h"
#include "core/maps/tiling.h"

#include <cmath>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace hue::cli {

namespace fs = std::filesystem;

static Json reportJson(const FormatReport& r) {
    Json channels = Json::array();
    for (int c = 0; c < r.channels; ++c)
        channels.push_back(Json{{"psnr", r.channel[size_t(c)].psnr},
                                {"worst", r.channel[size_t(c)].worst},
                                {"visible", r.channel[size_t(c)].visible},
                                {"judged", r.channel[size_t(c)].judged == Judged::Yes}});
    return Json{{"format", infoOf(r.format).key},
                {"bytes", r.bytes},
                {"bitsPerPixel", r.bitsPerPixel},
                {"psnr", r.psnr},
                {"visible", r.visible},
                {"normalError", r.normalError},
                {"normalWorst", r.normalWorst},
                {"blockMarks", r.blockMarks},
                {"channels", channels}};
}

int compressMap(const MapOptions& o) {
    const std::string file = o.files[0];
    Result<Image> image = readImage(file);
    if (!image) return fail(image.error());
    const MapFacts facts = factsOf(*image);
    const Guess guess = guessOf(fs::path(file).filename().string(), facts);
    const MapKind kind = o.kind.empty() ? guess.kind : *kindByName(o.kind);
    EncodeOptions options;
    options.srgb = kind == MapKind::Color;
    options.effort = o.effort == "quick" ? Effort::Quick : o.effort == "best" ? Effort::Best : Effort::Usual;
    BlockFormat format = BlockFormat::Plain8;
    std::string reason;
    bool good = true;
    if (o.format == "auto") {
        ChooseRequest request;
        request.family = o.family == "astc" ? FormatFamily::Astc : FormatFamily::Bc;
        request.leastPsnr = o.leastPsnr;
        if (o.mostMegabytes > 0) request.mostBytes = size_t(o.mostMegabytes * 1e6);
        const auto choice = chooseFormat(*image, facts, kind, request);
        if (!choice) return fail(choice.error());
        format = choice->format, reason = choice->reason, good = choice->fits;
    } else if (const auto named = blockFormatByKey(o.format)) {
        format = *named;
    } else {
        std::vector<std::string_view> keys;
        for (int f = 0; f < int(BlockFormat::Count); ++f) keys.push_back(infoOf(BlockFormat(f)).key);
        return fail(fmt::format("There is no format {}. There are: auto, {}.", o.format, fmt::join(keys, ", ")));
    }
    // Of very large maps the middle is judged, so that judging takes less memory than the map.
    const double pixels = double(image->width) * image->height;
    const int judged = pixels > 4096.0 * 4096 ? std::max(1024, int(std::sqrt(pixels) / 8)) : 4096;
    const auto report = reportOn(*image, kind, format, options, judged);
    if (!report) return fail(report.error());
    if (!o.errorPicture.empty())
        if (const Outcome written =
                writeImage(o.errorPicture, errorPicture(judgedPart(*image, judged), report->decoded, 8), PixelEncoding::Data);
            !written)
            return fail(written.error());
    const auto names = channelNames(image->channels);
    if (!o.out.empty()) {
        // As the window makes them for a map of this kind and role.
        MapLevels levels;
        if (!o.recipe.empty() || !o.normals.empty()) {
            levels.how = MapLevels::How::AsPacked;
            if (kind == MapKind::Normal && image->channels >= 3) levels.meaning.normal = {0, 1, 2};
        } else if (guess.role == "opacity") {
            levels.how = MapLevels::How::Opacity;
        }
        if (!o.recipe.empty()) {
            const auto recipe = findRecipe(o.recipe);
            if (!recipe) return fail(recipe.error());
            if (recipe->channels() > image->channels)
                return fail(
                    fmt::format("{} has {} channels and the recipe {} has {}.", file, image->channels, recipe->name, recipe->channels()));
            levels.meaning = mipMeaningOf(*recipe);
        }
        if (!o.normals.empty()) {
            if (const auto normals = imageFacts(o.normals); !normals) return fail(normals.error());
            levels.normals = o.normals;
            if (levels.meaning.roughness < 0) levels.meaning.roughness = image->channels >= 3 ? 1 : 0;
        }
        levels.meaning.encoded = kind == MapKind::Color;
        std::vector<Image> all;
        if (o.mips) all = levelsOf(std::move(*image), kind, levels);
        else all.push_back(std::move(*image));
        const auto map = compressed(std::move(all), format, options);
        if (!map) return fail(map.error());
        if (const Outcome written = writeBlockFile(o.out, *map, {.zstd = o.zstd}); !written) return fail(written.error());
    }
    if (o.json) {
        Json j = reportJson(*report);
        if (!reason.empty()) j["reason"] = reason;
        j["fits"] = good;
        print(j);
    } else {
        if (!reason.empty()) print(reason);
        print(fmt::format("{}: {} with mips, {:.2f} bits a pixel, {:.1f} dB over {}, visible {:.4f}", infoOf(format).name,
                          megabytes(report->bytes), report->bitsPerPixel, report->psnr, judgedChannels(*report), report->visible));
        for (size_t c = 0; c < names.size(); ++c)
            print(fmt::format("  {:6} {:.1f} dB, worst {:.3f}, visible {:.4f}", names[c], report->channel[c].psnr, report->channel[c].worst,
                              report->channel[c].visible));
        print(fmt::format("  normals made from it turn by {:.2f} degrees, 1 % by more than {:.2f}; block marks {:.2f}", report->normalError,
                          report->normalWorst, report->blockMarks));
    }
    return good ? 0 : 1;
}

int makeSeamlessMaps(const MapOptions& o) {
    std::vector<Image> set;
    SeamlessRequest request;
    request.method = o.method == "blend" ? SeamMethod::Blend : SeamMethod::Cut;
    request.band = float(o.band);
    for (const std::string& file : o.files) {
        auto image = readImage(file);
        if (!image) return fail(image.error());
        request.normals.push_back(guessOf(fs::path(file).filename().string(), factsOf(*image)).kind == MapKind::Normal);
        set.push_back(std::move(*image));
    }
    const auto made = makeSeamless(set, request);
    if (!made) return fail(made.error());
    for (size_t i = 0; i < set.size(); ++i) {
        const fs::path to = fs::path(o.out) / fs::path(o.files[i]).filename();
        const bool color = guessOfName(to.filename().string()).kind == MapKind::Color;
        if (const Outcome written = writeImage(to, (*made)[i], color ? PixelEncoding::Srgb : PixelEncoding::Data); !written)
            return fail(written.error());
        print(fmt::format("{}: seam {:.2f} before, {:.2f} after", to.string(), seamMeter(set[i]).worst(), seamMeter((*made)[i]).worst()));
    }
    return 0;
}

int normalMaps(const MapOptions& o) {
    auto image = readImage(o.files[0]);
    if (!image) return fail(image.error());
    const ConversionDef* def = findConversion(o.operation);
    if (!def) return fail(fmt::format("There is no conversion {}.", o.operation));
    ConversionSettings settings{float(o.strength), {float(o.width), float(o.depth)}, nullptr};
    Result<Image> detail = Image{};
    if (def->other) {
        detail = readImage(o.join);
        if (!detail) return fail(detail.error());
        settings.other = &*detail;
    }
    if (def->what == Conversion::ToHeight) {
        float depth = 0;
        (void)heightFromNormals(*image, settings.scale.width, &depth);
        print(fmt::format("depth {:.4g} m over {:.4g} m", depth, settings.scale.width));
    }
    const auto out = convert(def->what, *image, settings);
    if (!out) return fail(out.error());
    if (const Outcome written = writeImage(o.out, *out, PixelEncoding::Data); !written) return fail(written.error());
    return 0;
}

int glossToMetallic(const MapOptions& o) {
    std::vector<Image> maps;
    for (const std::string& file : o.files) {
        auto image = readImage(file);
        if (!image) return fail(image.error());
        maps.push_back(std::move(*image));
    }
    const auto made = fromSpecularGloss(maps[0], maps[1], maps.size() > 2 ? &maps[2] : nullptr);
    if (!made) return fail(made.error());
    std::string stem = setNameOf(fs::path(o.files[0]).filename().string());
    std::replace(stem.begin(), stem.end(), ' ', '_');
    const std::pair<const char*, const Image*> files[] = {
        {"_color.png", &made->baseColor}, {"_metallic.png", &made->metallic}, {"_roughness.png", &made->roughness}};
    for (const auto& [suffix, image] : files) {
        const fs::path to = fs::path(o.out) / (stem + suffix);
        if (const Outcome written = writeImage(to, *image, image == &made->baseColor ? PixelEncoding::Srgb : PixelEncoding::Data); !written)
            return fail(written.error());
        print(to.string());
    }
    return 0;
}

int mask(const MapOptions& o) {
    MaskDrawing d;
    d.width = d.height = o.size ? o.size : 1024;
    d.seamless = o.seamless;
    d.ground = float(o.ground);
    for (const std::string& text : o.shapes) {
        const auto shape = maskShapeOf(text, float(o.soft));
        if (!shape) return fail(shape.error());
        d.shapes.push_back(*shape);
    }
    const auto plane = drawMask(d);
    if (!plane) return fail(plane.error());
    if (const Outcome written = writeImage(o.out, imageOf({*plane}, SampleType::U8), PixelEncoding::Data); !written)
        return fail(written.error());
    return 0;
}

} // namespace hue::cli
