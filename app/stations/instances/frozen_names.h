#pragma once
// The first column of the instance table, which stays where it is while the others are scrolled: a second view of the same model, laid over
// the left of the table.
#include <QTreeView>

namespace hue {

class FrozenNames : public QTreeView {
    Q_OBJECT

  public:
    /// Lies over `table`, shares its model and selection, and follows it. `table` must have these already. A delegate knows the editors of
    /// one view alone, so this has one of its own, which it takes.
    FrozenNames(QTreeView& table, QAbstractItemDelegate* delegate);
    /// After the model was reset, or the table's size changed.
    void follow();
    bool editName(const QModelIndex& index, EditTrigger trigger, QEvent* event) { return QTreeView::edit(index, trigger, event); }

  private:
    QTreeView& m_table;
};

} // namespace hue
