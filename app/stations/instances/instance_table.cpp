#include "app/stations/instances/instance_table.h"

#include "app/parts/theme.h"
#include "app/stations/instances/frozen_names.h"
#include "core/edits/edits.h"
#include "core/instances/instance_csv.h"

#include <QClipboard>
#include <QGuiApplication>
#include <QHeaderView>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>
#include <QStyledItemDelegate>

namespace hue {
namespace {

/// A lock, 9 by 12.
void paintLock(QPainter& p, QPointF at, const QColor& ink) {
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(ink, 1.5));
    p.setBrush(Qt::NoBrush);
    p.drawArc(QRectF(at.x() + 1.5, at.y(), 6, 9), 0, 180 * 16);
    p.fillRect(QRectF(at.x(), at.y() + 5, 9, 7), ink);
    p.restore();
}

constexpr const char* kFilled = "filled";

/// Own values in ink, inherited ones in second ink; colors with a patch.
class ValueDelegate : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;
    QSize sizeHint(const QStyleOptionViewItem& o, const QModelIndex& i) const override {
        return {QStyledItemDelegate::sizeHint(o, i).width(), i.data(InstanceModel::MasterRole).toBool() ? 58 : 34};
    }
    /// What is being typed stays, whatever comes in meanwhile: a picture, a value from elsewhere.
    void setEditorData(QWidget* editor, const QModelIndex& index) const override {
        if (editor->property(kFilled).toBool()) return;
        editor->setProperty(kFilled, true);
        QStyledItemDelegate::setEditorData(editor, index);
    }
    void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        const Theme& t = theme();
        const bool chosen = option.state & QStyle::State_Selected;
        const bool master = index.data(InstanceModel::MasterRole).toBool();
        p->fillRect(option.rect, chosen ? t.ink : master ? t.panel : t.card);
        p->setPen(t.hairline);
        p->drawLine(option.rect.bottomLeft(), option.rect.bottomRight());
        QRect r = option.rect.adjusted(6, 0, -6, 0);
        if (index.data(InstanceModel::GroupEdgeRole).toBool()) {
            p->setPen(t.ink2);
            p->drawLine(option.rect.topLeft(), option.rect.bottomLeft());
        }
        // Each master has parameters of its own, so their names stand in its row, over its defaults.
        const QString parameter = index.data(InstanceModel::NameRole).toString();
        if (master && !parameter.isEmpty()) {
            if (const QString group = index.data(InstanceModel::GroupRole).toString();
                !group.isEmpty() && index.data(InstanceModel::GroupEdgeRole).toBool()) {
                p->setFont(textFont(10, true));
                p->setPen(chosen ? t.card : t.ink2);
                p->drawText(QRect(r.left(), r.top() + 2, r.width(), 14), Qt::AlignLeft | Qt::AlignVCenter,
                            p->fontMetrics().elidedText(group.toUpper(), Qt::ElideRight, r.width()));
            }
            r.setTop(r.top() + 13);
            p->setFont(textFont(11));
            p->setPen(chosen ? t.card : t.ink2);
            p->drawText(QRect(r.left(), r.top() + 3, r.width(), 16), Qt::AlignLeft | Qt::AlignVCenter,
                        p->fontMetrics().elidedText(parameter, Qt::ElideRight, r.width()));
            r.setTop(r.top() + 18);
        }
        if (const auto picture = index.data(Qt::DecorationRole).value<QImage>(); !picture.isNull()) {
            p->drawImage(QRect(r.left(), r.center().y() - 14, 30, 30), picture);
            r.setLeft(r.left() + 38);
        }
        const QVariant color = index.data(InstanceModel::ColorRole);
        if (color.isValid()) {
            const QRect patch(r.left(), r.center().y() - 6, 16, 13);
            p->fillRect(patch, color.value<QColor>());
            p->setPen(t.hairline);
            p->drawRect(patch);
            r.setLeft(patch.right() + 6);
        }
        const bool own = index.data(InstanceModel::OwnRole).toBool();
        p->setPen(chosen ? t.card : own ? t.ink : t.ink2);
        const bool name = index.column() <= InstanceModel::Wearers;
        QFont f = name ? textFont(13, index.column() == 0 && own) : codeFont(12);
        if (!name) f.setBold(own);
        f.setStrikeOut(index.data(InstanceModel::IdleRole).toBool());
        p->setFont(f);
        if (index.data(InstanceModel::LockedRole).toBool()) {
            paintLock(*p, QPointF(r.right() - 9, r.center().y() - 6), chosen ? t.card : t.ink);
            r.setRight(r.right() - 16);
        }
        if (const QString tags = index.data(InstanceModel::TagsRole).toString(); !tags.isEmpty()) {
            const int used = p->fontMetrics().horizontalAdvance(index.data().toString()) + 10;
            p->save();
            p->setFont(textFont(11));
            if (!chosen) p->setPen(t.ink2);
            p->drawText(r.adjusted(used, 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter,
                        p->fontMetrics().elidedText(tags, Qt::ElideRight, std::max(0, r.width() - used)));
            p->restore();
        }
        p->drawText(r, Qt::AlignLeft | Qt::AlignVCenter, p->fontMetrics().elidedText(index.data().toString(), Qt::ElideRight, r.width()));
        if (option.state & QStyle::State_HasFocus) {
            p->setPen(QPen(chosen ? t.card : t.ink, 1, Qt::DotLine));
            p->drawRect(option.rect.adjusted(1, 1, -2, -2));
        }
    }
};

