#pragma once
// The builds of a master: which combinations of its build choices are in use, by whom, and what each costs.
#include "app/session/session.h"
#include "core/builds/builds.h"

#include <QDialog>

class QLabel;
class QTreeWidget;

namespace hue {

class BuildsDialog : public QDialog {
    Q_OBJECT

  public:
    BuildsDialog(Session& session, const Id& master, QWidget* parent);

  private:
    void refresh();
    void take(const std::vector<Build>& builds, const std::vector<Cost>& costs);

    Session& m_session;
    const Id m_master;
    QLabel* m_head;
    QTreeWidget* m_list;
};

} // namespace hue
