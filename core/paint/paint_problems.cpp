#include "core/paint/paint_problems.h"

#include "core/edits/edits.h"
#include "core/paint/carry_over.h"
#include "core/paint/paint_names.h"

#include <algorithm>
#include <fmt/format.h>

namespace hue {
namespace {

class Problems {
  public:
    Problems(const Project& project, Assets& assets) : m_project(project), m_assets(assets) {}

    std::vector<Diagnostic> run() {
        for (const auto& w : m_project.paintworks) changed(*w);
        for (size_t i = 0; i < m_project.lineup.specimens.size(); ++i) specimen(i, m_project.lineup.specimens[i]);
        return std::move(m_out);
    }

  private:
    void say(Severity severity, const char* code, const Place& place, std::string sentence, std::vector<Fix> fixes = {}) {
        m_out.push_back({severity, code, place, std::move(sentence), std::move(fixes)});
    }

    void changed(const Paintwork& w) {
        const auto wears = [&](const Specimen& s) { return s.paintwork == w.id; };
        const auto& specimens = m_project.lineup.specimens;
        if (std::none_of(specimens.begin(), specimens.end(), wears))
            say(Severity::Advice, "paint.not-worn", {{}, {}, w.id},
                fmt::format("No specimen wears the paintwork {}. Choose it for one in the station Paint, or remove it.", w.name),
                {{"Remove it", [id = w.id](const Project& p) { return edit::removePaintwork(p, id); }}});
        if (!w.paint) return unread(w);
        std::string problem;
        const MeshPtr mesh = m_assets.mesh(m_project, w.mesh, &problem);
        if (!problem.empty() || fits(*w.paint, mesh)) return;
        const auto carried = std::make_shared<const CarriedPaint>(carriedOver(*w.paint, mesh));
        say(Severity::Caution, "paint.mesh-changed", {{}, {}, w.id},
            fmt::format(
                "The mesh of {} has changed since it was painted: from {} vertices to {}. Its paint is shown as it would be carried "
                "over from the nearest points of the old surface, of which the furthest is {:.3g} m away.",
                w.name, w.paint->vertices(), mesh->vertices.size(), carried->furthest),
            {{"Carry the paint over",
              [id = w.id, carried](const Project& p) { return edit::setPaint(p, id, std::make_shared<PaintData>(carried->paint)); }}});
    }

    /// Its file could not be read when the project was; perhaps it can by now.
    void unread(const Paintwork& w) {
        const Result<PaintData> now = readPaint(m_assets.resolve(w.path));
        if (!now) return say(Severity::Error, "paint.unreadable", {{}, {}, w.id}, now.error().sentence);
        say(Severity::Error, "paint.unreadable", {{}, {}, w.id},
            fmt::format("The paint of {} could not be read when the project was opened; its file is there now.", w.name),
            {{"Take it from the file",
              [id = w.id, paint = std::make_shared<const PaintData>(*now)](const Project& p) { return edit::setPaint(p, id, paint); }}});
    }

    /// What a specimen wears is worn by another one with paint: bare meshes beside that are meant.
    bool isPaintedElsewhere(const Specimen& s) const {
        const auto wears = [&](const Specimen& other, const Master* master) {
            return std::any_of(other.wears.begin(), other.wears.end(), [&](const Id& worn) { return m_project.masterOf(worn) == master; });
        };
        const auto& all = m_project.lineup.specimens;
        return std::any_of(s.wears.begin(), s.wears.end(), [&](const Id& worn) {
            const Master* master = m_project.masterOf(worn);
            return master && !channelsRead(m_project, *master).empty() && std::any_of(all.begin(), all.end(), [&](const Specimen& other) {
                       return !other.paintwork.empty() && wears(other, master);
                   });
        });
    }

    void specimen(size_t index, const Specimen& s) {
        const std::vector<ReadChannel> read = channelsRead(m_project, s);
        const Paintwork* w = m_project.paintwork(s.paintwork);
        if (!w) {
            if (read.empty()) return;
            std::string problem;
            const MeshPtr mesh = m_assets.mesh(m_project, s.mesh, &problem);
            if (!problem.empty() || mesh->hasColors || isPaintedElsewhere(s)) return;
            say(Severity::Caution, "paint.none", {read[0].board, read[0].card, {}},
                fmt::format("{} is read from what is painted on specimen {}, whose mesh has no paint: it is 0 everywhere. Give it a "
                            "paintwork.",
                            read[0].name, index + 1),
                {{"Give it a paintwork", [index, mesh](const Project& p) { return givePaintwork(p, index, mesh); }}});
            return;
        }
        if (read.empty()) {
            say(Severity::Caution, "paint.unread", {{}, {}, w->id},
                fmt::format("Nothing that specimen {} wears reads its paintwork {}. Put a Painted channel card on the board of what it "
                            "wears, or take the paintwork off.",
                            index + 1, w->name),
                {{"Take it off", [index](const Project& p) { return edit::wearPaintwork(p, index, {}); }}});
            return;
        }
        for (const ReadChannel& r : read)
            if (w->paint && !w->paint->isPainted(r.channel))
                say(Severity::Advice, "paint.never-painted", {r.board, r.card, {}},
                    fmt::format("{} is read on specimen {}, and nothing is painted there in {}. Paint it in the station Paint, or fill it "
                                "by a rule.",
                                r.name, index + 1, w->name));
    }

    const Project& m_project;
    Assets& m_assets;
    std::vector<Diagnostic> m_out;
};

} // namespace

std::vector<Diagnostic> paintProblems(const Project& project, Assets& assets) { return Problems(project, assets).run(); }

Result<Project> givePaintwork(const Project& project, size_t specimen, const MeshPtr& mesh, const std::string& name, const Id& id) {
    if (specimen >= project.lineup.specimens.size()) return Error{"lineup.no-specimen", "There is no such specimen.", {}};
    PaintData paint(mesh);
    if (mesh->hasColors)
        for (int c = 0; c < PaintData::kChannels; ++c) {
            const auto set = c < 4 ? &Vertex::color : &Vertex::color1;
            std::vector<float> values;
            for (const Vertex& v : mesh->vertices) values.push_back((v.*set)[size_t(c % 4)]);
            paint = paint.with(c, values);
        }
    const Id meshId = project.lineup.specimens[specimen].mesh;
    const MeshFile* file = project.mesh(meshId);
    Paintwork w;
    w.id = id.empty() ? newId('w') : id;
    w.name = !name.empty() ? name : file ? file->name : "Paintwork";
    w.mesh = meshId;
    w.paint = std::make_shared<PaintData>(std::move(paint));
    return edit::chain(project, {[&](const Project& p) { return edit::addPaintwork(p, w); },
                                 [&](const Project& p) { return edit::wearPaintwork(p, specimen, w.id); }});
}

} // namespace hue
