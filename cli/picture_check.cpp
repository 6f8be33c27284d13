#include "cli/picture_check.h"

#include "cli/output.h"
#include "core/base/files.h"
#include "core/compare/compare.h"
#include "core/picture/contact_sheet.h"
#include "core/surface/channels.h"
#include "preview/lineup_pictures.h"
#include "preview/worn_pictures.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace hue::cli {
namespace {

namespace fs = std::filesystem;

/// "Bodywork, Line Ochre.png": a name that every file system takes. Names are unique within a master, and signs that are none become dots.
std::string fileNameFor(const Project& p, const Id& worn) {
    std::string out = p.nameOf(worn);
    if (const size_t slash = out.find('/'); slash != out.npos) out.replace(slash, 1, ", ");
    for (char& c : out)
        if (static_cast<unsigned char>(c) < 32 || std::string_view("/\\:*?\"<>|").find(c) != std::string_view::npos) c = '.';
    return out + ".png";
}

struct Differing {
    Id worn;
    float mean = 0;
    RenderedPicture kept, now;
};

Outcome writeDiffering(const fs::path& file, const Project& p, const std::vector<Differing>& list) {
    const SheetLayout layout{int(list.size()) * 2, 2, list[0].now.width};
    if (const Outcome fits = layout.fits(); !fits) return fits;
    ContactSheet sheet(layout);
    for (size_t k = 0; k < list.size(); ++k) {
        const Differing& d = list[k];
        sheet.put(int(2 * k), fitted(viewOf(d.kept), d.now.width, d.now.height), p.nameOf(d.worn));
        sheet.put(int(2 * k + 1), d.now.rgba, fmt::format("now, {:.2f} apart", d.mean));
    }
    return writeScreenPicture(file, sheet.rgba(), layout.width(), layout.height());
}

} // namespace

int checkPictures(Opened& opened, const PictureCheck& check) {
    const Project& p = opened.project;
    const fs::path folder = check.folder;
    std::error_code problem;
    if (check.keep) fs::create_directories(folder, problem);
    if (!fs::is_directory(folder, problem))
        return fail(fmt::format("There is no folder {}. With --keep it is made, and the pictures in it.", check.folder));
    const auto pictures = WornPictures::start(p, opened.assets);
    if (!pictures) return fail(pictures.error());
    (*pictures)->side = 128;
    (*pictures)->samples = 4;
    std::vector<Id> all;
    for (const MasterPtr& m : p.masters)
        if (!m->surface.decal) all.push_back(m->id);
    for (const InstancePtr& i : p.instances)
        if (const Master* m = p.masterOf(i->id); m && !m->surface.decal) all.push_back(i->id);
    std::vector<Differing> differing;
    std::set<std::string> names;
    std::vector<std::string> fresh;
    int kept = 0;
    for (const Id& worn : all) {
        const std::string name = fileNameFor(p, worn);
        if (!names.insert(name).second) continue;
        Result<RenderedPicture> now = (*pictures)->draw(worn);
        if (!now) return fail(now.error());
        const fs::path file = folder / name;
        if (check.keep) {
            if (const Outcome written = writeScreenPicture(file, now->rgba, now->width, now->height); !written)
                return fail(written.error());
            ++kept;
            continue;
        }
        if (!fs::exists(file, problem)) {
            fresh.push_back(p.nameOf(worn));
            continue;
        }
        Result<RenderedPicture> then = readScreenPicture(file);
        if (!then) return fail(then.error());
        const float mean = compare(viewOf(*then), viewOf(*now), false).mean;
        if (mean > float(check.limit)) differing.push_back({worn, mean, std::move(*then), std::move(*now)});
    }
    if (check.keep) {
        print(fmt::format("{} pictures are kept in {}", kept, check.folder));
        return 0;
    }
    std::stable_sort(differing.begin(), differing.end(), [](const Differing& a, const Differing& b) { return a.mean > b.mean; });
    for (const Differing& d : differing)
        print(fmt::format("{} differs from its kept picture by {:.2f} (limit {})", p.nameOf(d.worn), d.mean, check.limit));
    for (const std::string& name : fresh) print(fmt::format("{} has no kept picture", name));
    std::vector<std::string> gone;
    for (const auto& entry : fs::directory_iterator(folder, problem))
        if (entry.path().extension() == ".png" && !names.contains(entry.path().filename().string()))
            gone.push_back(entry.path().stem().string());
    std::sort(gone.begin(), gone.end());
    for (const std::string& name : gone) print(fmt::format("{} has a kept picture and is not in the project", name));
    if (!check.sheet.empty() && !differing.empty())
        if (const Outcome written = writeDiffering(check.sheet, p, differing); !written) return fail(written.error());
    return differing.empty() && fresh.empty() && gone.empty() ? 0 : 1;
}

} // namespace hue::cli
