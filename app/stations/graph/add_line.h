#pragma once
// The line that opens where one types on the board.
#include "app/session/session.h"
#include "core/nodes/add_line.h"

#include <QAbstractListModel>
#include <QFrame>
#include <QImage>

#include <map>
#include <set>

class QLineEdit;
class QListView;

namespace hue {

/// A picture of what a node makes of its defaults, and its cost.
struct Sample {
    QImage picture;
    int operations = 0, fetches = 0;
};

class ProposalModel : public QAbstractListModel {
    Q_OBJECT

  public:
    ProposalModel(Session& session, QObject* parent) : QAbstractListModel(parent), m_session(session) {}
    void set(std::vector<Proposal> proposals);
    const Proposal& at(int row) const { return m_proposals[size_t(row)]; }
    int rowCount(const QModelIndex& = {}) const override { return int(m_proposals.size()); }
    QVariant data(const QModelIndex& index, int role) const override;

  private:
    /// Made in the background; null until it is there.
    const Sample* sample(const Proposal& proposal) const;

    Session& m_session;
    mutable std::map<std::string, Sample> m_samples;
    mutable std::set<std::string> m_asked;
    std::vector<Proposal> m_proposals;
};

class AddLine : public QFrame {
    Q_OBJECT

  public:
    AddLine(Session& session, QWidget* parent);
    /// `fits` keeps only nodes that it accepts.
    void open(QPoint at, const QString& typed, std::function<bool(const NodeDef&)> fits);
    QPoint anchor() const { return m_anchor; }
    QLineEdit* line() const { return m_line; }
    const ProposalModel* model() const { return m_model; }

  Q_SIGNALS:
    void chosen(const hue::Proposal& proposal);

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void refresh();
    void choose();

    Session& m_session;
    QLineEdit* m_line;
    QListView* m_list;
    ProposalModel* m_model;
    QPoint m_anchor;
    std::function<bool(const NodeDef&)> m_fits;
    std::map<std::string, int> m_uses; ///< how often each kind of node was taken here, on this machine
};

} // namespace hue
