#pragma once
// Everything that can be commanded, in one table: words, keys, where it is valid, what it does. Menus, shortcuts, the list of keys and
// tooltips read it; keys can be changed and are kept.
#include <QAction>
#include <QKeySequence>
#include <QPointer>
#include <QString>
#include <QStringList>
#include <functional>
#include <vector>

class QMenu;

namespace hue {

struct Command {
    QString id;   ///< stable, kept with changed keys: "board.tidy"
    QString text; ///< a verb first
    QString menu; ///< path of the menu that holds it, "Edit", "View/Theme"; empty: none
    QList<QKeySequence> keys = {};
    QStringList where = {}; ///< keys of the stations where it is valid; empty: everywhere
    QString help = {};
    std::function<void()> act;
    /// Whether it would do something now; asked before it is shown in a menu and before it is carried out. Without it always.
    std::function<bool()> valid = {};
    QString whyNot = {};    ///< said when it is not valid
    bool separated = false; ///< a line stands before it in the menu
};

class Commands : public QObject {
    Q_OBJECT

  public:
    /// Shortcuts work in the window.
    explicit Commands(QWidget* window);
    /// Kept keys take the place of the standard ones. The action belongs to the table.
    QAction* add(Command command);
    const std::vector<Command>& all() const { return m_commands; }
    QAction* action(const QString& id) const;

    /// Only commands that are valid at this station can be carried out.
    void setStation(const QString& key);
    /// Fills a menu, and those within it, in the order in which commands were added.
    void fill(QMenu* menu) const;

    QList<QKeySequence> keysOf(const QString& id) const;
    /// Changes and keeps them; false with the reason when another command that is valid at the same place has one of them.
    bool setKeys(const QString& id, const QList<QKeySequence>& keys, QString* why);
    void resetKeys(const QString& id);
    bool hasOwnKeys(const QString& id) const;
    /// "F7", or nothing.
    QString keyText(const QString& id) const;

    /// A tooltip with the command's keys behind it; follows when they change. The command may be added later.
    void explain(QWidget* widget, const QString& id, const QString& tip);

  Q_SIGNALS:
    void keysChanged();
    /// A command was given where it is not valid.
    void refused(const QString& why);

  private:
    int indexOf(const QString& id) const;
    void applyTips();

    QWidget* m_window;
    std::vector<Command> m_commands;
    std::vector<QAction*> m_actions;
    QString m_station;
    struct Tip {
        QPointer<QWidget> widget;
        QString id, tip;
    };
    std::vector<Tip> m_tips;
};

} // namespace hue
