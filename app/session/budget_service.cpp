#include "app/session/budget_service.h"

#include "core/budget/kept_versions.h"
#include "core/budget/map_memory.h"
#include "core/measure/marginal.h"
#include "core/project/frame_inputs.h"
#include "preview/worn_pictures.h"

#include <QDir>
#include <QSettings>
#include <QStandardPaths>
#include <cmath>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }
QImage imageOf(const RenderedPicture& p) {
    return QImage(p.rgba.data(), p.width, p.height, p.width * 4, QImage::Format_RGBA8888).convertToFormat(QImage::Format_RGB32);
}

constexpr Changes kHeard = Change::Graph | Change::Values | Change::Surface | Change::Maps | Change::Files | Change::Lineup | Change::Names;

/// Assets of its own, that show maps as a graphics card reads them whatever the lineup shows.
std::unique_ptr<Assets> cardAssets(const ProjectFilesPtr& files) {
    auto out = std::make_unique<Assets>();
    out->setFolder(files->assets.folder());
    out->setView(MapLibrary::View::Compressed);
    return out;
}

/// Leaves those that use most of a limit, of all and of `some`, and one with a map in a format that is not read: what the top bar asks for
/// with every tick of a drag is not looked for among thousands.
void keepWorst(ProjectVerdict& all, const std::set<Id>& some) {
    std::set<size_t> kept;
    for (size_t limit = 0; !all.worn.empty() && limit < all.worn[0].limits.size(); ++limit)
        for (const bool among : {true, false}) {
            std::optional<size_t> most;
            for (size_t k = 0; k < all.worn.size(); ++k) {
                const Verdict& v = all.worn[k];
                if (limit >= v.limits.size() || (among && !some.contains(v.worn))) continue;
                if (!most || v.limits[limit].figure > all.worn[*most].limits[limit].figure) most = k;
            }
            if (most) kept.insert(*most);
        }
    for (size_t k = 0; k < all.worn.size(); ++k)
        if (!all.worn[k].badFormats.empty()) {
            kept.insert(k);
            break;
        }
    std::vector<Verdict> worst;
    for (const size_t k : kept) worst.push_back(std::move(all.worn[k]));
    all.worn = std::move(worst);
}

} // namespace

BudgetService::BudgetService(Session& session)
    : QObject(&session), m_session(session), m_facts(std::make_shared<BudgetFacts>()), m_measurements(std::make_shared<Measurements>()) {
    m_target = shippedTargets()[2];
    m_chosen = text(m_target.key);
    if (const QString wanted = QSettings().value("target", m_chosen).toString(); wanted != m_chosen) {
        const Result<Target> t = findTarget(wanted.toStdString());
        if (t) m_target = *t, m_chosen = wanted;
        // Once there is somebody to hear it.
        else
            QTimer::singleShot(0, this, [this, why = t.error().sentence] {
                m_session.say(tr("%1 The limits of %2 are taken.").arg(text(why), text(m_target.name)));
            });
    }
    connect(&session, &Session::changed, this, [this](Changes what) {
        // What is locked is no cost, but savings keep off it.
        if (what.any(kHeard | Change::Board)) m_stale = true, refresh();
        if (what.any(kHeard)) m_soon.start();
    });
    m_soon.setSingleShot(true);
    m_soon.setInterval(1200);
    connect(&m_soon, &QTimer::timeout, this, &BudgetService::countProject);
    m_soon.start();
    const auto another = [this] {
        m_stale = true;
        refresh();
    };
    connect(&session, &Session::projectOpened, this, [this] {
        // What was found for the last project is made of its files.
        m_suggestions.clear();
        m_fit.reset();
        m_picture.reset();
        Q_EMIT suggestionsChanged();
        Q_EMIT fitChanged();
        m_versions.clear();
        m_versionsOf = m_session.file();
        findVersions();
    });
    connect(&session, &Session::fileChanged, this, [this] {
        if (!m_session.file().isEmpty() && m_session.file() != m_versionsOf) findVersions();
        m_versionsOf = m_session.file();
    });
    connect(&session, &Session::masterShown, this, another);
    connect(&session, &Session::targetChanged, this, another);
}

