#pragma once
// The table of instances: several cells at once, the clipboard, and rows that are filtered.
#include "app/stations/instances/instance_model.h"

#include <QTreeView>

namespace hue {

class InstanceTable : public QTreeView {
    Q_OBJECT

  public:
    InstanceTable(Session& session, InstanceModel* model, QWidget* parent = nullptr);

    /// Values among the chosen cells, from the top.
    std::vector<Cell> chosenCells() const;
    /// Each is one step of undo, and says why nothing changes.
    void copy() const;
    void paste();
    void giveBack();
    /// A value, or arithmetic, for all that are chosen.
    bool write(const QString& words);
    /// The value of the highest chosen cell of each column goes to those below it.
    void fillDown();
    void pushUp();
    void pullDown();
    /// Shows rows whose name, a value or a map holds the words, or "own", or "unworn", with those above them; all for no words.
    void setFilter(const QString& words);
    const QString& filter() const { return m_filter; }

  private:
    struct Block {
        std::vector<Id> rows, columns;
    };
    /// Rows and columns that hold chosen values, of one master; says so where there is none.
    std::optional<Block> chosenBlock() const;
    QModelIndexList chosenFromTop() const;
    /// Whether it or one below it is shown.
    bool filterBelow(const QModelIndex& row, bool shownAbove);
    bool matches(const QModelIndex& row) const;

    Session& m_session;
    InstanceModel* m_model;
    QString m_filter;
};

} // namespace hue
