#pragma once
// What stands beside the board: a head with a mark that closes it, and a column below.
#include "app/parts/commands.h"

#include <QWidget>

class QHBoxLayout;
class QVBoxLayout;

namespace hue {

class SidePanel : public QWidget {
    Q_OBJECT

  public:
    /// `command`: that shows and hides it; its key is told at the mark.
    SidePanel(Commands& commands, const char* command, const QString& name, QWidget* parent);

  Q_SIGNALS:
    void closed();

  protected:
    /// Left of the mark that closes.
    QHBoxLayout* head() const { return m_head; }
    QVBoxLayout* column() const { return m_column; }

  private:
    QVBoxLayout* m_column;
    QHBoxLayout* m_head;
};

} // namespace hue
