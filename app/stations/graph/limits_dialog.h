#pragma once
// Ranges of many parameters at once.
#include "app/session/session.h"

#include <QDialog>

class QLineEdit;
class QListWidget;

namespace hue {

class LimitsDialog : public QDialog {
    Q_OBJECT

  public:
    /// `first`: the parameter that is chosen already, with those of its kind.
    LimitsDialog(Session& session, const Id& first, QWidget* parent = nullptr);

  private:
    void change();
    Session& m_session;
    QListWidget* m_list;
    QLineEdit *m_slider, *m_hard;
};

void setLimitsOfSeveral(Session& session, const Id& first, QWidget* parent);

} // namespace hue
