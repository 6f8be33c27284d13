#pragma once
// What pictures of the lineup cost: pixels that are computed, and how often.
#include "app/session/budget_service.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QTreeWidget;

namespace hue {

class LineupCostView : public QWidget {
    Q_OBJECT

  public:
    LineupCostView(Session& session, BudgetService& budget, QWidget* parent = nullptr);
    QTreeWidget* table() const { return m_table; }
    /// Counts again where something has changed.
    void refresh();

  private:
    void count();
    void fill();
    Session& m_session;
    BudgetService& m_budget;
    QComboBox* m_size;
    QTreeWidget* m_table;
    QLabel* m_words;
};

} // namespace hue