QString BudgetService::ownTargets() { return QStandardPaths::writableLocation(QStandardPaths::AppConfigLocation) + "/targets"; }

std::vector<std::pair<QString, Target>> BudgetService::targets() const {
    std::vector<std::pair<QString, Target>> out;
    for (const Target& t : shippedTargets()) out.emplace_back(text(t.key), t);
    QStringList folders{ownTargets()};
    if (!m_session.file().isEmpty()) folders << QFileInfo(m_session.file()).path() + "/targets";
    for (const QString& folder : folders)
        for (const QFileInfo& file : QDir(folder).entryInfoList({"*.json"}, QDir::Files, QDir::Name))
            if (const Result<Target> t = readTarget(file.filePath().toStdString())) out.emplace_back(file.filePath(), *t);
    // One from elsewhere that is in use.
    if (std::none_of(out.begin(), out.end(), [&](const auto& t) { return t.first == m_chosen; })) out.emplace_back(m_chosen, m_target);
    return out;
}

bool BudgetService::choose(const QString& keyOrFile) {
    const Result<Target> target = findTarget(keyOrFile.toStdString());
    if (!target) {
        m_session.say(text(target.error().sentence));
        return false;
    }
    m_target = *target;
    m_chosen = keyOrFile;
    QSettings().setValue("target", keyOrFile);
    m_suggestions.clear();
    m_fit.reset();
    m_stale = true;
    m_soon.start();
    Q_EMIT targetChosen();
    Q_EMIT suggestionsChanged();
    Q_EMIT fitChanged();
    refresh();
    return true;
}

void BudgetService::countProject() {
    m_session.runner().run(
        {.owner = this, .kind = "project", .newer = Newer::Waits, .pace = Pace::Long},
        [files = m_session.files(), snapshot = m_session.snapshot(), target = m_target](const Work&) {
            auto out = std::make_shared<ProjectVerdict>(verdictOf(*snapshot, target, mapBytesFor(*snapshot, files->assets)));
            std::set<Id> worn;
            for (const Specimen& s : snapshot->lineup.specimens) worn.insert(s.wears.begin(), s.wears.end());
            keepWorst(*out, worn);
            return std::pair(std::shared_ptr<const ProjectVerdict>(out), worn);
        },
        [this](const std::pair<std::shared_ptr<const ProjectVerdict>, std::set<Id>>& counted) {
            std::tie(m_project, m_inLineup) = counted;
            Q_EMIT projectCounted();
        });
}

BudgetService::Most BudgetService::mostOf(std::string_view limit, bool inLineup) const {
    Most out;
    if (m_project)
        for (const Verdict& v : m_project->worn)
            if (!inLineup || m_inLineup.contains(v.worn))
                for (const Against& a : v.limits)
                    if (a.def->key == limit && a.figure > out.figure) out = {v.worn, a.figure};
    return out;
}

void BudgetService::setWatched(bool watched) {
    m_watched = watched;
    refresh();
}

void BudgetService::refresh() {
    if (!m_watched || !m_stale) return;
    m_stale = false;
    m_session.runner().run(
        {.owner = this, .kind = "budget", .newer = Newer::Waits},
        [files = m_session.files(), snapshot = m_session.snapshot(), worn = m_session.target(), target = m_target](const Work&) {
            auto out = std::make_shared<BudgetFacts>();
            out->snapshot = snapshot;
            out->worn = worn;
            Verdicts verdicts(*snapshot, mapBytesFor(*snapshot, files->assets));
            out->verdict = verdicts.of(worn, target);
            out->ledger = ledgerOf(*snapshot, worn);
            out->project = verdictOf(verdicts, target);
            out->maps = mapRows(verdicts);
            out->matrix = matrixOf(verdicts, shippedTargets());
            return BudgetFactsPtr(out);
        },
        [this](const BudgetFactsPtr& facts) {
            const bool other = facts->worn != m_facts->worn || facts->snapshot != m_facts->snapshot;
            m_facts = facts;
            if (other) {
                m_measured.clear();
                m_steps.clear();
                m_rests.clear();
                m_suggestions.clear();
                m_fit.reset();
                Q_EMIT suggestionsChanged();
                Q_EMIT fitChanged();
            }
            Q_EMIT factsChanged();
            if (other) measure();
        });
}

