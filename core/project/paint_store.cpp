#include "core/base/files.h"
#include "core/mesh/paint_data.h"
#include "core/project/paint_store_private.h"

#include <fmt/format.h>
#include <map>
#include <set>

namespace hue {
namespace {

namespace fs = std::filesystem;

fs::path besideOf(const fs::path& journal, const std::string& fingerprint) {
    return fs::path(journal.string() + ".paint-" + fingerprint + ".glb");
}

void give(std::shared_ptr<const Paintwork>& slot, const PaintDataPtr& paint) {
    auto copy = std::make_shared<Paintwork>(*slot);
    copy->paint = paint;
    slot = std::move(copy);
}

} // namespace

void readPaintworks(Project& project, const fs::path& folder, std::vector<Diagnostic>& report) {
    for (auto& slot : project.paintworks) {
        if (slot->paint || slot->path.empty()) continue;
        const fs::path file = folder / slot->path;
        const auto read = [&]() -> Result<PaintData> {
            if (liesWithin(folder, file)) return readPaint(file);
            return Error{
                "paint.outside",
                fmt::format("The paint of {} lies in {}, outside of the project's folder, and was not read. Move the file into the "
                            "folder, and name it there.",
                            slot->name, file.lexically_normal().string()),
                {}};
        };
        if (const Result<PaintData> paint = read()) give(slot, std::make_shared<PaintData>(*paint));
        else report.push_back({Severity::Error, paint.error().code, {{}, {}, slot->id}, paint.error().sentence, {}});
    }
}

Outcome savePaintworks(const Project& project, const fs::path& folder, const fs::path& journal) {
    std::map<fs::path, const Paintwork*> files;
    for (const auto& w : project.paintworks) {
        if (!w->paint || w->path.empty()) continue;
        const fs::path file = folder / w->path;
        const auto [other, fresh] = files.emplace(file.lexically_normal(), w.get());
        if (!fresh && !(*other->second->paint == *w->paint))
            return Error{"paint.same-file",
                         fmt::format("The paintworks {} and {} both lie in {}. Give one of them a file of its own.", other->second->name,
                                     w->name, file.lexically_normal().string()),
                         {}};
        if (!liesWithin(folder, file))
            return Error{
                "paint.outside",
                fmt::format("The paint of {} would be written to {}, outside of the project's folder. Give it a file inside of it.",
                            w->name, file.lexically_normal().string()),
                {}};
        const std::string there = fingerprintOfPaintFile(file);
        if (there == w->paint->fingerprint()) continue;
        std::error_code none;
        if (there.empty() && fs::exists(file, none)) {
            // Another program's file may be read as paint; it is not written over.
            const Result<PaintData> theirs = readPaint(file);
            if (theirs && *theirs == *w->paint) continue;
            return Error{"file.not-ours",
                         fmt::format("{} was written by another program and was left as it is, so the paint of {} is not saved. Give it "
                                     "another file name.",
                                     file.string(), w->name),
                         {}};
        }
        fs::create_directories(file.parent_path(), none);
        if (!journal.empty()) {
            const fs::path kept = besideOf(journal, w->paint->fingerprint());
            if (fingerprintOfPaintFile(kept) == w->paint->fingerprint() && nameAlso(kept, file)) continue;
        }
        if (const Outcome written = writePaint(file, *w->paint); !written) return written;
    }
    return Done{};
}

void sharePaint(Project& to, const Project& from) {
    for (auto& slot : to.paintworks)
        for (const auto& other : from.paintworks)
            if (!slot->paint && other->paint && fingerprintOf(*other) == slot->fingerprint) give(slot, other->paint);
}

Outcome keepPaintBeside(const fs::path& journal, const Project& project, const fs::path& folder) {
    for (const auto& w : project.paintworks) {
        if (!w->paint) continue;
        const std::string& fingerprint = w->paint->fingerprint();
        std::error_code none;
        if (!folder.empty() && fingerprintOfPaintFile(folder / w->path) == fingerprint) continue;
        const fs::path file = besideOf(journal, fingerprint);
        if (fs::exists(file, none)) continue; // written whole, or not at all
        fs::create_directories(file.parent_path(), none);
        if (const Outcome written = writePaint(file, *w->paint); !written) return written;
    }
    return Done{};
}

void readPaintBeside(const fs::path& journal, Project& project) {
    for (auto& slot : project.paintworks) {
        if (slot->paint) continue;
        if (const Result<PaintData> paint = readPaint(besideOf(journal, slot->fingerprint)))
            give(slot, std::make_shared<PaintData>(*paint));
    }
}

void dropPaintBeside(const fs::path& journal, const Project* but) {
    std::set<fs::path> kept;
    if (but)
        for (const auto& w : but->paintworks) kept.insert(besideOf(journal, fingerprintOf(*w)));
    const std::string start = journal.filename().string() + ".paint-";
    std::error_code none;
    const fs::path folder = journal.has_parent_path() ? journal.parent_path() : fs::path(".");
    for (const auto& entry : fs::directory_iterator(folder, none)) {
        const std::string name = entry.path().filename().string();
        if (!name.starts_with(start) || !name.ends_with(".glb") || kept.contains(journal.parent_path() / name)) continue;
        fs::remove(entry.path(), none);
    }
}

} // namespace hue
