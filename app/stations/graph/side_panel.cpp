#include "app/stations/graph/side_panel.h"

#include <QHBoxLayout>
#include <QToolButton>
#include <QVBoxLayout>

namespace hue {

SidePanel::SidePanel(Commands& commands, const char* command, const QString& name, QWidget* parent) : QWidget(parent) {
    setAccessibleName(name);
    setAutoFillBackground(true);
    m_column = new QVBoxLayout(this);
    m_column->setContentsMargins(8, 6, 8, 6);
    m_column->setSpacing(4);
    auto* line = new QHBoxLayout;
    m_head = new QHBoxLayout;
    auto* close = new QToolButton;
    close->setText("\u00D7");
    close->setAccessibleName(tr("Close: %1").arg(name));
    commands.explain(close, command, tr("Close"));
    line->addLayout(m_head, 1);
    line->addWidget(close);
    m_column->addLayout(line);
    connect(close, &QToolButton::clicked, this, &SidePanel::closed);
}

} // namespace hue
