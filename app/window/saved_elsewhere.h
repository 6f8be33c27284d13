#pragma once
// What is asked when somebody else has saved the open project.
#include "app/session/session.h"

#include <QDialog>

class QLabel;
class QPlainTextEdit;
class QPushButton;

namespace hue {

class SavedElsewhere : public QDialog {
    Q_OBJECT

  public:
    explicit SavedElsewhere(Session& session, QWidget* parent = nullptr);

  private:
    void refresh();
    void answer(bool (Session::*how)());

    Session& m_session;
    QLabel* m_question;
    QPlainTextEdit* m_what;
};

} // namespace hue
