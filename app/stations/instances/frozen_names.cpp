#include "app/stations/instances/frozen_names.h"

#include <QAbstractItemDelegate>
#include <QHeaderView>
#include <QScrollBar>

namespace hue {

FrozenNames::FrozenNames(QTreeView& table, QAbstractItemDelegate* delegate) : QTreeView(&table), m_table(table) {
    setObjectName("instanceNames");
    setAccessibleName(tr("Names of instances"));
    setModel(table.model());
    setSelectionModel(table.selectionModel());
    delegate->setParent(this);
    setItemDelegate(delegate);
    setSelectionBehavior(table.selectionBehavior());
    setSelectionMode(table.selectionMode());
    setEditTriggers(table.editTriggers());
    setVerticalScrollMode(table.verticalScrollMode());
    setDragEnabled(true);
    setDragDropMode(QAbstractItemView::DragOnly);
    setFocusProxy(&table);
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setContextMenuPolicy(Qt::CustomContextMenu);
    header()->setSectionsClickable(true);
    header()->setStretchLastSection(false);
    connect(table.verticalScrollBar(), &QScrollBar::valueChanged, verticalScrollBar(), &QScrollBar::setValue);
    connect(verticalScrollBar(), &QScrollBar::valueChanged, table.verticalScrollBar(), &QScrollBar::setValue);
    connect(&table, &QTreeView::expanded, this, &QTreeView::expand);
    connect(&table, &QTreeView::collapsed, this, &QTreeView::collapse);
    connect(this, &QTreeView::expanded, &table, &QTreeView::expand);
    connect(this, &QTreeView::collapsed, &table, &QTreeView::collapse);
    connect(table.header(), &QHeaderView::sectionResized, this, [this](int section) {
        if (section == 0) follow();
    });
    connect(table.header(), &QHeaderView::geometriesChanged, this, &FrozenNames::follow);
    connect(header(), &QHeaderView::sectionResized, &table, [&table](int section, int, int size) {
        if (section == 0) table.setColumnWidth(0, size);
    });
    connect(header(), &QHeaderView::sectionClicked, table.header(), &QHeaderView::sectionClicked);
    connect(this, &QWidget::customContextMenuRequested, &table, &QWidget::customContextMenuRequested);
    follow();
}

void FrozenNames::follow() {
    for (int c = 1; c < model()->columnCount(); ++c)
        if (!isColumnHidden(c)) setColumnHidden(c, true);
    if (columnWidth(0) != m_table.columnWidth(0)) setColumnWidth(0, m_table.columnWidth(0));
    header()->setFixedHeight(m_table.header()->height());
    const int frame = m_table.frameWidth();
    setGeometry(frame, frame, m_table.columnWidth(0), m_table.viewport()->height() + m_table.header()->height());
}

} // namespace hue