void BudgetService::begin(const QString& what) {
    m_busy = what;
    Q_EMIT busyChanged(0);
}
void BudgetService::end() {
    m_busy.clear();
    Q_EMIT busyChanged(1);
}
void BudgetService::stop() {
    if (m_busy.isEmpty()) return;
    if (m_stopFit) *m_stopFit = true;
    for (const char* kind : {"rests", "suggest"})
        if (m_session.runner().running(this, kind)) {
            m_session.runner().cancel(this, kind);
            end();
        }
}

void BudgetService::measure() {
    if (!whyNotMeasured().empty()) {
        Q_EMIT measuredChanged();
        return;
    }
    struct Out {
        BudgetFactsPtr of;
        std::vector<Result<Measured>> measured;
        std::vector<std::string> steps;
    };
    m_session.runner().run(
        {.owner = this, .kind = "measure", .newer = Newer::Waits, .pace = Pace::Long},
        [facts = m_facts, measurements = m_measurements](const Work& work) {
            Out out{facts, {}, {}};
            const Resolved resolved = resolve(*facts->snapshot, facts->worn);
            if (!resolved.master) return out;
            out.measured = hue::measured(*measurements, compileSurface(*facts->snapshot, *resolved.master), resolved.surface.alphaMode,
                                         families(), work);
            for (size_t k = 0; k < out.measured.size(); ++k)
                out.steps.push_back(out.measured[k] && !work.stopped()
                                        ? nextStepWords(occupancySteps(*measurements, families()[k]), out.measured[k]->whole)
                                        : std::string());
            return out;
        },
        [this](Out out) {
            if (out.of != m_facts) return;
            m_measured = std::move(out.measured);
            m_steps = std::move(out.steps);
            Q_EMIT measuredChanged();
        });
}

void BudgetService::findRests(const Family& family) {
    if (const std::string why = whyNotMeasured(); !why.empty()) return m_session.say(text(why));
    struct Out {
        BudgetFactsPtr of;
        std::map<Id, Rest> rests;
        std::string problem;
    };
    begin(tr("Taking each card out, on %1").arg(QString::fromUtf8(family.key.data())));
    m_session.runner().run(
        {.owner = this, .kind = "rests", .pace = Pace::Long, .progress = [this](float share) { Q_EMIT busyChanged(share); }},
        [facts = m_facts, files = m_session.files(), measurements = m_measurements, family](const Work& work) {
            Out out{facts, {}, {}};
            const Project& p = *facts->snapshot;
            const Resolved resolved = resolve(p, facts->worn);
            if (!resolved.master) return out;
            const Compilation compiled = compileSurface(p, *resolved.master);
            const auto whole = hue::measured(*measurements, compiled, resolved.surface.alphaMode, {&family, 1}, work);
            if (!whole[0]) return Out{facts, {}, whole[0].error().sentence};
            for (const Marginal& m : marginalsOf(*measurements, compiled, resolved.surface.alphaMode,
                                                 frameInputs(p, files->assets, resolved, 0), family, work)) {
                if (!m.without) out.problem = m.without.error().sentence;
                else
                    out.rests[m.card] = Rest{whole[0]->whole.pixel(kInstructions) - m.without->pixel(kInstructions),
                                             whole[0]->whole.pixel(kThroughput) - m.without->pixel(kThroughput)};
            }
            return out;
        },
        [this](Out out) {
            end();
            if (out.of != m_facts) return;
            m_rests = std::move(out.rests);
            m_restsProblem = text(out.problem);
            if (!out.problem.empty()) m_session.say(m_restsProblem);
            Q_EMIT factsChanged();
        });
}

std::shared_ptr<BudgetService::Tried> BudgetService::tried() {
    if (!m_tried || m_tried->files != m_session.files()) m_tried = std::make_shared<Tried>(m_session.files());
    return m_tried;
}

