#pragma once
// What the budget knows: the target that all is held against, and, while somebody looks, where costs go, what a graphics card's compiler
// measures, and ways to make it cheaper. Computed in the background.
#include "app/session/session.h"
#include "core/budget/ledger.h"
#include "core/measure/measurements.h"
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
    QImage before, after;      ///< null where they could not be drawn
    double seen = 0, flip = 0; ///< CIEDE2000 and FLIP, means
};

/// A state of the project that was kept to be compared with.
struct KeptVersion {
    QString name;
    Snapshot state;
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
    /// The path to the target, as it was found last.
    const std::optional<Fit>& fit() const { return m_fit; }
    void findFit();
    /// What is under way, for people; empty: nothing.
    QString busy() const { return m_busy; }
    void stop();

    const std::vector<KeptVersion>& versions() const { return m_versions; }
    void keepVersion(const QString& name);
    void dropVersion(size_t k);

  Q_SIGNALS:
    void targetChosen();
    void projectCounted();
    void factsChanged();
    void measuredChanged();
    void suggestionsChanged();
    void fitChanged();
    void versionsChanged();
    void busyChanged(float share);

  private:
    void refresh();
    void countProject();
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
    std::vector<SeenSuggestion> m_suggestions;
    std::optional<Fit> m_fit;
    std::shared_ptr<std::atomic<bool>> m_stopFit; ///< what was found until then is shown
    std::vector<KeptVersion> m_versions;
};

} // namespace hue
