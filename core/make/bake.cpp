#include "core/make/bake.h"

#include "core/base/diagnostic.h"
#include "core/compile/compile.h"
#include "core/image_files/picture_file.h"
#include "core/project/frame_inputs.h"
#include "core/surface/channels.h"

#include <cmath>
#include <fmt/format.h>

namespace hue {
namespace {

Error refuse(std::string code, std::string sentence) { return {std::move(code), std::move(sentence), {}}; }

/// Copies planes into an interleaved picture through `convert(values of one pixel)`.
class Painter {
  public:
    Painter(Picture& picture, size_t firstPlane) : m_picture(picture), m_first(firstPlane) {}
    template <class Convert> void block(int x, int y, int columns, int rows, const float* const* planes, Convert convert) const {
        for (int r = 0; r < rows; ++r) {
            float* to = m_picture.values.data() + (size_t(y + r) * size_t(m_picture.width) + size_t(x)) * size_t(m_picture.channels);
            for (int i = 0; i < columns; ++i, to += m_picture.channels)
                for (int c = 0; c < m_picture.channels; ++c) to[c] = convert(c, planes[m_first + size_t(c)][r * kBlockColumns + i]);
        }
    }

  private:
    Picture& m_picture;
    size_t m_first;
};

size_t dropInvalid(Picture& p) {
    size_t count = 0;
    for (float& x : p.values)
        if (!std::isfinite(x)) {
            x = 0;
            ++count;
        }
    return count;
}

struct Prepared {
    Resolved resolved;
    std::unique_ptr<Evaluator> evaluator;
    Frame frame;
};

Result<std::shared_ptr<Prepared>> prepare(const Project& project, Assets& assets, const Id& worn, int size, double time) {
    auto out = std::make_shared<Prepared>();
    out->resolved = resolve(project, worn);
    if (!out->resolved.master) return refuse("bake.nothing", "There is no such master or instance to bake.");
    if (size < 4 || size > 8192) return refuse("bake.size", fmt::format("A size of {} is not possible; choose 4 to 8192 pixels.", size));
    const Compilation compiled = compileSurface(project, *out->resolved.master);
    if (!compiled.ok)
        for (const Diagnostic& d : compiled.diagnostics)
            if (d.severity == Severity::Error)
                return Error{"bake.broken-graph", fmt::format("{} cannot be baked: {}", out->resolved.master->name, d.sentence), d.place};
    out->evaluator = std::make_unique<Evaluator>(compiled.program);
    out->frame = out->evaluator->frame(frameInputs(project, assets, out->resolved, time));
    return out;
}

Picture blank(int size, int channels) { return {size, size, channels, std::vector<float>(size_t(size) * size_t(size) * size_t(channels))}; }

} // namespace

size_t BakedSet::invalid() const {
    size_t sum = 0;
    for (const BakedMap& m : maps) sum += m.invalid;
    return sum;
}

Result<BakedSet> bake(const Project& project, Assets& assets, const BakeRequest& request) {
    const auto prepared = prepare(project, assets, request.worn, request.size, request.time);
    if (!prepared) return prepared.error();
    const Prepared& p = **prepared;
    const Program& program = p.evaluator->program();
    BakedSet set;
    set.surface = p.resolved.surface;
    const bool withAlpha = set.surface.alphaMode != AlphaMode::Opaque;
    set.maps = {{"base_color", blank(request.size, withAlpha ? 4 : 3), PictureEncoding::Srgb, 0},
                {"occlusion_roughness_metallic", blank(request.size, 3), PictureEncoding::Linear, 0},
                {"normal", blank(request.size, 3), PictureEncoding::Linear, 0},
                {"emissive", blank(request.size, 3), PictureEncoding::Srgb, 0}};
    // Planes: base color 0-2, alpha 3, occlusion 4, roughness 5, metallic 6, normal 7-9, emissive 10-12, strength 13.
    const std::vector<std::string> outputs{"base_color", "alpha",  "occlusion", "roughness",
                                           "metallic",   "normal", "emissive",  "emissive_strength"};
    const Painter base(set.maps[0].picture, 0), orm(set.maps[1].picture, 4), normal(set.maps[2].picture, 7),
        emissive(set.maps[3].picture, 10);
    const FlatSquare square(request.size, request.size);
    const auto sink = [&](int x, int y, int columns, int rows, const float* const* planes) {
        auto same = [](int, float v) { return v; };
        base.block(x, y, columns, rows, planes, same);
        orm.block(x, y, columns, rows, planes, same);
        // The square's tangent frame is the world's, so the world-space normal is the tangent-space one.
        normal.block(x, y, columns, rows, planes, [](int, float v) { return v * 0.5f + 0.5f; });
        emissive.block(x, y, columns, rows, planes, same);
        for (int r = 0; r < rows; ++r) {
            float* to = set.maps[3].picture.values.data() + (size_t(y + r) * size_t(request.size) + size_t(x)) * 3;
            for (int i = 0; i < columns; ++i, to += 3)
                for (int c = 0; c < 3; ++c) to[c] *= planes[13][r * kBlockColumns + i];
        }
    };
    if (!p.evaluator->grid(p.frame, outputs, request.size, request.size, square, sink, request.control))
        return refuse("bake.cancelled", "The bake was cancelled; nothing was written.");

    for (BakedMap& m : set.maps) m.invalid = dropInvalid(m.picture);
    if (const size_t invalid = set.invalid())
        set.cautions.push_back(
            fmt::format("{} values were not finite and were written as 0. Look at the view of invalid pixels.", invalid));
    float brightest = 0;
    for (float x : set.maps[3].picture.values) brightest = std::max(brightest, x);
    set.emissiveIsBlack = brightest <= 0;
    if (brightest > 1) {
        set.emissiveStrength = brightest;
        for (float& x : set.maps[3].picture.values) x /= brightest;
    }
    const auto& normals = set.maps[2].picture.values;
    set.normalIsFlat = true;
    for (size_t i = 0; i + 2 < normals.size() && set.normalIsFlat; i += 3)
        set.normalIsFlat = std::fabs(normals[i] - 0.5f) < 0.002f && std::fabs(normals[i + 1] - 0.5f) < 0.002f;

    auto caution = [&](bool reads, std::string_view what, std::string_view instead) {
        if (reads)
            set.cautions.push_back(fmt::format("{} depends on {}; the maps hold it {}.", project.nameOf(request.worn), what, instead));
    };
    caution(program.reads(Attribute::View), "the view", "as seen from straight above");
    caution(program.reads(Attribute::PositionWorld) || program.reads(Attribute::PositionObject), "the position on the mesh",
            "as on a flat square of one metre");
    caution(program.reads(Attribute::Color), "the mesh's vertex colors", "as for white ones");
    std::string layered;
    for (const LayerDef& layer : layers())
        if (set.surface.has(layer.layer)) layered += (layered.empty() ? "" : ", ") + std::string(layer.name);
    if (!layered.empty())
        set.cautions.push_back(fmt::format("{} has layers that the maps do not hold yet: {}. The files show the surface without them.",
                                           project.nameOf(request.worn), layered));
    if (p.resolved.master->graph.channelWires.contains("vertex_offset"))
        set.cautions.push_back(fmt::format("{} moves its vertices; the maps do not hold that.", project.nameOf(request.worn)));
    caution(program.readsTime(), "time", fmt::format("at {:.2f} s", request.time));
    return set;
}

Result<Picture> evaluateChannel(const Project& project, Assets& assets, const Id& worn, std::string_view channel, int size, double time,
                                const Work& control) {
    const auto prepared = prepare(project, assets, worn, size, time);
    if (!prepared) return prepared.error();
    const Prepared& p = **prepared;
    const int32_t value = p.evaluator->program().output(channel);
    if (value < 0) return refuse("bake.nothing", fmt::format("There is no channel {}.", channel));
    Picture out = blank(size, p.evaluator->program().code[size_t(value)].width);
    const Painter painter(out, 0);
    const FlatSquare square(size, size);
    const auto sink = [&](int x, int y, int columns, int rows, const float* const* planes) {
        painter.block(x, y, columns, rows, planes, [](int, float v) { return v; });
    };
    if (!p.evaluator->grid(p.frame, {std::string(channel)}, size, size, square, sink, control))
        return refuse("bake.cancelled", "The evaluation was cancelled.");
    return out;
}

Result<std::vector<std::string>> writeBake(const BakedSet& set, const std::filesystem::path& folder) {
    std::error_code failed;
    std::filesystem::create_directories(folder, failed);
    if (failed) return refuse("file.cannot-write", fmt::format("The folder {} cannot be made: {}.", folder.string(), failed.message()));
    std::vector<std::string> files;
    for (const BakedMap& m : set.maps) {
        const auto file = folder / (m.name + ".png");
        if (Result<size_t> written = writePicture(file, m.picture, m.encoding); !written) return written.error();
        files.push_back(file.string());
    }
    return files;
}

} // namespace hue