namespace {

/// Adds how much is seen of each, and on whom.
void look(std::vector<SeenSuggestion>& all, const Project& p, Assets& assets, const Id& worn, const Work& work) {
    auto looks = LooksApart::start(p, assets, lookedAt(p, worn), 128);
    for (size_t k = 0; k < all.size() && !work.stopped(); ++k) {
        SeenSuggestion& s = all[k];
        const auto apart = looks ? looks->of(*s.what.after) : Result<LooksApart::Apart>(looks.error());
        if (apart) {
            const LooksApart::Look& first = looks->first()[apart->which];
            s.before = imageOf(first.picture);
            s.after = imageOf(apart->picture);
            s.seen = double(apart->by.mean);
            s.flip = double(apart->by.flip);
            s.on = first.worn;
        } else {
            s.problem = apart.error().sentence;
        }
        work.progress(0.5f + 0.4f * float(k + 1) / float(all.size()));
    }
}

/// Adds the instructions that each saves, by family; one process for each.
void measureSavings(std::vector<SeenSuggestion>& all, const Project& p, const Id& worn, Measurements& measurements, const Work& work) {
    if (!whyNotMeasured().empty() || work.stopped()) return;
    const auto material = [&](const Project& state) {
        const Resolved r = resolve(state, worn);
        return Material{compileSurface(state, *r.master), r.surface.alphaMode};
    };
    std::vector<Material> materials{material(p)};
    for (const SeenSuggestion& s : all) materials.push_back(material(*s.what.after));
    for (const Family& family : families()) {
        const std::vector<Result<Reading>> readings = readingsOf(measurements, materials, family, work);
        for (size_t k = 0; k < all.size(); ++k)
            all[k].saved.push_back(
                readings[0] && readings[k + 1] ? readings[0]->pixel(kInstructions) - readings[k + 1]->pixel(kInstructions) : std::nan(""));
    }
}

} // namespace

void BudgetService::suggest() {
    struct Out {
        BudgetFactsPtr of;
        std::vector<SeenSuggestion> list;
    };
    begin(tr("Trying what makes it cheaper"));
    m_session.runner().run(
        {.owner = this, .kind = "suggest", .pace = Pace::Long, .progress = [this](float share) { Q_EMIT busyChanged(share); }},
        [facts = m_facts, tried = tried(), measurements = m_measurements, target = m_target](const Work& work) {
            constexpr size_t kMost = 24;
            Out out{facts, {}};
            const Project& p = *facts->snapshot;
            Assets& assets = tried->files->assets;
            const Resolved resolved = resolve(p, facts->worn);
            std::vector<Suggestion> all = suggestionsFor(
                p, facts->worn, target, [&](const Project& state) { return mapBytesFor(state, assets); },
                frameInputs(p, assets, resolved, 0), {work.threads, work.cancelled, [&](float share) { work.progress(share / 2); }},
                &tried->maps);
            if (all.size() > kMost) all.resize(kMost);
            for (Suggestion& s : all) out.list.push_back({std::move(s), {}, {}, 0, 0, {}, {}});
            look(out.list, p, *cardAssets(tried->files), facts->worn, work);
            measureSavings(out.list, p, facts->worn, *measurements, work);
            std::stable_sort(out.list.begin(), out.list.end(), [](const SeenSuggestion& a, const SeenSuggestion& b) {
                return rankOf(a.what, a.seen) > rankOf(b.what, b.seen);
            });
            return out;
        },
        [this](Out out) {
            end();
            if (out.of != m_facts) return;
            m_suggestions = std::move(out.list);
            if (m_suggestions.empty()) m_session.say(tr("Nothing was found that saves something."));
            Q_EMIT suggestionsChanged();
        });
}

void BudgetService::take(const Proposed& what) {
    m_session.apply(text(what.title), [&](const Project& p) -> Result<Project> {
        const Result<Project> next = what.change(p);
        return next ? tried()->maps.kept(*next) : next;
    });
}

