#include "core/make/bake.h"

#include "core/make/flat_limits.h"

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

/// Normals of the world (three planes) as a map holds them, in the frame of the mesh.
void writeInFrame(Picture& to, const UnwrappedMesh& mesh, int x, int y, int columns, int rows, const float* const* planes) {
    for (int r = 0; r < rows; ++r)
        for (int i = 0; i < columns; ++i) {
            const int lane = r * kBlockColumns + i;
            const Rgb normal{planes[0][lane], planes[1][lane], planes[2][lane]};
            // What is no number is kept, to be found.
            const Rgb framed = std::isfinite(dot(normal, normal)) ? mesh.inFrame(x + i, y + r, normal) : normal;
            float* at = to.values.data() + (size_t(y + r) * size_t(to.width) + size_t(x + i)) * 3;
            for (size_t c = 0; c < 3; ++c) at[c] = framed[c] * 0.5f + 0.5f;
        }
}

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
    if (const Outcome possible = canBeBaked(size); !possible) return possible.error();
    const Compilation compiled = compileSurface(project, *out->resolved.master);
    if (!compiled.ok)
        for (const Diagnostic& d : compiled.diagnostics)
            if (d.severity == Severity::Error)
                return Error{"bake.broken-graph", fmt::format("{} cannot be baked: {}", out->resolved.master->name, d.sentence), d.place};
    out->evaluator = std::make_unique<Evaluator>(compiled.program);
    out->frame = out->evaluator->frame(frameInputs(project, assets, out->resolved, time));
    return out;
}

Picture blank(int width, int height, int channels) {
    return {width, height, channels, std::vector<float>(size_t(width) * size_t(height) * size_t(channels))};
}

/// The flat square, whole UV units further.
class MovedSquare final : public PointSource {
  public:
    MovedSquare(int size, float u, float v) : m_square(size, size), m_move{u, v} {}
    void fill(int x, int y, Attribute attribute, int component, float* lanes) const override {
        m_square.fill(x, y, attribute, component, lanes);
        if (attribute != Attribute::Uv0 && attribute != Attribute::Uv1) return;
        for (int i = 0; i < kBlockColumns * kBlockRows; ++i) lanes[i] += m_move[component & 1];
    }

  private:
    FlatSquare m_square;
    float m_move[2];
};

/// A look at some places of the square and at the same places of its neighbours. Nothing when cancelled.
std::optional<bool> repeatsInUv(const Evaluator& evaluator, const Frame& frame, const std::vector<std::string>& outputs, const Work& work) {
    constexpr int side = 24;
    std::vector<std::string> known;
    size_t planes = 0;
    for (const std::string& name : outputs)
        if (const int32_t at = evaluator.program().output(name); at >= 0) {
            known.push_back(name);
            planes += size_t(evaluator.program().code[size_t(at)].width);
        }
    if (known.empty()) return true;
    const auto look = [&](float u, float v, std::vector<float>& out) {
        out.assign(planes * side * side, 0);
        return evaluator.grid(
            frame, known, side, side, MovedSquare(side, u, v),
            [&](int x, int y, int columns, int rows, const float* const* results) {
                for (size_t p = 0; p < planes; ++p)
                    for (int r = 0; r < rows; ++r)
                        for (int i = 0; i < columns; ++i)
                            out[(p * side + size_t(y + r)) * side + size_t(x + i)] = results[p][r * kBlockColumns + i];
            },
            work);
    };
    std::vector<float> here, there;
    if (!look(0, 0, here)) return {};
    // Neighbours that lie some units away, where rounding is small still.
    for (const auto& [u, v] : {std::pair{1.f, 0.f}, {0.f, 1.f}, {-2.f, 3.f}}) {
        if (!look(u, v, there)) return {};
        size_t apart = 0;
        for (size_t i = 0; i < here.size(); ++i)
            apart += std::isfinite(here[i]) && std::isfinite(there[i]) && std::fabs(here[i] - there[i]) > 0.01f;
        // Single pixels at a hard edge may fall to either side of it.
        if (apart * 200 > here.size()) return false;
    }
    return true;
}

} // namespace

size_t BakedSet::invalid() const {
    size_t sum = 0;
    for (const BakedMap& m : maps) sum += m.invalid;
    return sum;
}

std::vector<const BakedMap*> BakedSet::read() const {
    std::vector<const BakedMap*> out{&maps[0]};
    if (surface.unlit) return out;
    out.push_back(&maps[1]);
    if (!normalIsFlat) out.push_back(&maps[2]);
    if (!emissiveIsBlack) out.push_back(&maps[3]);
    return out;
}

Outcome canBeBaked(int size) {
    if (size < 4 || size > 8192) return refuse("bake.size", fmt::format("A size of {} is not possible; choose 4 to 8192 pixels.", size));
    return Done{};
}