QString text(const std::string& s) { return QString::fromStdString(s); }

} // namespace

InstanceTable::InstanceTable(Session& session, InstanceModel* model, QWidget* parent)
    : QTreeView(parent), m_session(session), m_model(model) {
    setModel(model);
    setItemDelegate(new ValueDelegate(this));
    setObjectName("instanceTable");
    setAccessibleName(tr("Instance table"));
    setSelectionBehavior(QAbstractItemView::SelectItems);
    setSelectionMode(QAbstractItemView::ExtendedSelection);
    setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed | QAbstractItemView::AnyKeyPressed);
    setDragEnabled(true);
    setDragDropMode(QAbstractItemView::DragOnly);
    header()->setStretchLastSection(false);
    setHorizontalScrollMode(ScrollPerPixel);
    header()->setSectionsClickable(true);
    header()->setSortIndicatorShown(true);
    header()->setSortIndicator(-1, Qt::AscendingOrder);
    connect(header(), &QHeaderView::sectionClicked, this, &InstanceTable::sort);
    m_names = new FrozenNames(*this, new ValueDelegate);
    connect(m_model, &QAbstractItemModel::modelReset, m_names, [this] {
        m_names->follow();
        m_names->expandAll();
        const QModelIndex at = m_model->indexOf(m_at);
        if (at.isValid()) setCurrentIndex(at.siblingAtColumn(std::min(m_atColumn, m_model->columnCount() - 1)));
    });
}

bool InstanceTable::edit(const QModelIndex& index, EditTrigger trigger, QEvent* event) {
    // The names that are seen are those of the view above.
    if (index.isValid() && index.column() == InstanceModel::Name && m_names->isVisible()) return m_names->editName(index, trigger, event);
    return QTreeView::edit(index, trigger, event);
}

QModelIndex InstanceTable::moveCursor(CursorAction action, Qt::KeyboardModifiers keys) {
    const QModelIndex at = currentIndex();
    const int by = action == MoveLeft ? -1 : action == MoveRight ? 1 : 0;
    const int to = at.column() + by;
    if (!by || !at.isValid() || (to < 0) || (at.column() == InstanceModel::Name && m_model->rowCount(at) && !isExpanded(at)))
        return QTreeView::moveCursor(action, keys);
    return to < m_model->columnCount({}) ? at.siblingAtColumn(to) : at;
}

void InstanceTable::resizeEvent(QResizeEvent* e) {
    QTreeView::resizeEvent(e);
    m_names->follow();
}

