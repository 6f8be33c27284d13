#pragma once
// Limits of an own target.
#include "app/session/budget_service.h"

#include <QDialog>

class QComboBox;
class QLineEdit;

namespace hue {

class TargetDialog : public QDialog {
    Q_OBJECT

  public:
    TargetDialog(Session& session, BudgetService& budget, QWidget* parent = nullptr);

  private:
    void save();
    Session& m_session;
    BudgetService& m_budget;
    Target m_before;
    QLineEdit *m_name, *m_about, *m_formats;
    std::vector<std::pair<const LimitDef*, QLineEdit*>> m_limits;
    QComboBox* m_where;
};

} // namespace hue