void BudgetService::findFit() {
    struct Out {
        BudgetFactsPtr of;
        Fit fit;
    };
    begin(tr("Looking for a way to %1").arg(text(m_target.name)));
    m_stopFit = std::make_shared<std::atomic<bool>>(false);
    m_session.runner().run(
        {.owner = this, .kind = "fit", .pace = Pace::Long, .progress = [this](float share) { Q_EMIT busyChanged(share); }},
        [facts = m_facts, tried = tried(), target = m_target, stop = m_stopFit](const Work& given) {
            Work work = given;
            work.cancelled = stop.get();
            const auto shown = cardAssets(tried->files);
            Assets& assets = tried->files->assets;
            auto looks = LooksApart::start(*facts->snapshot, *shown, lookedAt(*facts->snapshot, facts->worn), 128);
            return Out{facts, fitToTarget(
                                  *facts->snapshot, facts->worn, target, [&](const Project& state) { return mapBytesFor(state, assets); },
                                  [&](const Project& state, const Resolved& resolved) { return frameInputs(state, assets, resolved, 0); },
                                  [&](const Project& state) -> Result<double> {
                                      if (!looks) return looks.error();
                                      const auto apart = looks->of(state);
                                      return apart ? Result<double>(double(apart->by.mean)) : Result<double>(apart.error());
                                  },
                                  {}, work, &tried->maps)};
        },
        [this](Out out) {
            end();
            m_stopFit.reset();
            if (out.of != m_facts) return;
            m_fit = std::move(out.fit);
            if (!m_fit->problem.empty()) m_session.say(tr("Some ways could not be drawn and were left out: %1").arg(text(m_fit->problem)));
            Q_EMIT fitChanged();
        });
}

void BudgetService::takeFit(size_t step) {
    if (!m_fit || step >= m_fit->steps.size()) return;
    m_session.apply(tr("fit to %1").arg(text(m_target.name)),
                    [&, state = m_fit->steps[step].state](const Project&) { return tried()->maps.kept(*state); });
}

void BudgetService::countPicture(int width, int height) {
    m_session.runner().run(
        {.owner = this, .kind = "picture", .newer = Newer::Waits, .pace = Pace::Long},
        [snapshot = m_session.snapshot(), files = m_session.files(), width, height](const Work& work) {
            auto out = std::make_shared<PictureFacts>();
            out->of = snapshot;
            out->width = width, out->height = height;
            LookCache looks;
            auto slots = pictureCost(*snapshot, files->assets, looks, width, height, 0, {}, work);
            if (slots) out->slots = std::move(*slots);
            else out->problem = slots.error().sentence;
            return PictureFactsPtr(out);
        },
        [this](const PictureFactsPtr& facts) {
            m_picture = facts;
            Q_EMIT pictureChanged();
        });
}

Result<Snapshot> KeptVersion::read() const {
    if (state) return state;
    Result<Project> read = keptVersion(project, name.toStdString());
    return read ? Result<Snapshot>(std::make_shared<const Project>(std::move(*read))) : Result<Snapshot>(read.error());
}

void BudgetService::findVersions() {
    const std::string file = m_session.file().toStdString();
    // What was kept before the project had a file lies beside it from now on.
    for (const KeptVersion& v : m_versions)
        if (v.state && !file.empty())
            if (const Outcome written = hue::keepVersion(*v.state, file, v.name.toStdString()); !written)
                return m_session.say(text(written.error().sentence));
    if (!file.empty()) {
        m_versions.clear();
        for (const std::string& name : keptVersions(file)) m_versions.push_back({text(name), nullptr, file});
    }
    Q_EMIT versionsChanged();
}

void BudgetService::keepVersion(const QString& name) {
    if (const std::string file = m_session.file().toStdString(); !file.empty()) {
        if (const Outcome written = hue::keepVersion(m_session.project(), file, name.toStdString()); !written)
            return m_session.say(text(written.error().sentence));
        return findVersions();
    }
    std::erase_if(m_versions, [&](const KeptVersion& v) { return v.name == name; });
    m_versions.push_back({name, m_session.snapshot()});
    Q_EMIT versionsChanged();
}

void BudgetService::dropVersion(size_t k) {
    if (k >= m_versions.size()) return;
    if (!m_versions[k].state)
        if (const Outcome gone = forgetVersion(m_versions[k].project, m_versions[k].name.toStdString()); !gone)
            return m_session.say(text(gone.error().sentence));
    m_versions.erase(m_versions.begin() + long(k));
    Q_EMIT versionsChanged();
}

} // namespace hue
