#pragma once
// A state that was kept, beside the present one: costs, pictures, and how far these lie apart.
#include "app/session/budget_service.h"

#include <QDialog>

class QLabel;
class QTreeWidget;

namespace hue {

class VersionDialog : public QDialog {
    Q_OBJECT

  public:
    VersionDialog(Session& session, BudgetService& budget, size_t version, QWidget* parent = nullptr);

  private:
    void compareNow();
    Session& m_session;
    BudgetService& m_budget;
    KeptVersion m_version;
    QLabel *m_before, *m_now, *m_words;
    QTreeWidget* m_figures;
};

} // namespace hue
