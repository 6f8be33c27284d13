#pragma once
// What the tables of the budget have in common: figures over bars, sorted as figures.
#include <QTreeWidget>

namespace hue {

/// Of cells: the share that its bar shows, and whether it is hatched. Of rows: the board and card that they lead to.
enum BudgetRole { Part = Qt::UserRole, Board, Card, Over };

/// Figures sort as figures.
class FigureRow : public QTreeWidgetItem {
  public:
    using QTreeWidgetItem::QTreeWidgetItem;
    bool operator<(const QTreeWidgetItem& o) const override;
};

QTreeWidget* budgetTable(const char* object, const QString& name, const QStringList& headers);

} // namespace hue
