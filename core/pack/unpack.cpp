// Packed maps taken apart, and the sets of a folder.
#include "core/base/value.h"
#include "core/image_files/image_file.h"
#include "core/maps/normal_tools.h"
#include "core/pack/pack.h"

#include <algorithm>
#include <fmt/format.h>

namespace hue {

namespace fs = std::filesystem;

Result<std::vector<fs::path>> unpack(const fs::path& file, const Recipe* recipe, const fs::path& folder) {
    auto image = readImage(file);
    if (!image) return image.error();
    std::string stem = file.stem().string();
    if (recipe && !recipe->suffix.empty() && stem.ends_with(recipe->suffix)) stem.resize(stem.size() - recipe->suffix.size());
    static constexpr std::string_view names[] = {"red", "green", "blue", "alpha"};
    std::vector<fs::path> written;
    const bool floats = image->type == SampleType::F16 || image->type == SampleType::F32;
    std::vector<bool> done(size_t(image->channels), false);
    auto write = [&](const std::string& name, const std::vector<int>& channels) -> Outcome {
        std::vector<Plane> planes;
        for (int c : channels) {
            Plane plane = planeOf(*image, c);
            const std::vector<LaneOp> ops = recipe ? recipe->lanes[size_t(c)].ops : std::vector<LaneOp>{};
            const bool encoded = recipe && recipe->srgb && c < 3;
            for (float& v : plane.values) {
                if (encoded && channels.size() == 1) v = srgbToLinear(v);
                for (size_t k = ops.size(); k-- > 0;) {
                    if (ops[k].kind == LaneOp::Kind::Invert) v = 1 - v;
                    if (ops[k].kind == LaneOp::Kind::Remap && ops[k].newLow != ops[k].newHigh)
                        v = ops[k].low + (v - ops[k].newLow) / (ops[k].newHigh - ops[k].newLow) * (ops[k].high - ops[k].low);
                }
            }
            planes.push_back(std::move(plane));
            done[size_t(c)] = true;
        }
        std::string clean = name;
        std::replace(clean.begin(), clean.end(), ' ', '_');
        const fs::path to = folder / (stem + "_" + clean + (floats ? ".exr" : ".png"));
        const bool color = channels.size() == 3 && recipe && recipe->srgb;
        if (Outcome o = writeImage(to, imageOf(planes, image->type), color ? PixelEncoding::Srgb : PixelEncoding::Data); !o) return o;
        written.push_back(to);
        return Done{};
    };
    for (int c = 0; c < image->channels; ++c) {
        if (done[size_t(c)]) continue;
        std::string name(image->channels < 3 && c == 0 ? "grey" : image->channels == 2 ? "alpha" : names[c]);
        std::vector<int> channels{c};
        if (recipe && recipe->lanes[size_t(c)].from == Lane::From::Map) {
            name = recipe->lanes[size_t(c)].source;
            // Red, green and blue of one source were a color, and come out as one.
            for (int k = c + 1; k < std::min(image->channels, 3); ++k)
                if (recipe->lanes[size_t(k)].from == Lane::From::Map && recipe->lanes[size_t(k)].source == name) channels.push_back(k);
            if (channels.size() == 2) {
                // Two components of a normal come out with the third.
                Image two = imageOf({planeOf(*image, channels[0]), planeOf(*image, channels[1])}, image->type);
                std::string clean = name;
                std::replace(clean.begin(), clean.end(), ' ', '_');
                const fs::path to = folder / (stem + "_" + clean + (floats ? ".exr" : ".png"));
                if (Outcome o = writeImage(to, renormalised(two, true), PixelEncoding::Data); !o) return o.error();
                written.push_back(to);
                for (int k : channels) done[size_t(k)] = true;
                continue;
            }
        } else if (recipe && recipe->lanes[size_t(c)].from == Lane::From::Constant) {
            continue;
        }
        if (Outcome o = write(name, channels); !o) return o.error();
    }
    return written;
}

Result<std::vector<FileSet>> setsInFolder(const fs::path& folder, const std::string& pattern) {
    const size_t star = pattern.find('*'), role = pattern.find("{role}");
    if (star == std::string::npos || role == std::string::npos || star > role || pattern.find('*', star + 1) != std::string::npos)
        return Error{
            "pattern.odd",
            fmt::format(
                "The pattern {} should have one * for the set's name and then {{role}} for what a map holds, such as *_{{role}}.png.",
                pattern),
            {}};
    std::error_code none;
    if (!fs::is_directory(folder, none)) return Error{"folder.missing", fmt::format("There is no folder {}.", folder.string()), {}};
    const std::string head = pattern.substr(0, star), between = pattern.substr(star + 1, role - star - 1), tail = pattern.substr(role + 6);
    std::map<std::string, FileSet> sets;
    for (const auto& entry : fs::directory_iterator(folder, none)) {
        const std::string name = entry.path().filename().string();
        if (!entry.is_regular_file(none) || !name.starts_with(head) || !name.ends_with(tail) || name.size() <= head.size() + tail.size())
            continue;
        const std::string middle = name.substr(head.size(), name.size() - head.size() - tail.size());
        // The role is what stands behind the last place that fits; sets may have underscores in their names.
        for (size_t at = middle.size(); at-- > 0;) {
            if (middle.compare(at, between.size(), between) != 0) continue;
            const std::string set = middle.substr(0, at), word = middle.substr(std::min(middle.size(), at + between.size()));
            const Guess guess = guessOfName(word + ".");
            if (guess.role.empty() || set.empty()) continue;
            sets[set].name = set;
            sets[set].maps[guess.role] = {entry.path(), guess.kind};
            break;
        }
    }
    std::vector<FileSet> out;
    for (auto& [name, set] : sets) out.push_back(std::move(set));
    return out;
}

} // namespace hue