void InstanceTable::scrollTo(const QModelIndex& index, ScrollHint hint) {
    QTreeView::scrollTo(index, hint);
    if (index.column() == InstanceModel::Name) return;
    // Not beneath the names.
    if (const int hidden = m_names->width() - visualRect(index).left(); hidden > 0)
        horizontalScrollBar()->setValue(horizontalScrollBar()->value() - hidden);
}

void InstanceTable::currentChanged(const QModelIndex& now, const QModelIndex& before) {
    QTreeView::currentChanged(now, before);
    if (!now.isValid()) return;
    m_at = m_model->idAt(now);
    m_atColumn = now.column();
    m_model->setHeadingsOf(now);
    viewport()->update();
}

void InstanceTable::sort(int column) {
    const bool same = column == m_model->sortColumn();
    const bool down = same && m_model->sortOrder() == Qt::AscendingOrder;
    const int by = same && !down ? -1 : column;
    const Qt::SortOrder order = down ? Qt::DescendingOrder : Qt::AscendingOrder;
    m_model->sortBy(by, order);
    header()->setSortIndicator(by, order);
}

void InstanceTable::sortByCursor() { sort(std::max(0, currentIndex().column())); }

QRect InstanceTable::handle() const {
    if (!m_model->parameterAt(currentIndex())) return {};
    const QRect cell = visualRect(currentIndex());
    return {cell.right() - 8, cell.bottom() - 8, 8, 8};
}

void InstanceTable::paintEvent(QPaintEvent* e) {
    QTreeView::paintEvent(e);
    if (const QRect at = handle(); !at.isNull() && at.left() > m_names->width()) {
        QPainter p(viewport());
        p.setPen(theme().card);
        p.setBrush(theme().ink);
        p.drawRect(at.adjusted(1, 1, -1, -1));
    }
}

void InstanceTable::mousePressEvent(QMouseEvent* e) {
    if (e->button() == Qt::LeftButton && handle().contains(e->pos())) {
        m_dragged = currentIndex();
        return;
    }
    QTreeView::mousePressEvent(e);
}

void InstanceTable::mouseMoveEvent(QMouseEvent* e) {
    viewport()->setCursor(handle().contains(e->pos()) || m_dragged.isValid() ? Qt::CrossCursor : Qt::ArrowCursor);
    if (!m_dragged.isValid()) return QTreeView::mouseMoveEvent(e);
    const QModelIndex under = indexAt({visualRect(m_dragged).center().x(), e->pos().y()});
    if (!under.isValid() || m_model->masterAt(under) != m_model->masterAt(m_dragged)) return;
    // All rows between, as they are seen; of a tree they are no rectangle.
    QItemSelection between;
    QModelIndex first = m_dragged, last = under;
    if (visualRect(first).top() > visualRect(last).top()) std::swap(first, last);
    for (QModelIndex row = first; row.isValid(); row = indexBelow(row)) {
        const QModelIndex cell = row.siblingAtColumn(m_dragged.column());
        between.select(cell, cell);
        if (row.internalId() == last.internalId()) break;
    }
    selectionModel()->select(between, QItemSelectionModel::ClearAndSelect);
    scrollTo(under);
}

void InstanceTable::mouseReleaseEvent(QMouseEvent* e) {
    if (!m_dragged.isValid()) return QTreeView::mouseReleaseEvent(e);
    const std::optional<Cell> from = m_model->cellAt(m_dragged);
    m_dragged = QModelIndex();
    std::vector<Id> rows;
    for (const Cell& cell : chosenCells())
        if (from && cell.worn != from->worn) rows.push_back(cell.worn);
    if (!rows.empty()) fill(from->worn, std::move(rows), {from->parameter});
}

void InstanceTable::fill(const Id& from, std::vector<Id> rows, const std::vector<Id>& columns) {
    m_session.apply(tr("fill rows"), [&](const Project& p) {
        const Id first[] = {from};
        const Result<Csv> top = csvFrom(valuesText(p, first, columns), nullptr, '\t');
        return withPasted(p, rows, columns, *top);
    });
}

