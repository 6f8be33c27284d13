#pragma once
// All commands with their keys, which can be changed here.
#include "app/parts/commands.h"

#include <QDialog>

class QLabel;
class QLineEdit;
class QTableWidget;

namespace hue {

class KeysDialog : public QDialog {
    Q_OBJECT

  public:
    /// `stationNames`: names for people by the keys that commands use.
    KeysDialog(Commands& commands, const std::map<QString, QString>& stationNames, QWidget* parent);
    QTableWidget* table() const { return m_table; }
    /// Gives the command of a row these keys; says why not where it cannot.
    bool change(int row, const QList<QKeySequence>& keys);
    QString said() const;

  private:
    void fill();
    QString idAt(int row) const;

    Commands& m_commands;
    std::map<QString, QString> m_stationNames;
    QLineEdit* m_find;
    QTableWidget* m_table;
    QLabel* m_said;
};

} // namespace hue
