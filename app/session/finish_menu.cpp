#include "app/session/finish_menu.h"

#include "app/session/session.h"
#include "core/edits/edits.h"
#include "core/nodes/finish.h"

namespace hue {

void addFinishes(QMenu& menu, const Project& project, const Id& board, const std::function<void(const Id&)>& chosen) {
    const std::vector<Id> all = wearableOn(project, board);
    QMenu* instances = nullptr;
    for (size_t k = 0; k < all.size(); ++k) {
        const Id worn = all[k];
        const bool instance = project.instance(worn);
        const QString name = QString::fromStdString(project.nameOf(worn));
        // A master with instances is a menu of its own, so that the list stays short.
        if (!instance) instances = k + 1 < all.size() && project.instance(all[k + 1]) ? menu.addMenu(name) : nullptr;
        QMenu& in = instances ? *instances : menu;
        in.addAction(instance    ? name.section('/', 1)
                     : instances ? QObject::tr("With its defaults")
                                 : name,
                     &menu, [chosen, worn] { chosen(worn); });
    }
    if (all.empty()) menu.addAction(QObject::tr("No other master that could be taken"))->setEnabled(false);
}

void askMixOver(Session& session, const Id& master, QWidget* parent, const QPoint& at, const std::function<void()>& done) {
    auto* menu = new QMenu(parent);
    menu->setObjectName("mixOverMenu");
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->setToolTipsVisible(true);
    const auto mix = [&session, master, done](const Id& worn) {
        if (session.apply(QObject::tr("mix a finish over it"), [&](const Project& p) { return edit::mixOver(p, master, worn); }) && done)
            done();
    };
    menu->addSection(QObject::tr("Where it is painted, show"));
    menu->addAction(QObject::tr("A plain finish"), menu, [mix] { mix({}); })
        ->setToolTip(QObject::tr("A Finish card, to be made what it should be"));
    addFinishes(*menu, session.project(), master, mix);
    menu->popup(at);
    for (QAction* action : menu->actions())
        if (!action->isSeparator() && action->isEnabled()) {
            menu->setActiveAction(action);
            break;
        }
}

} // namespace hue
