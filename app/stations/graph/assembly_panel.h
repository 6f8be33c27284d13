#pragma once
// Beside the board of an assembly, where a master has its surface: what it is called and for, what it gives, and where it stands.
#include "app/session/session.h"

#include <QWidget>

class QLabel;
class QLineEdit;
class QListWidget;

namespace hue {

class Commands;

class AssemblyPanel : public QWidget {
    Q_OBJECT

  public:
    AssemblyPanel(Session& session, Commands& commands, QWidget* parent = nullptr);

  Q_SIGNALS:
    /// A card of another board should be shown.
    void cardWanted(const hue::Place& place);
    void outputWanted();

  private:
    void refresh();

    Session& m_session;
    QLineEdit *m_name, *m_about;
    QLabel *m_version, *m_useCount;
    QListWidget *m_outputs, *m_uses;
};

} // namespace hue
