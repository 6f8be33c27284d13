#include "app/parts/commands.h"

#include <QMenu>
#include <QSettings>
#include <QWidget>
#include <algorithm>
#include <map>

namespace hue {
namespace {

QString settingOf(const QString& id) { return "keys/" + id; }

QList<QKeySequence> keptKeys(const Command& c) {
    const QSettings settings;
    if (!settings.contains(settingOf(c.id))) return c.keys;
    QList<QKeySequence> keys;
    for (const QString& text : settings.value(settingOf(c.id)).toStringList())
        if (const QKeySequence k(text, QKeySequence::PortableText); !k.isEmpty()) keys << k;
    return keys;
}

bool meet(const Command& a, const Command& b) {
    return a.where.isEmpty() || b.where.isEmpty() ||
           std::any_of(a.where.begin(), a.where.end(), [&](const QString& w) { return b.where.contains(w); });
}

} // namespace

Commands::Commands(QWidget* window) : QObject(window), m_window(window) {}

QAction* Commands::add(Command command) {
    auto* a = new QAction(command.text, this);
    a->setShortcuts(keptKeys(command));
    a->setShortcutContext(Qt::WindowShortcut);
    a->setObjectName(command.id);
    if (!command.help.isEmpty()) a->setToolTip(command.help);
    connect(a, &QAction::triggered, this, [this, act = command.act, valid = command.valid, why = command.whyNot] {
        if (valid && !valid()) Q_EMIT refused(why);
        else act();
    });
    m_window->addAction(a);
    m_commands.push_back(std::move(command));
    m_actions.push_back(a);
    applyTips();
    return a;
}

int Commands::indexOf(const QString& id) const {
    for (size_t i = 0; i < m_commands.size(); ++i)
        if (m_commands[i].id == id) return int(i);
    return -1;
}

QAction* Commands::action(const QString& id) const {
    const int at = indexOf(id);
    return at < 0 ? nullptr : m_actions[size_t(at)];
}

void Commands::setStation(const QString& key) {
    m_station = key;
    for (size_t i = 0; i < m_commands.size(); ++i)
        m_actions[i]->setEnabled(m_commands[i].where.isEmpty() || m_commands[i].where.contains(key));
}

void Commands::fill(QMenu* menu) const {
    std::map<QString, QMenu*> menus{{QString(), menu}};
    std::function<QMenu*(const QString&)> at = [&](const QString& path) -> QMenu* {
        if (const auto it = menus.find(path); it != menus.end()) return it->second;
        const qsizetype slash = path.lastIndexOf('/');
        QMenu* made = at(slash < 0 ? QString() : path.left(slash))->addMenu(path.mid(slash + 1));
        made->setToolTipsVisible(true);
        return menus[path] = made;
    };
    for (size_t i = 0; i < m_commands.size(); ++i) {
        if (m_commands[i].menu.isNull()) continue;
        QMenu* to = at(m_commands[i].menu);
        if (m_commands[i].separated) to->addSeparator();
        to->addAction(m_actions[i]);
    }
}

QList<QKeySequence> Commands::keysOf(const QString& id) const {
    const QAction* a = action(id);
    return a ? a->shortcuts() : QList<QKeySequence>{};
}

bool Commands::setKeys(const QString& id, const QList<QKeySequence>& keys, QString* why) {
    const int at = indexOf(id);
    if (at < 0) return false;
    for (size_t i = 0; i < m_commands.size(); ++i) {
        if (int(i) == at || !meet(m_commands[i], m_commands[size_t(at)])) continue;
        for (const QKeySequence& k : keys)
            if (m_actions[i]->shortcuts().contains(k)) {
                *why =
                    tr("%1 is the key of %2. Give that another one first.").arg(k.toString(QKeySequence::NativeText), m_commands[i].text);
                return false;
            }
    }
    QStringList texts;
    for (const QKeySequence& k : keys) texts << k.toString(QKeySequence::PortableText);
    QSettings settings;
    if (keys == m_commands[size_t(at)].keys) settings.remove(settingOf(id));
    else settings.setValue(settingOf(id), texts);
    m_actions[size_t(at)]->setShortcuts(keys);
    applyTips();
    Q_EMIT keysChanged();
    return true;
}

void Commands::resetKeys(const QString& id) {
    const int at = indexOf(id);
    if (at < 0) return;
    QSettings().remove(settingOf(id));
    m_actions[size_t(at)]->setShortcuts(m_commands[size_t(at)].keys);
    applyTips();
    Q_EMIT keysChanged();
}

bool Commands::hasOwnKeys(const QString& id) const { return QSettings().contains(settingOf(id)); }

QString Commands::keyText(const QString& id) const {
    const QList<QKeySequence> keys = keysOf(id);
    return keys.isEmpty() ? QString() : keys[0].toString(QKeySequence::NativeText);
}

void Commands::explain(QWidget* widget, const QString& id, const QString& tip) {
    std::erase_if(m_tips, [widget](const Tip& t) { return !t.widget || t.widget == widget; });
    m_tips.push_back({widget, id, tip});
    applyTips();
}

void Commands::applyTips() {
    for (const Tip& t : m_tips) {
        if (!t.widget) continue;
        const QString key = keyText(t.id);
        t.widget->setToolTip(key.isEmpty() ? t.tip : QString("%1 (%2)").arg(t.tip, key));
    }
}

} // namespace hue