std::vector<Id> InstanceTable::chosenRows() const {
    std::vector<Id> out;
    for (const QModelIndex& index : chosenFromTop())
        if (const Id id = m_model->idAt(index); out.empty() || out.back() != id) out.push_back(id);
    return out;
}

std::vector<Id> InstanceTable::chosenInstances() const {
    std::vector<Id> out = chosenRows();
    std::erase_if(out, [this](const Id& id) { return !m_session.project().instance(id); });
    return out;
}

void InstanceTable::lockOrUnlock() {
    const std::vector<Id> chosen = chosenInstances();
    if (chosen.empty()) return m_session.say(tr("Choose instances: a master has no lock."));
    const Project& now = m_session.project();
    const bool all = std::all_of(chosen.begin(), chosen.end(), [&](const Id& id) { return now.instance(id)->locked; });
    m_session.apply(all ? tr("unlock") : tr("lock"), [&](const Project& p) { return edit::setLocked(p, chosen, !all); });
}

QModelIndexList InstanceTable::chosenFromTop() const {
    QModelIndexList all = selectionModel()->selectedIndexes();
    // Rows are numbered from the top.
    std::sort(all.begin(), all.end(), [](const QModelIndex& a, const QModelIndex& b) {
        return a.internalId() != b.internalId() ? a.internalId() < b.internalId() : a.column() < b.column();
    });
    return all;
}

std::vector<Cell> InstanceTable::chosenCells() const {
    std::vector<Cell> out;
    for (const QModelIndex& index : chosenFromTop())
        if (const std::optional<Cell> cell = m_model->cellAt(index)) out.push_back(*cell);
    return out;
}

std::optional<InstanceTable::Block> InstanceTable::chosenBlock() const {
    Block out;
    const Master* master = nullptr;
    for (const QModelIndex& index : chosenFromTop()) {
        const std::optional<Cell> cell = m_model->cellAt(index);
        if (!cell) continue;
        if (master && m_model->masterAt(index) != master) {
            m_session.say(tr("The chosen cells are of several masters, whose columns differ. Choose cells of one."));
            return {};
        }
        master = m_model->masterAt(index);
        if (out.rows.empty() || out.rows.back() != cell->worn) out.rows.push_back(cell->worn);
        if (std::find(out.columns.begin(), out.columns.end(), cell->parameter) == out.columns.end()) out.columns.push_back(cell->parameter);
    }
    if (!out.rows.empty()) return out;
    m_session.say(tr("Choose values in the table: click one, and with Shift the last of several."));
    return {};
}

void InstanceTable::copy() const {
    if (const std::optional<Block> block = chosenBlock())
        QGuiApplication::clipboard()->setText(text(valuesText(m_session.project(), block->rows, block->columns)));
}

void InstanceTable::paste() {
    std::optional<Block> block = chosenBlock();
    if (!block) return;
    const Result<Csv> table = csvFrom(QGuiApplication::clipboard()->text().toStdString(), nullptr, '\t');
    if (!table) return m_session.say(text(table.error().sentence));
    // From one cell on it reaches as far as the table does.
    if (block->rows.size() == 1 && block->columns.size() == 1) {
        const QModelIndexList chosen = chosenFromTop();
        const QModelIndex first = *std::find_if(chosen.begin(), chosen.end(), [this](const QModelIndex& i) { return m_model->cellAt(i); });
        const size_t high = table->size(), wide = table->empty() ? 0 : table->front().size();
        const Master* master = m_model->masterAt(first);
        for (int c = first.column() + 1; block->columns.size() < wide; ++c) {
            const Parameter* p = m_model->parameterAt(first.sibling(first.row(), c));
            if (!p) break;
            block->columns.push_back(p->id);
        }
        for (QModelIndex row = indexBelow(first); row.isValid() && block->rows.size() < high; row = indexBelow(row))
            if (m_model->masterAt(row) == master) block->rows.push_back(m_model->idAt(row));
    }
    m_session.apply(tr("paste values"), [&](const Project& p) { return withPasted(p, block->rows, block->columns, *table); });
}

