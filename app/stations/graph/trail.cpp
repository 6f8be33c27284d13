#include "app/stations/graph/trail.h"

#include "core/nodes/assembly_card.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QToolButton>

namespace hue {

Trail::Trail(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName("trail");
    setAccessibleName(tr("Way to the assembly on the board"));
    m_row = new QHBoxLayout(this);
    m_row->setContentsMargins(8, 2, 8, 2);
    m_row->setSpacing(2);
    connect(&session, &Session::masterShown, this, &Trail::refresh);
    connect(&session, &Session::targetChanged, this, &Trail::refresh);
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (what.any(Change::Names | Change::Graph | Change::Board)) refresh();
    });
    refresh();
}

void Trail::refresh() {
    while (QLayoutItem* item = m_row->takeAt(0)) {
        if (QWidget* w = item->widget()) w->hide(), w->deleteLater();
        delete item;
    }
    const Assembly* shown = m_session.assembly();
    setVisible(shown);
    if (!shown) return;
    const Project& p = m_session.project();
    const auto& path = m_session.path();
    const auto step = [&](const std::string& name, size_t levels) {
        auto* button = new QToolButton;
        button->setText(QString::fromStdString(name));
        button->setObjectName("trail_" + QString::number(levels));
        button->setAutoRaise(true);
        button->setToolTip(tr("Back to %1").arg(QString::fromStdString(name)));
        button->setAccessibleName(button->toolTip());
        connect(
            button, &QToolButton::clicked, this, [this, levels] { m_session.leave(levels); }, Qt::QueuedConnection);
        m_row->addWidget(button);
        m_row->addWidget(new QLabel("/"));
    };
    const Master* at = p.master(m_session.rootId());
    if (at) step(at->name, std::max<size_t>(path.size(), 1));
    for (size_t k = 0; at && k + 1 < path.size(); ++k) {
        const Node* card = at->graph.find(path[k]);
        at = card ? p.assembly(assemblyOf(*card)) : nullptr;
        if (at) step(at->name, path.size() - 1 - k);
    }
    auto* here = new QLabel(QString::fromStdString(shown->name));
    QFont bold = here->font();
    bold.setBold(true);
    here->setFont(bold);
    m_row->addWidget(here);
    m_row->addStretch();
    auto* whose = new QLabel(path.empty() ? tr("by itself, with its defaults")
                                          : tr("with the values of %1").arg(QString::fromStdString(p.nameOf(m_session.target()))));
    whose->setProperty("second", true);
    whose->setObjectName("trailValues");
    m_row->addWidget(whose);
}

} // namespace hue
