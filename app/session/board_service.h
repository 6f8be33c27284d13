#pragma once
// What the board shows of a graph beyond its structure, computed in the background: swatches, widths, rates, costs.
#include "app/session/session.h"
#include "core/compile/compile.h"
#include "core/cost/cost.h"
#include "core/tap/tap.h"

#include <QImage>

namespace hue {

/// Which board, and through which cards it was entered; see Session::path().
struct BoardPlace {
    Id board;      ///< a master or an assembly
    Id root, path; ///< the master from which an assembly was entered, and the way there; without a path it is seen by itself
};

struct BoardFacts {
    Snapshot snapshot;
    Id master; ///< or assembly
    std::map<std::pair<Id, std::string>, PortInfo> ports;
    std::map<Id, CardCost> cards;           ///< of cards that reach the surface
    std::map<std::string, QImage> swatches; ///< "node.port" and "channel.key"
    std::map<Id, CardCurve> curves;         ///< of cards that depend on time or on one input alone
    std::map<Id, std::string> broken;       ///< cards at fault, with the sentence
    Cost cost;                              ///< of the whole surface, in the build that is tuned
    size_t masterBuilds = 0;                ///< in use, of the master that is tuned
    size_t builds = 0;                      ///< in use, of the whole project
    std::set<Id> idle;                      ///< parameters that this build does not read, and another would
};
using BoardFactsPtr = std::shared_ptr<const BoardFacts>;

class BoardService : public QObject {
    Q_OBJECT

  public:
    explicit BoardService(Session& session);
    BoardFactsPtr facts() const { return m_facts; }
    /// Asks anew for the session's master, target and time; requests while busy become one.
    void refresh();
    /// The facts are those of the present state; nothing is on its way.
    bool settled() const { return !m_session.runner().running(this, "board"); }
    static constexpr int kSwatch = 40;

  Q_SIGNALS:
    void factsChanged();

  private:
    Session& m_session;
    BoardFactsPtr m_facts;
};

/// Computes the facts; any thread. Swatches show U, V from the top left, on a dome that faces the eye.
/// `worn` gives the values of parameters; an assembly by itself has its own.
BoardFacts boardFacts(const Snapshot& snapshot, const BoardPlace& place, const Id& worn, Assets& assets, double time, int swatchSize);

} // namespace hue
