#include "preview/lineup_pictures.h"

#include "core/image_files/picture_file.h"
#include "core/maps/map_levels.h"
#include "core/nodes/finish.h"
#include "core/project/map_library.h"

#include <fmt/format.h>

namespace hue {

namespace {

/// A finish is seen lit, as the surface that it is.
bool showsFinish(const Project& project) {
    const Lineup& l = project.lineup;
    const Master* master = l.view == "wire" ? project.master(l.wireMaster) : nullptr;
    return master && leadsFinish(project, master->graph, l.wire);
}

} // namespace

RenderSettings settingsFor(const Project& project, const Specimen& specimen, LightLibrary& lights, const std::filesystem::path& folder,
                           bool wait) {
    const Lineup& l = project.lineup;
    RenderSettings s;
    s.camera = specimen.orbit.value_or(l.orbit);
    s.view = std::max(0, findView(showsFinish(project) ? "lit" : l.view));
    const ReadyLight light = lights.get(specimen.light.empty() ? l.light : specimen.light, folder, wait);
    s.light = light.key;
    s.lightFile = light;
    s.rotation = l.rotation;
    s.sun = l.sun;
    s.exposure = l.exposure;
    for (const ToneCurveDef& t : toneCurves())
        if (t.key == l.tone) s.tone = t.curve;
    s.glare = l.glare;
    s.backdrop = l.backdrop == "environment" ? Backdrop::Environment : l.backdrop == "depot" ? Backdrop::Depot : Backdrop::Surround;
    s.viewLow = l.viewLow;
    s.viewHigh = l.viewHigh;
    return s;
}

RenderSettings finePass(RenderSettings settings, int pass) {
    settings.supersampling = 2;
    settings.jitter = sampleOffset(pass);
    // Of four samples a pixel each stands for a quarter of it.
    for (float& j : settings.jitter) j *= 0.5f;
    return settings;
}

Result<RenderedPicture> renderWithSamples(Renderer& renderer, const DressedSpecimen& specimen, const RenderSettings& settings,
                                          int samples) {
    PictureMean mean;
    const int passes = samples < 4 ? samples : (samples + 3) / 4;
    for (int pass = 0; pass < passes; ++pass) {
        RenderSettings s = finePass(settings, pass);
        if (samples < 4) {
            s.supersampling = 1;
            s.jitter = sampleOffset(pass);
        }
        Result<RenderedPicture> picture = renderer.render(specimen, s);
        if (!picture || passes == 1) return picture;
        mean.add(*picture);
    }
    return mean.picture();
}

DressOptions dressFor(const Project& project, const RenderSettings& settings) {
    DressOptions out;
    const ViewDef& view = views()[size_t(settings.view)];
    if ((view.key == "wire" || (view.key == "lit" && showsFinish(project))) && !project.lineup.wire.node.empty()) {
        out.wire = &project.lineup.wire;
        out.wireMaster = project.lineup.wireMaster;
    }
    out.countCost = view.key == "cost";
    out.offsetView = view.key == "vertex_offset";
    return out;
}

Project withMapSet(const Project& project, const std::array<Id, 4>& maps, const Id& masterId, const std::string& name) {
    auto master = std::make_shared<Master>();
    master->id = masterId;
    master->name = name;
    // In columns, so that the board shows them well when the master is opened.
    auto add = [&](const Id& id, const char* kind) {
        auto node = std::make_shared<Node>();
        node->id = id;
        node->kind = kind;
        const std::string_view what = kind;
        node->position = {what == "image" ? 0.f : what == "height_to_normal" ? 222.f : 444.f, 140.f * float(master->graph.nodes.size())};
        return node;
    };
    auto image = [&](const Id& id, const Id& map) {
        auto node = add(id, "image");
        node->settings["map"] = map;
        master->graph.nodes[id] = node;
    };
    auto& channels = master->graph.channelWires;
    if (project.map(maps[0])) {
        image("color", maps[0]);
        channels["base_color"] = {"color", "color", ""};
    }
    if (project.map(maps[1])) {
        image("orm", maps[1]);
        channels["occlusion"] = {"orm", "color", "r"};
        channels["roughness"] = {"orm", "color", "g"};
        channels["metallic"] = {"orm", "color", "b"};
    }
    if (project.map(maps[2]) || project.map(maps[3])) {
        auto normal = add("normal", "normal_map");
        if (project.map(maps[2])) {
            image("normals", maps[2]);
            normal->wires["in"] = {"normals", "color", ""};
        } else {
            image("height", maps[3]);
            auto slope = add("slope", "height_to_normal");
            slope->wires["in"] = {"height", "color", "r"};
            master->graph.nodes["slope"] = slope;
            normal->wires["in"] = {"slope", "out", ""};
        }
        master->graph.nodes["normal"] = normal;
        channels["normal"] = {"normal", "out", ""};
    }
    Project out = project;
    out.masters.push_back(master);
    return out;
}

Result<RenderedPicture> readScreenPicture(const std::filesystem::path& file) {
    const Result<Picture> read = readPicture(file);
    if (!read) return read.error();
    RenderedPicture out;
    out.width = read->width;
    out.height = read->height;
    const size_t count = size_t(out.width) * size_t(out.height), channels = size_t(read->channels);
    out.rgba.resize(count * 4, 255);
    for (size_t i = 0; i < count; ++i)
        for (size_t c = 0; c < 3; ++c)
            out.rgba[i * 4 + c] = uint8_t(std::lround(std::clamp(read->values[i * channels + (channels >= 3 ? c : 0)], 0.f, 1.f) * 255));
    return out;
}

Outcome writeScreenPicture(const std::filesystem::path& file, const std::vector<uint8_t>& rgba, int width, int height) {
    Picture out{width, height, 3, {}};
    out.values.reserve(size_t(width) * size_t(height) * 3);
    for (size_t i = 0; i < rgba.size(); ++i)
        if (i % 4 != 3) out.values.push_back(float(rgba[i]) / 255.f);
    // The pixels are encoded already.
    if (const Result<size_t> written = writePicture(file, out, PictureEncoding::Linear); !written) return written.error();
    return Done{};
}

Result<std::optional<RenderedPicture>> yardstickPicture(Renderer& renderer, const Project& project, Assets& assets, LookCache& looks,
                                                        size_t index, const RenderSettings& settings, double time) {
    using Out = std::optional<RenderedPicture>;
    const Yardstick& y = project.lineup.yardstick;
    const auto& specimens = project.lineup.specimens;
    Specimen specimen = index < specimens.size() ? specimens[index] : Specimen{};
    auto draw = [&](const Project& p, const Specimen& s) -> Result<Out> {
        const DressedSpecimen dressed = dress(p, assets, looks, s, time, dressFor(p, settings));
        Result<RenderedPicture> picture = renderer.render(dressed, settings);
        if (!picture) return picture.error();
        return Out(std::move(*picture));
    };
    switch (y.what) {
    case Yardstick::What::None: return Out{};
    case Yardstick::What::Original: {
        DressOptions options = dressFor(project, settings);
        options.maps = MapLibrary::View::Original;
        Result<RenderedPicture> picture = renderer.render(dress(project, assets, looks, specimen, time, options), settings);
        if (!picture) return picture.error();
        return Out(std::move(*picture));
    }
    case Yardstick::What::Specimen:
        if (size_t(y.specimen) == index) return Out{};
        if (size_t(y.specimen) >= specimens.size())
            return Error{
                "yardstick.missing", fmt::format("The yardstick is specimen {}, which is not there. Choose another.", y.specimen + 1), {}};
        return draw(project, specimens[size_t(y.specimen)]);
    case Yardstick::What::Worn:
        if (!project.masterOf(y.worn))
            return Error{"yardstick.missing", "The yardstick is something that the project does not have. Choose another.", {}};
        specimen.wears = {y.worn};
        return draw(project, specimen);
    case Yardstick::What::Maps: {
        specimen.wears = {"yardstick"};
        return draw(withMapSet(project, y.maps), specimen);
    }
    case Yardstick::What::Picture: {
        const Result<RenderedPicture> read = readScreenPicture(assets.resolve(y.picture));
        if (!read) return read.error();
        RenderedPicture out;
        out.width = settings.width;
        out.height = settings.height;
        out.rgba = fitted({read->width, read->height, read->rgba.data()}, settings.width, settings.height);
        return Out(std::move(out));
    }
    }
    return Out{};
}

} // namespace hue
