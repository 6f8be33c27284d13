#pragma once
// What the budget knows: the target that all is held against, and, while somebody looks, where costs go, what a graphics card's compiler
// measures, and ways to make it cheaper. Computed in the background.
#include "app/session/session.h"
#include "core/budget/ledger.h"
#include "core/measure/measurements.h"
#include "core/picture/picture_cost.h"
#include "core/suggest/suggest.h"

#include <QImage>
#include <QTimer>

namespace hue {

struct BudgetFacts {
    Snapshot snapshot;
    Id worn;
    Verdict verdict;
    Ledger ledger;
    ProjectVerdict project;
    std::vector<MapRow> maps; ///< of the project
    Matrix matrix;
};
using BudgetFactsPtr = std::shared_ptr<const BudgetFacts>;

/// A suggestion with its pictures, before and after.
struct SeenSuggestion {
    Suggestion what;
    QImage before, after;        ///< of the one on whom most is seen of it; null where they could not be drawn
    double seen = 0, flip = 0;   ///< CIEDE2000 and FLIP, means
    Id on;                       ///< who that is
    std::string problem;         ///< why there is no picture
    std::vector<double> saved{}; ///< instructions by family, as compilers say; empty where nothing is measured
};

/// A state of the project that was kept to be compared with.
struct KeptVersion {
    QString name;
    Snapshot state;        ///< null: it lies beside the project
    std::string project{}; ///< the project's file then
    /// Reads it where it has to. Errors: those of keptVersion(). Any thread.
    Result<Snapshot> read() const;
};

class BudgetService : public QObject {
    Q_OBJECT

  public:
    explicit BudgetService(Session& session);

    /// Targets to choose from: those that come along, own ones, and those beside the project.
    std::vector<std::pair<QString, Target>> targets() const; ///< with what names them: a key, or a file
    const Target& target() const { return m_target; }
    QString chosenTarget() const { return m_chosen; }
    /// A key or a file; says why where it cannot be read, and leaves the one before.
    bool choose(const QString& keyOrFile);
    static QString ownTargets(); ///< folder of a user's own ones

    /// Of everything that ships, counted whenever there is time; who uses most of a limit.
    struct Most {
        Id worn;
        double figure = 0;
    };
    /// `inLineup`: of what specimens wear alone.
    Most mostOf(std::string_view limit, bool inLineup) const;
    bool projectOver() const { return m_project && !m_project->fits(); }

    /// Facts are computed only while somebody looks.
    void setWatched(bool watched);
    BudgetFactsPtr facts() const { return m_facts; }

    /// Measured on each family for what is tuned; empty until it was asked for. Errors stand in their places.
    const std::vector<Result<Measured>>& measured() const { return m_measured; }
    /// Words for a step of occupancy, by family; empty where there is none.
    const std::vector<std::string>& steps() const { return m_steps; }
    void measure();
    /// What is saved without each card, on a family: instructions and cycles.
    struct Rest {
        double instructions = 0, cycles = 0;
    };
    const std::map<Id, Rest>& rests() const { return m_rests; }
    QString restsProblem() const { return m_restsProblem; }
    void findRests(const Family& family);

    const std::vector<SeenSuggestion>& suggestions() const { return m_suggestions; }
    void suggest();
    /// Takes one of them: the maps that were made for it come into the project's folder.
    void take(const Proposed& what);
    /// The path to the target, as it was found last.
    const std::optional<Fit>& fit() const { return m_fit; }
    void findFit();
    void takeFit(size_t step);
    /// What the lineup's picture costs at a size; counted when it is asked for.
    struct PictureFacts {
        Snapshot of;
        int width = 0, height = 0;
        std::vector<ShadedSlot> slots;
        std::string problem;
    };
    using PictureFactsPtr = std::shared_ptr<const PictureFacts>;
    PictureFactsPtr picture() const { return m_picture; }
    void countPicture(int width, int height);

    /// What is under way, for people; empty: nothing.
    QString busy() const { return m_busy; }
    void stop();

    const std::vector<KeptVersion>& versions() const { return m_versions; }
    /// In a file beside the project, from when it is saved on; one of the same name is replaced.
    void keepVersion(const QString& name);
    void dropVersion(size_t k);

  Q_SIGNALS:
    void targetChosen();
    void projectCounted();
    void factsChanged();
    void measuredChanged();
    void suggestionsChanged();
    void fitChanged();
    void pictureChanged();
    void versionsChanged();
    void busyChanged(float share);

  private:
    void refresh();
    void countProject();
    void findVersions();
    void begin(const QString& what);
    void end();
    Session& m_session;
    Target m_target;
    QString m_chosen, m_busy, m_restsProblem;
    bool m_watched = false, m_stale = true;
    QTimer m_soon; ///< what ships is counted when nothing has changed for a while
    std::shared_ptr<const ProjectVerdict> m_project;
    std::set<Id> m_inLineup;
    BudgetFactsPtr m_facts;
    std::shared_ptr<Measurements> m_measurements;
    std::vector<Result<Measured>> m_measured;
    std::vector<std::string> m_steps;
    std::map<Id, Rest> m_rests;
    /// The maps that savings were tried with, and the files that they are made of.
    struct Tried {
        ProjectFilesPtr files;
        TriedMaps maps;
        explicit Tried(ProjectFilesPtr of) : files(std::move(of)), maps(files->assets) {}
    };
    std::shared_ptr<Tried> tried();
    std::shared_ptr<Tried> m_tried;
    PictureFactsPtr m_picture;
    std::vector<SeenSuggestion> m_suggestions;
    std::optional<Fit> m_fit;
    std::shared_ptr<std::atomic<bool>> m_stopFit; ///< what was found until then is shown
    std::vector<KeptVersion> m_versions;
    QString m_versionsOf; ///< the file beside which they were looked for
};

} // namespace hue