Result<BakedSet> bake(const Project& project, Assets& assets, const BakeRequest& request) {
    const auto prepared = prepare(project, assets, request.worn, request.size, request.time);
    if (!prepared) return prepared.error();
    const int width = request.size, height = request.height && !request.mesh ? request.height : width;
    if (const Outcome possible = canBeBaked(height); !possible) return possible.error();
    const Prepared& p = **prepared;
    const Program& program = p.evaluator->program();
    BakedSet set;
    set.surface = p.resolved.surface;
    const bool withAlpha = set.surface.alphaMode != AlphaMode::Opaque;
    set.maps = {{"base_color", blank(width, height, withAlpha ? 4 : 3), PictureEncoding::Srgb, 0},
                {"occlusion_roughness_metallic", blank(width, height, 3), PictureEncoding::Linear, 0},
                {"normal", blank(width, height, 3), PictureEncoding::Linear, 0},
                {"emissive", blank(width, height, 3), PictureEncoding::Srgb, 0}};
    // Planes: base color 0-2, alpha 3, occlusion 4, roughness 5, metallic 6, normal 7-9, emissive 10-12, strength 13.
    const std::vector<std::string> outputs{"base_color", "alpha",  "occlusion", "roughness",
                                           "metallic",   "normal", "emissive",  "emissive_strength"};
    const Painter base(set.maps[0].picture, 0), orm(set.maps[1].picture, 4), normal(set.maps[2].picture, 7),
        emissive(set.maps[3].picture, 10);
    const FlatSquare square(width, height);
    const PointSource& points = request.mesh ? static_cast<const PointSource&>(*request.mesh) : square;
    const auto sink = [&](int x, int y, int columns, int rows, const float* const* planes) {
        auto same = [](int, float v) { return v; };
        base.block(x, y, columns, rows, planes, same);
        orm.block(x, y, columns, rows, planes, same);
        if (request.mesh) writeInFrame(set.maps[2].picture, *request.mesh, x, y, columns, rows, planes + 7);
        // The square's tangent frame is the world's, so the world-space normal is the tangent-space one.
        else normal.block(x, y, columns, rows, planes, [](int, float v) { return v * 0.5f + 0.5f; });
        emissive.block(x, y, columns, rows, planes, same);
        for (int r = 0; r < rows; ++r) {
            float* to = set.maps[3].picture.values.data() + (size_t(y + r) * size_t(width) + size_t(x)) * 3;
            for (int i = 0; i < columns; ++i, to += 3)
                for (int c = 0; c < 3; ++c) to[c] *= planes[13][r * kBlockColumns + i];
        }
    };
    if (!p.evaluator->grid(p.frame, outputs, width, height, points, sink, request.control))
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
    if (request.mesh) set.repeats = true; // as the mesh's UVs do
    else if (const std::optional<bool> same = repeatsInUv(*p.evaluator, p.frame, outputs, request.control)) set.repeats = *same;
    else return refuse("bake.cancelled", "The bake was cancelled; nothing was written.");
    const auto& normals = set.maps[2].picture.values;
    set.normalIsFlat = true;
    for (size_t i = 0; i + 2 < normals.size() && set.normalIsFlat; i += 3)
        set.normalIsFlat = std::fabs(normals[i] - 0.5f) < 0.002f && std::fabs(normals[i + 1] - 0.5f) < 0.002f;

    auto caution = [&](bool reads, std::string_view what, std::string_view instead) {
        if (reads)
            set.cautions.push_back(fmt::format("{} depends on {}; the maps hold it {}.", project.nameOf(request.worn), what, instead));
    };
    const std::vector<FlatLimit> flat = flatLimits(program, outputs),
                                 limits = request.mesh ? meshLimits(program, outputs, request.placed) : flat;
    for (const FlatLimit& limit : limits) caution(true, limit.what, limit.instead);
    // Where only UVs count, parts that share a place on the map show the same.
    if (const float shared = request.mesh ? request.mesh->shared() : 0; shared > 0.001f && flat.size() > limits.size())
        set.cautions.push_back(fmt::format("Several parts of the mesh share {:.1f} % of its place on the maps of {}, and do not look the "
                                           "same: all of them show the last. Unwrap the mesh without overlaps.",
                                           shared * 100, project.nameOf(request.worn)));
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

Outcome canBeFlat(const Project& project, const Id& worn, std::string_view channel) {
    const ChannelDef* def = findChannel(channel);
    const Resolved resolved = resolve(project, worn);
    if (!def || !resolved.master) return Done{};
    if (def->key == "vertex_offset")
        return refuse("bake.vertices",
                      "Vertex offset is computed for the vertices of a mesh, and a flat map has none. Render it instead, with "
                      "the view vertex_offset.");
    if (isCompiled(*def, resolved.surface)) return Done{};
    for (const LayerDef& layer : layers())
        if (def->layer & uint32_t(layer.layer))
            return refuse("bake.no-layer", fmt::format("{} has no {}, which comes with the layer {}. Add the layer to its surface first.",
                                                       project.nameOf(worn), def->name, layer.name));
    return Done{};
}

Result<Picture> evaluateChannel(const Project& project, Assets& assets, const Id& worn, std::string_view channel, int size, double time,
                                const Work& control) {
    if (const Outcome flat = canBeFlat(project, worn, channel); !flat) return flat.error();
    const auto prepared = prepare(project, assets, worn, size, time);
    if (!prepared) return prepared.error();
    const Prepared& p = **prepared;
    const int32_t value = p.evaluator->program().output(channel);
    if (value < 0) return refuse("bake.nothing", fmt::format("The surface has no channel {}.", channel));
    Picture out = blank(size, size, p.evaluator->program().code[size_t(value)].width);
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
