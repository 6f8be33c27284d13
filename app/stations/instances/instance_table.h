#pragma once
// The table of instances: several cells at once, the clipboard, and rows that are filtered.
#include "app/stations/instances/instance_model.h"

#include <QTreeView>

namespace hue {

class FrozenNames;

class InstanceTable : public QTreeView {
    Q_OBJECT

  public:
    InstanceTable(Session& session, InstanceModel* model, QWidget* parent = nullptr);

    using QTreeView::edit;
    void scrollTo(const QModelIndex& index, ScrollHint hint = EnsureVisible) override;
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
    /// Takes a lock off what is chosen where all of it is locked, else puts one on.
    void lockOrUnlock();
    /// By the column of the cursor: upwards, then downwards, then as the rows were made.
    void sortByCursor();
    /// Masters and instances with chosen cells, from the top.
    std::vector<Id> chosenRows() const;
    /// The instances among them.
    std::vector<Id> chosenInstances() const;
    /// Where a value is taken hold of to drag it through rows; null where the cursor stands on none.
    QRect handle() const;
    /// Shows rows whose name, tags, a value or a map holds the words, with those above them; all for no words. "own", "unworn", "locked"
    /// and "out of range" stand for rows of that kind.
    void setFilter(const QString& words);
    const QString& filter() const { return m_filter; }

  protected:
    bool edit(const QModelIndex& index, EditTrigger trigger, QEvent* event) override;
    /// Left and right go along the columns, and only from the names along the tree.
    QModelIndex moveCursor(CursorAction action, Qt::KeyboardModifiers keys) override;
    void resizeEvent(QResizeEvent*) override;
    void currentChanged(const QModelIndex& now, const QModelIndex& before) override;
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;

  private:
    /// The value of one row goes to others, as one step.
    void fill(const Id& from, std::vector<Id> rows, const std::vector<Id>& columns);
    void sort(int column);
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
    FrozenNames* m_names;
    QString m_filter;
    QPersistentModelIndex m_dragged; ///< the value that is dragged through rows
    Id m_at;                         ///< where the cursor stands, so that it stays there when rows are ordered anew
    int m_atColumn = 0;
};

} // namespace hue
