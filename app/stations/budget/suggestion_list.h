#pragma once
// Savings that were found, each with its pictures.
#include "app/session/budget_service.h"

#include <QWidget>

class QVBoxLayout;

namespace hue {

class SuggestionList : public QWidget {
    Q_OBJECT

  public:
    SuggestionList(Session& session, BudgetService& budget, QWidget* parent = nullptr);

  private:
    void refresh();
    QWidget* cardFor(const SeenSuggestion& s);
    Session& m_session;
    BudgetService& m_budget;
    QVBoxLayout* m_column;
};

} // namespace hue