bool InstanceTable::write(const QString& words) {
    const std::vector<Cell> cells = chosenCells();
    if (cells.empty()) return m_session.say(tr("Choose values in the table: click one, and with Shift the last of several.")), false;
    return m_session.apply(tr("write %1").arg(words), [&](const Project& p) { return withWords(p, cells, words.toStdString()); });
}

void InstanceTable::fillDown() {
    const std::optional<Block> block = chosenBlock();
    if (!block) return;
    if (block->rows.size() < 2) return m_session.say(tr("Choose the value, and with Shift the rows below it that are to have it."));
    fill(block->rows[0], {block->rows.begin() + 1, block->rows.end()}, block->columns);
}

void InstanceTable::giveBack() {
    const std::vector<Cell> cells = chosenCells();
    if (!cells.empty()) {
        m_session.apply(tr("return values"), [&](const Project& p) { return withoutOwn(p, cells); });
        return;
    }
    const QModelIndex at = currentIndex();
    const Id id = m_model->idAt(at);
    const Instance* i = m_session.project().instance(id);
    if (!i) return m_session.say(tr("A master's value is where inheritance starts; there is nothing to return to."));
    edit::OwnSurface own{i->alphaMode, i->alphaCutoff, i->doubleSided};
    if (at.column() == InstanceModel::AlphaModeColumn) own.alphaMode.reset();
    if (at.column() == InstanceModel::Sides) own.doubleSided.reset();
    m_session.apply(tr("return value"), [&](const Project& q) { return edit::setOwnSurface(q, id, own); });
}

void InstanceTable::pushUp() {
    if (const std::optional<Cell> cell = m_model->cellAt(currentIndex()))
        m_session.apply(tr("give the value to the parent"), [&](const Project& p) { return edit::pushUp(p, cell->worn, cell->parameter); });
    else m_session.say(tr("Choose an instance's own value."));
}

void InstanceTable::pullDown() {
    if (const std::optional<Cell> cell = m_model->cellAt(currentIndex()))
        m_session.apply(tr("let all below inherit"), [&](const Project& p) { return edit::pullDown(p, cell->worn, cell->parameter); });
    else m_session.say(tr("Choose a value of a master or of an instance that others derive from."));
}

void InstanceTable::setFilter(const QString& words) {
    m_filter = words.trimmed();
    for (int r = 0; r < m_model->rowCount(); ++r) filterBelow(m_model->index(r, 0), false);
}

bool InstanceTable::filterBelow(const QModelIndex& row, bool shownAbove) {
    const bool shown = shownAbove || matches(row);
    bool any = shown;
    for (int r = 0; r < m_model->rowCount(row); ++r) any |= filterBelow(m_model->index(r, 0, row), shownAbove);
    setRowHidden(row.row(), row.parent(), !any);
    m_names->setRowHidden(row.row(), row.parent(), !any);
    return any;
}

bool InstanceTable::matches(const QModelIndex& row) const {
    if (m_filter.isEmpty()) return true;
    const Id id = m_model->idAt(row);
    const Instance* instance = m_session.project().instance(id);
    if (m_filter == tr("own")) return instance && !instance->own.empty();
    if (m_filter == tr("locked")) return instance && instance->locked;
    if (m_filter == tr("out of range")) {
        for (int c = InstanceModel::FirstParameter; c < m_model->columnCount(); ++c)
            if (m_model->outOfRange(row.siblingAtColumn(c))) return true;
        return false;
    }
    if (instance && row.data(InstanceModel::TagsRole).toString().contains(m_filter, Qt::CaseInsensitive)) return true;
    if (m_filter == tr("unworn")) return instance && wearersOf(m_session.project(), id).empty();
    for (int c = 0; c < m_model->columnCount(); ++c)
        if (row.sibling(row.row(), c).data().toString().contains(m_filter, Qt::CaseInsensitive)) return true;
    return false;
}

} // namespace hue
