#include "core/document/names.h"
#include "core/edits/edit_parts.h"
#include "core/mesh/paint_data.h"

namespace hue::edit {
namespace {

Error gone() { return refuse("edit.no-paintwork", "This paintwork is not in the project any more."); }

template <class Change> Result<Project> withPaintwork(const Project& project, const Id& id, Change change) {
    Project next = project;
    for (auto& slot : next.paintworks) {
        if (slot->id != id) continue;
        auto copy = std::make_shared<Paintwork>(*slot);
        change(*copy);
        slot = std::move(copy);
        return next;
    }
    return gone();
}

std::vector<std::string> namesOf(const Project& project, const Id& but = {}) {
    std::vector<std::string> names;
    for (const auto& w : project.paintworks)
        if (w->id != but) names.push_back(w->name);
    return names;
}

/// "paint/tram_side.glb": letters, digits and single underscores, and a number where the name is taken.
std::string freePath(const Project& project, const std::string& name) {
    std::string stem;
    for (const char c : name) {
        const bool capital = c >= 'A' && c <= 'Z';
        if (capital || (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9')) stem += capital ? char(c - 'A' + 'a') : c;
        else if (!stem.empty() && stem.back() != '_') stem += '_';
    }
    if (stem.empty()) stem = "paint";
    for (int n = 1;; ++n) {
        const std::string path = fmt::format("paint/{}{}.glb", stem, n > 1 ? fmt::format("_{}", n) : "");
        if (std::none_of(project.paintworks.begin(), project.paintworks.end(), [&](const auto& w) { return w->path == path; })) return path;
    }
}

} // namespace

Result<Project> addPaintwork(const Project& project, Paintwork paintwork) {
    if (!paintwork.paint) return refuse("edit.no-paint", "There is nothing that the paintwork could be painted on.");
    if (paintwork.id.empty()) paintwork.id = newId('w');
    paintwork.name = freeName(namesOf(project), paintwork.name.empty() ? "Paintwork" : paintwork.name);
    if (paintwork.path.empty()) paintwork.path = freePath(project, paintwork.name);
    Project next = project;
    next.paintworks.push_back(std::make_shared<Paintwork>(std::move(paintwork)));
    return next;
}

Result<Project> renamePaintwork(const Project& project, const Id& id, const std::string& name) {
    if (name.find_first_not_of(' ') == std::string::npos) return refuse("name.empty", "A paintwork needs a name.");
    return withPaintwork(project, id, [&](Paintwork& w) { w.name = freeName(namesOf(project, id), name); });
}

Result<Project> removePaintwork(const Project& project, const Id& id) {
    if (!project.paintwork(id)) return gone();
    Project next = project;
    std::erase_if(next.paintworks, [&](const auto& w) { return w->id == id; });
    for (Specimen& s : next.lineup.specimens)
        if (s.paintwork == id) s.paintwork.clear();
    return next;
}

Result<Project> setPaint(const Project& project, const Id& id, const PaintDataPtr& paint) {
    if (!paint) return refuse("edit.no-paint", "There is nothing that the paintwork could be painted on.");
    return withPaintwork(project, id, [&](Paintwork& w) { w.paint = paint; });
}

Result<Project> setLiveRules(const Project& project, const Id& id, LiveRules rules) {
    if (rules.channel < 0 || rules.channel >= PaintData::kChannels)
        return refuse("edit.no-channel", fmt::format("Paint has {} channels, and no channel {}.", PaintData::kChannels, rules.channel + 1));
    return withPaintwork(project, id, [&](Paintwork& w) {
        const auto at = std::find_if(w.live.begin(), w.live.end(), [&](const LiveRules& l) { return l.channel == rules.channel; });
        if (rules.rules.empty()) {
            if (at != w.live.end()) w.live.erase(at);
            if (w.paint) w.paint = std::make_shared<PaintData>(w.paint->without(PaintData::under(rules.channel)));
        } else if (at != w.live.end()) {
            rules.extra = at->extra;
            *at = std::move(rules);
        } else {
            w.live.push_back(std::move(rules));
        }
    });
}
Result<Project> wearPaintwork(const Project& project, size_t specimen, const Id& id) {
    if (specimen >= project.lineup.specimens.size()) return refuse("lineup.no-specimen", "There is no such specimen.");
    const Paintwork* w = project.paintwork(id);
    if (!id.empty() && !w) return gone();
    if (w && w->mesh != project.lineup.specimens[specimen].mesh)
        return refuse("lineup.other-mesh", fmt::format("{} is painted on another mesh than specimen {} has.", w->name, specimen + 1));
    Project next = project;
    next.lineup.specimens[specimen].paintwork = id;
    return next;
}

} // namespace hue::edit
