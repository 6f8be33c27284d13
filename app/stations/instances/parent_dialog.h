#pragma once
// Another parent for an instance: what becomes of its values stands there before anything changes.
#include "app/session/session.h"

#include <QDialog>

class QComboBox;
class QLabel;
class QPushButton;

namespace hue {

class ParentDialog : public QDialog {
    Q_OBJECT

  public:
    ParentDialog(Session& session, const Id& instance, QWidget* parent);
    Id parentId() const;

  private:
    void tell();

    Session& m_session;
    const Id m_instance;
    QComboBox* m_parents;
    QLabel* m_said;
    QPushButton* m_take;
};

} // namespace hue
