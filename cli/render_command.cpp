// hsk render: the pictures of the window, without a window.
#include "cli/opened.h"
#include "cli/output.h"
#include "core/mesh/placements.h"
#include "core/mesh/things.h"
#include "core/nodes/assembly_card.h"
#include "core/project/map_library.h"
#include "preview/egl_context.h"
#include "preview/recorder.h"

#include <charconv>
#include <fmt/format.h>
#include <fmt/ranges.h>

namespace hue::cli {
namespace {

Error refuse(std::string sentence) { return {"render.option", std::move(sentence), {}}; }

/// "a<separator>b" as two numbers.
bool twoNumbers(const std::string& text, char separator, double& a, double& b) {
    const size_t at = text.find(separator, 1);
    if (at == std::string::npos) return false;
    const char* end = text.data() + text.size();
    return std::from_chars(text.data(), text.data() + at, a).ptr == text.data() + at &&
           std::from_chars(text.data() + at + 1, end, b).ptr == end;
}

/// Puts what the options say into the project's lineup, whose only specimen is then the one to be drawn.
Outcome apply(const Options& o, Opened& opened) {
    Project& p = opened.project;
    Lineup& l = p.lineup;
    Specimen specimen;
    if (o.specimen > 0) {
        const Result<Specimen> found = findSpecimen(p, o.specimen);
        if (!found) return found.error();
        specimen = *found;
    } else if (o.ofSlots.empty()) {
        return refuse("Say what is to be drawn: --of a master or Master/Instance, or --specimen N of the lineup.");
    }
    if (!o.ofSlots.empty()) specimen.wears.clear();
    for (const std::string& given : o.ofSlots)
        for (size_t at = 0; at <= given.size();) {
            // A comma may belong to a name: as much is taken as there is a name for.
            size_t end = given.size();
            Result<Id> worn = find(p, given.substr(at));
            while (!worn && end != std::string::npos && end > at) {
                end = given.rfind(',', end - 1);
                if (end == std::string::npos || end <= at) break;
                worn = find(p, given.substr(at, end - at));
            }
            if (!worn) return find(p, given.substr(at, std::min(given.find(',', at), given.size()) - at)).error();
            specimen.wears.push_back(*worn);
            at = end + 1;
        }
    if (!o.mesh.empty()) {
        const Result<Id> mesh = findMesh(p, o.mesh);
        if (!mesh) return mesh.error();
        specimen.mesh = *mesh;
    }
    if (o.subdivide) specimen.subdivisions = o.subdivide;
    if (!o.placements.empty()) {
        const Result<Placements> placements = placementsFromText(o.placements);
        if (!placements) return placements.error();
        specimen.placements = *placements;
    }
    for (const std::string& kind : o.things) {
        if (!thingMesh(kind)) {
            std::vector<std::string_view> kinds;
            for (const ThingKind& k : thingKinds()) kinds.push_back(k.key);
            return refuse(fmt::format("There is no thing {}. There are: {}.", kind, fmt::join(kinds, ", ")));
        }
        const ThingPlace place = placeFor(kind, boundsOf(*opened.assets.mesh(p, specimen.mesh)));
        specimen.things.push_back({kind, place.position, place.size, true});
    }
    if (!o.wire.empty()) {
        // "2:card.out": of what the second slot wears.
        std::string text = o.wire;
        size_t slot = 1;
        if (const size_t colon = text.find(':'); colon != std::string::npos) {
            const char* end = text.data() + colon;
            if (std::from_chars(text.data(), end, slot).ptr != end || slot < 1 || slot > std::max<size_t>(1, specimen.wears.size()))
                return refuse(fmt::format("{} names no slot: the specimen wears something in {}. Write it as 1:{}.", o.wire,
                                          specimen.wears.size() == 1 ? "slot 1 only" : fmt::format("slots 1 to {}", specimen.wears.size()),
                                          text.substr(colon + 1)));
            text = text.substr(colon + 1);
        }
        const Master* master = specimen.wears.empty() ? nullptr : p.masterOf(specimen.wears[slot - 1]);
        if (!master) return refuse("A wire needs a master: say which with --of.");
        const Result<Source> wire = wireOf(p, *master, text);
        if (!wire) return wire.error();
        l.wire = *wire;
        l.wireMaster = master->id;
        l.view = "wire";
    } else if (!o.view.empty()) {
        if (findView(o.view) < 0) {
            std::vector<std::string> names;
            for (const ViewDef& v : views()) names.push_back(v.key);
            return refuse(fmt::format("There is no view {}. There are: {}.", o.view, fmt::join(names, ", ")));
        }
        l.view = o.view;
    }
    if (!o.range.empty()) {
        double low = 0, high = 1;
        if (!twoNumbers(o.range, ':', low, high) || !(high > low))
            return refuse(fmt::format("{} is no range; write it as 0:0.2.", o.range));
        l.viewLow = float(low);
        l.viewHigh = float(high);
    }
    if (!o.light.empty()) {
        // A file is named as seen from here, not from the project.
        l.light = findLight(o.light) ? o.light : std::filesystem::absolute(o.light).string();
        specimen.light.clear();
    }
    if (!o.tone.empty()) l.tone = o.tone;
    if (!o.backdrop.empty()) l.backdrop = o.backdrop;
    auto set = [](float& to, const std::optional<double>& from) {
        if (from) to = float(*from);
    };
    set(l.rotation, o.rotation);
    set(l.sun, o.sun);
    set(l.exposure, o.exposure);
    set(l.glare, o.glare);
    Orbit orbit = specimen.orbit.value_or(l.orbit);
    set(orbit.yaw, o.yaw);
    set(orbit.pitch, o.pitch);
    set(orbit.standOff, o.standOff);
    specimen.orbit = orbit;
    if (o.compressed) opened.assets.setView(MapLibrary::View::Compressed);
    Yardstick& y = l.yardstick;
    y.what = Yardstick::What::None;
    if (!o.yardstick.empty()) {
        const std::string extension = std::filesystem::path(o.yardstick).extension().string();
        if (o.yardstick == "original") {
            // Compared with its own maps before they are compressed.
            y.what = Yardstick::What::Original;
            opened.assets.setView(MapLibrary::View::Compressed);
        } else if (o.yardstick.starts_with("maps:")) {
            y.what = Yardstick::What::Maps;
            size_t at = 5, n = 0;
            while (at <= o.yardstick.size() && n < 4) {
                const size_t comma = std::min(o.yardstick.find(',', at), o.yardstick.size());
                const std::string name = o.yardstick.substr(at, comma - at);
                for (const auto& m : p.maps)
                    if (m->name == name || m->id == name) y.maps[n] = m->id;
                if (!name.empty() && y.maps[n].empty()) return refuse(fmt::format("There is no map {}.", name));
                ++n;
                at = comma + 1;
            }
        } else if (extension == ".png" || extension == ".jpg" || extension == ".jpeg" || extension == ".exr" || extension == ".tif") {
            y.what = Yardstick::What::Picture;
            y.picture = std::filesystem::absolute(o.yardstick).string();
        } else {
            const Result<Id> worn = find(p, o.yardstick);
            if (!worn) return worn.error();
            y.what = Yardstick::What::Worn;
            y.worn = *worn;
        }
    }
    if (o.gain) y.gain = float(*o.gain);
    l.specimens = {specimen};
    return Done{};
}

} // namespace

int render(const Options& o) {
    const auto opened = open(o);
    if (!opened) return fail(opened.error());
    Opened& p = **opened;
    double width = 0, height = 0;
    if (!twoNumbers(o.pictureSize, 'x', width, height)) return fail(fmt::format("{} is no size; write it as 640x480.", o.pictureSize));
    if (Outcome good = apply(o, p); !good) return fail(good.error());
    auto context = EglContext::create();
    if (!context) return fail(context.error());
    (*context)->makeCurrent();
    Renderer renderer;
    renderer.setEvaluatorOnly(o.engine == "cpu");
    LookCache looks;
    LightLibrary lights;
    const Specimen& specimen = p.project.lineup.specimens[0];
    RenderSettings settings = settingsFor(p.project, specimen, lights, p.assets.folder(), true);
    if (!settings.lightFile->problem.empty()) return fail(settings.lightFile->problem);
    settings.width = int(width);
    settings.height = int(height);
    settings.supersampling = 2;
    const DressedSpecimen dressed = dress(p.project, p.assets, looks, specimen, o.time, dressFor(p.project, settings));
    for (const DressedSlot& slot : dressed.slots)
        if (!slot.look->ok) return fail("What is worn has errors; hsk check lists them.");
    if (!dressed.problem.empty()) return fail(dressed.problem);
    if (!o.frames.empty()) {
        RecordRequest request;
        if (!twoNumbers(o.frames, ':', request.from, request.to))
            return fail(fmt::format("{} is no range of time; write it as 0:8.", o.frames));
        request.specimens = {0};
        request.width = settings.width;
        request.height = settings.height;
        request.framesPerSecond = o.framesPerSecond;
        request.path = o.out;
        const std::string extension = request.path.extension().string();
        request.kind = extension == ".webp"  ? RecordRequest::Kind::Animated
                       : extension == ".png" ? RecordRequest::Kind::Sheet
                                             : RecordRequest::Kind::Frames;
        const auto files = record(renderer, p.project, p.assets, looks, lights, request);
        if (!files) return fail(files.error());
        for (const std::string& f : *files) print(f);
        return 0;
    }
    // Two pictures that are compared are made alike.
    const bool compared = p.project.lineup.yardstick.what != Yardstick::What::None;
    const Result<RenderedPicture> picture = renderWithSamples(renderer, dressed, settings, compared ? 4 : o.samples);
    if (!picture) return fail(sentenceWithCard(p.project, picture.error()));
    std::vector<uint8_t> rgba = picture->rgba;
    // There is one specimen here, and it is not its own yardstick.
    const auto yardstick = yardstickPicture(renderer, p.project, p.assets, looks, 0, settings, o.time);
    if (!yardstick) return fail(yardstick.error());
    if (*yardstick) {
        const PictureView mine{picture->width, picture->height, picture->rgba.data()},
            other{(*yardstick)->width, (*yardstick)->height, (*yardstick)->rgba.data()};
        const Comparison c = compare(other, mine);
        if (o.json) print(Json{{"deltaEMean", c.mean}, {"deltaEWorst", c.worst}, {"flip", c.flip}});
        else print(fmt::format("CIEDE2000 mean {:.3f} worst {:.2f}, FLIP {:.4f}", c.mean, c.worst, c.flip));
        if (o.show == "difference") rgba = differencePicture(mine, other, p.project.lineup.yardstick.gain);
        else if (o.show == "split") rgba = splitPicture(mine, other, p.project.lineup.yardstick.split);
        else if (o.show == "beside") {
            std::vector<uint8_t> both(rgba.size() * 2);
            const size_t row = size_t(picture->width) * 4;
            for (size_t y = 0; y < size_t(picture->height); ++y) {
                std::copy_n(mine.rgba + y * row, row, both.begin() + long(y * row * 2));
                std::copy_n(other.rgba + y * row, row, both.begin() + long(y * row * 2 + row));
            }
            if (const Outcome written = writeScreenPicture(o.out, both, picture->width * 2, picture->height); !written)
                return fail(written.error());
            return 0;
        }
    } else if (picture->peak > 0) {
        print(fmt::format("up to {:g}", picture->peak));
    }
    if (const Outcome written = writeScreenPicture(o.out, rgba, picture->width, picture->height); !written) return fail(written.error());
    return 0;
}

} // namespace hue::cli
