#include "app/stations/budget/budget_table.h"

#include "app/parts/theme.h"

#include <QPainter>
#include <QStyledItemDelegate>

namespace hue {
namespace {

/// A figure over a bar in ink for its share.
class BarDelegate : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;
    QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        return {QStyledItemDelegate::sizeHint(option, index).width(), 23};
    }
    void initStyleOption(QStyleOptionViewItem* option, const QModelIndex& index) const override {
        QStyledItemDelegate::initStyleOption(option, index);
        // Words stand above the bars, in all columns of a row.
        option->displayAlignment = (option->displayAlignment & Qt::AlignHorizontal_Mask) | Qt::AlignTop;
        option->rect.adjust(0, 2, 0, 0);
    }
    void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        QStyledItemDelegate::paint(p, option, index);
        const double share = index.data(Part).toDouble();
        if (share <= 0) return;
        const Theme& t = theme();
        const QRect r = option.rect.adjusted(4, 0, -4, -2);
        p->fillRect(QRectF(r.left(), r.bottom() - 2, r.width() * std::min(share, 1.), 3),
                    index.data(Over).toBool() ? hatch(t.ink) : QBrush(t.ink));
    }
};

} // namespace

bool FigureRow::operator<(const QTreeWidgetItem& o) const {
    const int c = treeWidget() ? treeWidget()->sortColumn() : 0;
    if (c <= 0) return QTreeWidgetItem::operator<(o);
    return text(c).section(' ', 0, 0).toDouble() < o.text(c).section(' ', 0, 0).toDouble();
}

QTreeWidget* budgetTable(const char* object, const QString& name, const QStringList& headers) {
    auto* t = new QTreeWidget;
    t->setObjectName(object);
    t->setAccessibleName(name);
    t->setHeaderLabels(headers);
    t->setUniformRowHeights(true);
    t->setSortingEnabled(true);
    t->setAlternatingRowColors(false);
    t->setSelectionMode(QAbstractItemView::ExtendedSelection);
    t->setItemDelegate(new BarDelegate(t));
    return t;
}

} // namespace hue
