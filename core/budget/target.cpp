#include "core/budget/target.h"

#include "core/base/described_private.h"
#include "core/base/files.h"
#include "core/compress/block_format.h"

#include <algorithm>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <fstream>
#include <sstream>

namespace hue {

std::span<const LimitDef> limitDefs() {
    static constexpr LimitDef all[] = {
        {"operations", "Operations", "per pixel", "Scalar operations of each pixel, unseen parts included", &Limits::operations},
        {"vertexOperations", "Vertex operations", "per vertex", "Scalar operations of each vertex", &Limits::vertexOperations},
        {"fetches", "Fetches", "per pixel", "Reads of maps of each pixel", &Limits::fetches},
        {"dependentFetches", "Dependent fetches", "per pixel", "Reads whose place depends on another read", &Limits::dependentFetches},
        {"samplers", "Samplers", "", "Maps that are read", &Limits::samplers},
        {"carried", "Carried numbers", "", "What triangles carry from their vertices to the pixels", &Limits::carried},
        {"registers", "Waiting numbers", "", "That are kept at once at the worst point of the pixel stage", &Limits::registers},
        {"mapMegabytes", "Map memory", "MB", "Of the maps of one surface, with their smaller levels", &Limits::mapMegabytes},
        {"projectMegabytes", "Map memory of the project", "MB", "Of all maps that are worn, each counted once", &Limits::projectMegabytes},
        {"builds", "Builds", "", "Combinations of build choices of one master that are in use", &Limits::builds},
        {"overdraw", "Overdraw", "", "How often a pixel of a masked or see-through surface is computed, mean over its picture",
         &Limits::overdraw},
    };
    return all;
}

template <class F> void describe(F& f, Target& t) {
    f.text("key", t.key, "names it in projects and on the command line", Written::Always);
    f.text("name", t.name, "for people", Written::Always, t.key);
    f.text("about", t.about, "one sentence");
    for (const LimitDef& d : limitDefs()) f.number(std::string(d.key).c_str(), t.limits.*d.limit, 0, 0, 1e9f, d.help);
    f.texts("formats", t.formats, "keys of block formats that it reads; all when missing");
    f.rest(t.extra);
}

std::span<const Target> shippedTargets() {
    static const std::vector<Target> all{
        {"handheld",
         "Handheld",
         "Small machines in the hand: 1280 x 720 at 60 pictures a second",
         {.operations = 160,
          .vertexOperations = 60,
          .fetches = 5,
          .dependentFetches = 1,
          .samplers = 6,
          .registers = 32,
          .carried = 8,
          .mapMegabytes = 12,
          .projectMegabytes = 384,
          .builds = 4,
          .overdraw = 2},
         {"astc-4x4", "astc-5x5", "astc-6x6", "astc-8x8", "plain-8"},
         {}},
        {"headset",
         "Headset",
         "Glasses with a mobile chip: two eyes of 1800 x 1900 at 72 pictures a second",
         {.operations = 80,
          .vertexOperations = 40,
          .fetches = 4,
          .dependentFetches = 1,
          .samplers = 5,
          .registers = 24,
          .carried = 6,
          .mapMegabytes = 10,
          .projectMegabytes = 512,
          .builds = 3,
          .overdraw = 1.5},
         {"astc-4x4", "astc-5x5", "astc-6x6", "astc-8x8", "plain-8"},
         {}},
        {"console",
         "Console",
         "Consoles under a television: 2560 x 1440 at 60 pictures a second",
         {.operations = 500,
          .vertexOperations = 200,
          .fetches = 12,
          .dependentFetches = 4,
          .samplers = 12,
          .registers = 48,
          .carried = 16,
          .mapMegabytes = 48,
          .projectMegabytes = 2048,
          .builds = 12,
          .overdraw = 4},
         {"bc1", "bc3", "bc4", "bc5", "bc7", "plain-8", "plain-16", "half"},
         {}},
        {"desktop",
         "Desktop",
         "Machines with a card of their own, of the middle class: 2560 x 1440 at 60 pictures a second",
         {.operations = 700,
          .vertexOperations = 300,
          .fetches = 16,
          .dependentFetches = 6,
          .samplers = 16,
          .registers = 56,
          .carried = 16,
          .mapMegabytes = 64,
          .projectMegabytes = 3072,
          .builds = 16,
          .overdraw = 5},
         {"bc1", "bc3", "bc4", "bc5", "bc7", "plain-8", "plain-16", "half"},
         {}},
    };
    return all;
}

std::string targetText(const Target& target) {
    Json j{{"kind", "huestack target"}, {"format", 1}};
    const Json fields = FieldWriter::of(target);
    for (const auto& [key, v] : fields.items()) j[key] = v;
    return textOf(j);
}

Result<Target> parseTarget(const std::string& text, const std::string& name) {
    const auto refuse = [&](const std::string& why) {
        return Error{"target.unreadable", fmt::format("{} cannot be read as a target: {}.", name, why), {}};
    };
    const Json j = Json::parse(text, nullptr, false);
    if (j.is_discarded() || !j.is_object()) return refuse("it is not JSON, or was cut off");
    if (j.value("kind", Json()) != "huestack target") return refuse("its kind is not \"huestack target\"");
    if (j.contains("format") && j["format"].is_number() && j["format"].get<double>() > 1) return refuse("a newer version wrote it");
    // A limit that is not understood would let pass what was meant to be stopped.
    for (const LimitDef& d : limitDefs())
        if (const auto its = j.find(d.key); its != j.end() && (!its->is_number() || !(its->get<double>() >= 0)))
            return refuse(fmt::format("{} is no number of 0 or above", d.key));
    std::vector<Diagnostic> report;
    Target t;
    FieldReader reader(j, "the target", report, [](char) { return std::string(); });
    reader.ignore({"kind", "format"});
    describe(reader, t);
    for (const Diagnostic& d : report)
        if (d.code != "unknown.field") return refuse(d.sentence); // those are kept
    const auto isKey = [](char c) { return (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '-'; };
    if (t.key.empty() || !std::all_of(t.key.begin(), t.key.end(), isKey))
        return refuse("its key holds more than small letters, digits and dashes, or nothing");
    for (const std::string& format : t.formats)
        if (!blockFormatByKey(format)) return refuse(fmt::format("there is no block format {}", format));
    return t;
}

Result<Target> readTarget(const std::filesystem::path& file) {
    if (const std::string why = whyUnreadable(file); !why.empty())
        return Error{"target.unreadable", fmt::format("{} {}. Give the file of a target.", file.string(), why), {}};
    std::ifstream in(file, std::ios::binary);
    if (!in) return Error{"target.unreadable", fmt::format("{} cannot be read. Check its permissions.", file.string()), {}};
    std::ostringstream text;
    text << in.rdbuf();
    return parseTarget(text.str(), file.string());
}

Outcome writeTarget(const Target& target, const std::filesystem::path& file) { return writeFile(file, targetText(target)); }

Result<Target> findTarget(const std::string& wanted) {
    if (wanted.ends_with(".json")) return readTarget(wanted);
    std::vector<std::string> keys;
    for (const Target& t : shippedTargets()) {
        if (t.key == wanted) return t;
        keys.push_back(t.key);
    }
    return Error{
        "target.unknown",
        fmt::format("There is no target {}. There are {}; others are given as a file that ends with .json.", wanted, fmt::join(keys, ", ")),
        {}};
}

} // namespace hue
