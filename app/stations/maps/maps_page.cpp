#include "app/stations/maps/maps_page.h"

#include "app/parts/theme.h"
#include "app/session/drops.h"
#include "app/stations/maps/map_actions.h"
#include "app/stations/maps/map_draw_pane.h"
#include "app/stations/maps/map_pack_pane.h"
#include "core/base/diagnostic.h"
#include "core/edits/edits.h"

#include <QButtonGroup>
#include <QComboBox>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMimeData>
#include <QPainter>
#include <QPointer>
#include <QProgressBar>
#include <QPushButton>
#include <QScrollArea>
#include <QStackedWidget>
#include <QStandardItemModel>
#include <QStyledItemDelegate>
#include <QToolButton>
#include <QTreeView>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }
QString text(std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); }

enum Role_ { IdRole = Qt::UserRole, SecondRole };

/// A thumbnail and two lines.
class MapDelegate : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;
    QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex& i) const override {
        return {160, i.data(IdRole).toString().isEmpty() ? 24 : 46};
    }
    void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        const Theme& t = theme();
        const bool chosen = option.state & QStyle::State_Selected;
        p->fillRect(option.rect, chosen ? t.ink : t.card);
        QRect r = option.rect.adjusted(4, 0, -4, 0);
        p->setPen(chosen ? t.card : t.ink);
        if (index.data(IdRole).toString().isEmpty()) {
            p->setFont(textFont(12, true));
            p->drawText(r, Qt::AlignVCenter | Qt::AlignLeft,
                        p->fontMetrics().elidedText(index.data().toString(), Qt::ElideRight, r.width()));
            return;
        }
        const QRect picture(r.left(), r.center().y() - 19, 38, 38);
        p->fillRect(picture, t.surround);
        if (const auto image = index.data(Qt::DecorationRole).value<QImage>(); !image.isNull()) {
            const QSize size = image.size().scaled(picture.size(), Qt::KeepAspectRatio);
            p->setRenderHint(QPainter::SmoothPixmapTransform);
            p->drawImage(QRect(picture.center() - QPoint(size.width() / 2 - 1, size.height() / 2 - 1), size), image);
        }
        r.setLeft(picture.right() + 8);
        p->setFont(textFont(13));
        p->drawText(QRect(r.left(), r.top() + 5, r.width(), 18), Qt::AlignVCenter,
                    p->fontMetrics().elidedText(index.data().toString(), Qt::ElideRight, r.width()));
        p->setFont(textFont(11));
        p->setPen(chosen ? t.card : t.ink2);
        p->drawText(QRect(r.left(), r.top() + 23, r.width(), 16), Qt::AlignVCenter,
                    p->fontMetrics().elidedText(index.data(SecondRole).toString(), Qt::ElideRight, r.width()));
        if (option.state & QStyle::State_HasFocus) {
            p->setPen(QPen(chosen ? t.card : t.ink, 1, Qt::DotLine));
            p->drawRect(option.rect.adjusted(1, 1, -2, -2));
        }
    }
};

} // namespace

MapsPage::MapsPage(Workplace& workplace)
    : Station(workplace, Change::Maps | Change::Files | Change::Graph | Change::Values | Change::Names),
      m_session(workplace.session),
      m_service(workplace.maps) {
    Session& session = m_session;
    MapService& service = m_service;
    setAcceptDrops(true);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(1);

    auto* left = new QWidget;
    left->setObjectName("panel");
    left->setAttribute(Qt::WA_StyledBackground);
    left->setFixedWidth(236);
    auto* leftColumn = new QVBoxLayout(left);
    leftColumn->setContentsMargins(6, 6, 6, 6);
    leftColumn->setSpacing(5);
    auto* tools = new QHBoxLayout;
    auto* bring = new QToolButton;
    bring->setText(tr("Bring in \u25BE"));
    bring->setPopupMode(QToolButton::InstantPopup);
    bring->setToolTip(tr("Image files, or a folder of them; or drop them here"));
    auto* bringMenu = new QMenu(bring);
    bringMenu->addAction(tr("Files"), this,
                         [this] { bringIn(QFileDialog::getOpenFileNames(this, tr("Bring in maps"), {}, imageFilter())); });
    bringMenu->addAction(tr("A folder"), this, [this] {
        const QString folder = QFileDialog::getExistingDirectory(this, tr("Bring in a folder of maps"));
        if (!folder.isEmpty()) bringIn({folder});
    });
    bring->setMenu(bringMenu);
    auto* sets = new QToolButton;
    sets->setText(tr("Sets \u25BE"));
    sets->setPopupMode(QToolButton::InstantPopup);
    sets->setToolTip(tr("Maps that belong together"));
    auto* setMenu = new QMenu(sets);
    setMenu->addAction(tr("Find sets by name and pixels"), this, [this] { makeMapSets(m_session, m_service); });
    setMenu->addAction(tr("Wear this set"), this, [this] { wearMapSet(m_session, m_current); });
    setMenu->addAction(tr("Swap this set for another"), this, [this] { swapMapSets(m_session, m_current, this); });
    sets->setMenu(setMenu);
    tools->addWidget(bring);
    tools->addWidget(sets);
    tools->addStretch();
    leftColumn->addLayout(tools);
    m_model = new QStandardItemModel(this);
    m_list = new QTreeView;
    m_list->setObjectName("mapList");
    m_list->setAccessibleName(tr("Maps"));
    m_list->setModel(m_model);
    m_list->setHeaderHidden(true);
    m_list->setIndentation(10);
    m_list->setRootIsDecorated(false);
    m_list->setItemDelegate(new MapDelegate(m_list));
    m_list->setEditTriggers(QAbstractItemView::NoEditTriggers);
    m_list->setContextMenuPolicy(Qt::CustomContextMenu);
    leftColumn->addWidget(m_list, 1);
    row->addWidget(left);

    auto* middle = new QVBoxLayout;
    middle->setSpacing(1);
    auto* modes = new QWidget;
    modes->setObjectName("panel");
    modes->setAttribute(Qt::WA_StyledBackground);
    auto* modeRow = new QHBoxLayout(modes);
    modeRow->setContentsMargins(8, 4, 8, 4);
    modeRow->setSpacing(3);
    m_modes = new QButtonGroup(this);
    int index = 0;
    for (const QString& name : {tr("Channels"), tr("Tiling"), tr("Convert"), tr("Compress"), tr("Pack"), tr("Draw")}) {
        auto* b = new QToolButton;
        b->setText(name);
        b->setCheckable(true);
        b->setObjectName("pane_" + name);
        m_modes->addButton(b, index++);
        modeRow->addWidget(b);
    }
    m_modes->button(0)->setChecked(true);
    modeRow->addStretch();
    m_job = new QWidget;
    auto* jobRow = new QHBoxLayout(m_job);
    jobRow->setContentsMargins(0, 0, 0, 0);
    m_jobName = new QLabel;
    m_jobName->setObjectName("jobName");
    m_progress = new QProgressBar;
    m_progress->setFixedWidth(120);
    m_progress->setFixedHeight(16);
    auto* cancel = new QPushButton(tr("Cancel"));
    cancel->setObjectName("jobCancel");
    jobRow->addWidget(m_jobName);
    jobRow->addWidget(m_progress);
    jobRow->addWidget(cancel);
    modeRow->addWidget(m_job);
    middle->addWidget(modes);
    m_panes = new QStackedWidget;
    m_look = new MapLookPane(session, service);
    m_tile = new MapTilePane(session, service);
    m_convert = new MapConvertPane(session, service);
    m_compress = new MapCompressPane(session, service);
    m_pack = new MapPackPane(session, service);
    m_draw = new MapDrawPane(session, service);
    for (QWidget* w : {static_cast<QWidget*>(m_look), static_cast<QWidget*>(m_tile), static_cast<QWidget*>(m_convert),
                       static_cast<QWidget*>(m_compress), static_cast<QWidget*>(m_pack), static_cast<QWidget*>(m_draw)})
        m_panes->addWidget(w);
    m_empty = new QWidget;
    auto* emptyColumn = new QVBoxLayout(m_empty);
    auto* emptyWords = new QLabel(
        tr("No maps yet.\n\nDrop image files or a folder of them here, draw a mask, or make a map of a wire in the station Graph."));
    emptyWords->setObjectName("mapsEmpty");
    emptyWords->setAlignment(Qt::AlignCenter);
    emptyWords->setWordWrap(true);
    auto* emptyButtons = new QHBoxLayout;
    auto* bringFiles = new QPushButton(tr("Bring in files"));
    auto* drawMask = new QPushButton(tr("Draw a mask"));
    connect(bringFiles, &QPushButton::clicked, this,
            [this] { bringIn(QFileDialog::getOpenFileNames(this, tr("Bring in maps"), {}, imageFilter())); });
    connect(drawMask, &QPushButton::clicked, this, [this] { showPane(Draw); });
    emptyButtons->addStretch();
    emptyButtons->addWidget(bringFiles);
    emptyButtons->addWidget(drawMask);
    emptyButtons->addStretch();
    emptyColumn->addStretch();
    emptyColumn->addWidget(emptyWords);
    emptyColumn->addLayout(emptyButtons);
    emptyColumn->addStretch();
    m_panes->addWidget(m_empty);
    middle->addWidget(m_panes, 1);
    row->addLayout(middle, 1);

    auto* right = m_right = new QWidget;
    right->setObjectName("panel");
    right->setAttribute(Qt::WA_StyledBackground);
    right->setFixedWidth(232);
    auto* rightColumn = new QVBoxLayout(right);
    rightColumn->setContentsMargins(12, 8, 10, 8);
    rightColumn->setSpacing(5);
    m_title = new QLabel;
    m_title->setProperty("title", true);
    m_title->setWordWrap(true);
    m_numbers = new QLabel;
    m_numbers->setProperty("second", true);
    m_numbers->setWordWrap(true);
    rightColumn->addWidget(m_title);
    rightColumn->addWidget(m_numbers);
    auto* form = new QFormLayout;
    form->setVerticalSpacing(5);
    m_kind = new QComboBox;
    m_kind->setObjectName("mapKind");
    for (MapKind k : {MapKind::Color, MapKind::Data, MapKind::Normal, MapKind::Height}) m_kind->addItem(text(nameOf(k)));
    m_kind->setToolTip(tr("Decides its decoding: only color maps are decoded from sRGB, and never their alpha"));
    form->addRow(tr("Kind"), m_kind);
    m_role = new QComboBox;
    m_role->addItem(tr("not said"), QString());
    for (const Role& r : roles()) m_role->addItem(text(r), text(r));
    m_role->setToolTip(tr("What it holds; map sets and recipes find it by this"));
    form->addRow(tr("Holds"), m_role);
    m_wrap = new QComboBox;
    for (Wrap w : {Wrap::Repeat, Wrap::Mirror, Wrap::Clamp}) m_wrap->addItem(text(nameOf(w)));
    form->addRow(tr("Beyond 0\u20131"), m_wrap);
    m_setName = new QLineEdit;
    m_setName->setPlaceholderText(tr("none"));
    form->addRow(tr("Set"), m_setName);
    rightColumn->addLayout(form);
    m_reason = new QLabel;
    m_reason->setObjectName("mapReason");
    m_reason->setWordWrap(true);
    m_reason->setProperty("second", true);
    rightColumn->addWidget(m_reason);
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto* inside = new QWidget;
    auto* insideColumn = new QVBoxLayout(inside);
    insideColumn->setContentsMargins(0, 0, 4, 0);
    m_remarks = new QVBoxLayout;
    m_remarks->setSpacing(6);
    insideColumn->addLayout(m_remarks);
    m_readers = new QLabel;
    m_readers->setWordWrap(true);
    m_readers->setProperty("second", true);
    insideColumn->addWidget(m_readers);
    insideColumn->addStretch();
    scroll->setWidget(inside);
    rightColumn->addWidget(scroll, 1);
    row->addWidget(right);

    connect(m_modes, &QButtonGroup::idClicked, this, [this](int id) { showPane(Pane(id)); });
    connect(m_list->selectionModel(), &QItemSelectionModel::currentChanged, this, [this](const QModelIndex& at) {
        const std::string id = at.data(IdRole).toString().toStdString();
        if (!id.empty() && id != m_current) {
            m_current = id;
            refresh();
        }
    });
    connect(m_list, &QTreeView::customContextMenuRequested, this, &MapsPage::menuAt);
    auto change = [this](const QString& step, auto edit) {
        const MapFile* m = m_session.project().map(m_current);
        if (!m) return;
        MapFile changed = *m;
        edit(changed);
        m_session.apply(step, [&](const Project& p) { return edit::changeMap(p, changed); });
    };
    connect(m_kind, &QComboBox::activated, this, [change](int i) { change(tr("change kind"), [i](MapFile& m) { m.kind = MapKind(i); }); });
    connect(m_wrap, &QComboBox::activated, this, [change](int i) { change(tr("change wrap"), [i](MapFile& m) { m.wrap = Wrap(i); }); });
    connect(m_role, &QComboBox::activated, this,
            [this, change] { change(tr("change role"), [this](MapFile& m) { m.role = m_role->currentData().toString().toStdString(); }); });
    connect(m_setName, &QLineEdit::editingFinished, this, [this] {
        const MapFile* m = m_session.project().map(m_current);
        const std::string name = m_setName->text().trimmed().toStdString();
        if (!m || m->set == name) return;
        m_session.apply(tr("change set"), [&](const Project& p) { return edit::makeSet(p, name, {{m_current, m->role}}); });
    });
    connect(cancel, &QPushButton::clicked, &service, &MapService::cancel);
    connect(&service, &MapService::jobChanged, this, &MapsPage::showJob);
    connect(&service, &MapService::jobProgress, this, [this](float part) {
        m_progress->setRange(0, 100);
        m_progress->setValue(int(part * 100));
    });
    connect(&service, &MapService::made, this, [this](const QString& id) {
        if (!id.isEmpty()) choose(id.toStdString());
    });
    connect(&service, &MapService::imageReady, this, [this](const QString& id) {
        if (id.toStdString() == m_current) refresh();
    });
    connect(&service, &MapService::knowledgeChanged, this, &MapsPage::refresh);
    auto* remove = new QAction(tr("Remove map"), this);
    remove->setShortcut(Qt::Key_Delete);
    remove->setShortcutContext(Qt::WidgetWithChildrenShortcut);
    m_list->addAction(remove);
    connect(remove, &QAction::triggered, this, &MapsPage::removeMap);
    showJob();
    fillFacts();
}

void MapsPage::showPane(Pane pane) {
    m_modes->button(pane)->setChecked(true);
    refresh();
}

void MapsPage::choose(const Id& map) {
    if (!m_session.project().map(map)) return;
    m_current = map;
    fillList();
    refresh();
}

void MapsPage::showEvent(QShowEvent*) { refresh(); }

void MapsPage::arrive() { m_list->setFocus(); }

void MapsPage::projectChanged(Changes) { refresh(); }

bool MapsPage::showPlace(const Place& to) {
    if (!m_session.project().map(to.port)) return false;
    place().show("maps");
    choose(to.port);
    return true;
}

void MapsPage::refresh() {
    // Closed, it has nothing to follow.
    if (!isVisible()) return;
    fillList();
    if (!m_session.project().map(m_current)) {
        m_current = m_session.project().maps.empty() ? Id{} : m_session.project().maps[0]->id;
        fillList();
    }
    fillFacts();
    // Without a map there is only one thing to be done here but drawing one.
    const int pane = m_modes->checkedId();
    const bool empty = m_session.project().maps.empty() && pane != Draw;
    m_right->setVisible(!empty);
    if (empty) return m_panes->setCurrentWidget(m_empty);
    m_panes->setCurrentIndex(pane);
    static_cast<MapPane*>(m_panes->currentWidget())->show(m_current);
}

/// What a row says of a map.
void MapsPage::fillItem(QStandardItem* item, const MapFile& m) const {
    const auto k = m_service.knowledge(m);
    QString second = text(m.role.empty() ? std::string(nameOf(m.kind)) : m.role);
    if (k && k->problem.empty()) {
        second += tr("  %1 x %2  %3 MB")
                      .arg(k->facts.width)
                      .arg(k->facts.height)
                      .arg(double(cardBytes(m.format, k->facts.width, k->facts.height, k->facts.channels, k->facts.type)) / 1e6, 0, 'f', 1);
    } else if (k) {
        second = tr("cannot be used");
    }
    item->setText(text(m.name));
    item->setData(text(m.id), IdRole);
    item->setData(second, SecondRole);
    if (k) item->setData(m_service.thumbnail(m), Qt::DecorationRole);
    item->setToolTip(text(m.path));
}

void MapsPage::fillList() {
    const Project& p = m_session.project();
    // Rows by sets, then those without one: an empty id is a set's head, with its name.
    std::vector<std::pair<QString, std::vector<const MapFile*>>> wanted;
    for (const std::string& name : p.mapSets()) {
        wanted.push_back({text(name), {}});
        for (const auto& m : p.maps)
            if (m->set == name) wanted.back().second.push_back(m.get());
    }
    for (const auto& m : p.maps)
        if (m->set.empty()) wanted.push_back({{}, {m.get()}});
    const auto fits = [&] {
        if (m_model->rowCount() != int(wanted.size())) return false;
        for (int r = 0; r < m_model->rowCount(); ++r) {
            const auto& [head, maps] = wanted[size_t(r)];
            const QStandardItem* item = m_model->item(r);
            if (head.isNull()) {
                if (item->data(IdRole).toString() != text(maps[0]->id)) return false;
                continue;
            }
            if (item->text() != head || item->rowCount() != int(maps.size())) return false;
            for (int c = 0; c < item->rowCount(); ++c)
                if (item->child(c)->data(IdRole).toString() != text(maps[size_t(c)]->id)) return false;
        }
        return true;
    };
    const QSignalBlocker block(m_list->selectionModel());
    if (!fits()) {
        m_model->clear();
        for (const auto& [head, maps] : wanted) {
            if (head.isNull()) {
                m_model->appendRow(new QStandardItem);
                continue;
            }
            auto* item = new QStandardItem(head);
            item->setSelectable(false);
            for (size_t c = 0; c < maps.size(); ++c) item->appendRow(new QStandardItem);
            m_model->appendRow(item);
        }
        m_list->expandAll();
    }
    for (int r = 0; r < m_model->rowCount(); ++r) {
        const auto& [head, maps] = wanted[size_t(r)];
        for (size_t c = 0; c < maps.size(); ++c) {
            QStandardItem* item = head.isNull() ? m_model->item(r) : m_model->item(r)->child(int(c));
            fillItem(item, *maps[c]);
            if (maps[c]->id != m_current || m_list->currentIndex() == item->index()) continue;
            m_list->selectionModel()->setCurrentIndex(item->index(), QItemSelectionModel::ClearAndSelect);
            m_list->scrollTo(item->index());
        }
    }
}

void MapsPage::fillFacts() {
    const MapFile* m = m_session.project().map(m_current);
    const auto k = m ? m_service.knowledge(*m) : nullptr;
    m_title->setText(m ? text(m->name) : tr("No map chosen"));
    for (QWidget* w :
         {static_cast<QWidget*>(m_kind), static_cast<QWidget*>(m_role), static_cast<QWidget*>(m_wrap), static_cast<QWidget*>(m_setName)})
        w->setEnabled(m != nullptr);
    while (QLayoutItem* i = m_remarks->takeAt(0)) {
        if (QWidget* w = i->widget()) w->deleteLater();
        delete i;
    }
    m_reason->clear();
    m_numbers->clear();
    m_readers->clear();
    if (!m) return;
    m_kind->setCurrentIndex(int(m->kind));
    m_role->setCurrentIndex(std::max(0, m_role->findData(text(m->role))));
    m_wrap->setCurrentIndex(int(m->wrap));
    if (!m_setName->hasFocus()) m_setName->setText(text(m->set));
    QString numbers = text(m->path);
    if (k && k->problem.empty()) {
        const auto format = blockFormatByKey(m->format);
        numbers = tr("%1 x %2, %3, %4\n%5: %6 MB with levels\n%7")
                      .arg(k->facts.width)
                      .arg(k->facts.height)
                      .arg(counted(k->facts.channels, tr("channel"), tr("channels")))
                      .arg(text(nameOf(k->facts.type)))
                      .arg(format ? text(infoOf(*format).name) : tr("plain"))
                      .arg(double(cardBytes(m->format, k->facts.width, k->facts.height, k->facts.channels, k->facts.type)) / 1e6, 0, 'f', 2)
                      .arg(text(m->path));
        m_reason->setText(
            tr("Guess: %1. %2")
                .arg(text(k->guess.role.empty() ? std::string(nameOf(k->guess.kind)) : k->guess.role), text(k->guess.reason)));
    }
    if (m->origin.from == MapOrigin::From::Wire)
        numbers += tr("\nMade from a wire of %1; follows it.").arg(text(m_session.project().nameOf(m->origin.worn)));
    if (m->origin.from == MapOrigin::From::Packing) numbers += tr("\nPacked; follows its sources.");
    if (m->origin.from == MapOrigin::From::Words) numbers += tr("\nWords: %1").arg(text(m->origin.words).simplified());
    m_numbers->setText(numbers);
    // Findings of this map, each with its mend.
    for (const Diagnostic& d : mapFindings(m_session.project(), m_session.assets(), m_service.index(), m->id)) {
        QString sentence = text(d.sentence);
        const QString head = tr("The map %1: ").arg(text(m->name));
        if (sentence.startsWith(head)) sentence = sentence.mid(head.size());
        auto* label = new QLabel((d.severity == Severity::Advice ? QStringLiteral("\u2013 ") : QStringLiteral("\u25B3 ")) + sentence);
        label->setWordWrap(true);
        m_remarks->addWidget(label);
        for (const Fix& f : d.fixes) {
            auto* b = new QPushButton(text(f.label));
            connect(b, &QPushButton::clicked, this, [this, f] { m_session.apply(text(f.label), f.edit); });
            m_remarks->addWidget(b);
        }
    }
    QStringList readers;
    for (const std::string& r : edit::readersOf(m_session.project(), m->id)) readers << text(r);
    if (!readers.isEmpty()) m_readers->setText(tr("Read by %1.").arg(readers.join(tr(", "))));
}

void MapsPage::showJob() {
    m_job->setVisible(m_service.busy());
    m_jobName->setText(m_service.jobName());
    // Until it tells how far it is.
    m_progress->setRange(0, 0);
}

bool MapsPage::bringIn(const QStringList& wanted) {
    if (wanted.isEmpty()) return false;
    place().show("maps");
    bringInMaps(m_session, m_service, wanted, [self = QPointer<MapsPage>(this)](const Id& first) {
        if (self) self->choose(first);
    });
    return true;
}

void MapsPage::removeMap() {
    const Id id = m_current;
    m_session.apply(tr("remove map"), [&](const Project& p) { return edit::removeMap(p, id); });
}

void MapsPage::menuAt(QPoint at) {
    const QModelIndex index = m_list->indexAt(at);
    if (index.data(IdRole).toString().isEmpty()) return;
    QMenu menu;
    menu.addAction(tr("Rename"), this, [this] {
        const MapFile* m = m_session.project().map(m_current);
        bool ok = false;
        const QString name = QInputDialog::getText(this, tr("Rename map"), tr("Name"), QLineEdit::Normal, text(m->name), &ok);
        if (!ok || name.trimmed().isEmpty()) return;
        MapFile changed = *m;
        changed.name = name.trimmed().toStdString();
        m_session.apply(tr("rename map"), [&](const Project& p) { return edit::changeMap(p, changed); });
    });
    menu.addAction(tr("Wear its set"), this, [this] { wearMapSet(m_session, m_current); });
    menu.addAction(tr("Swap its set for another"), this, [this] { swapMapSets(m_session, m_current, this); });
    menu.addAction(tr("Remove"), this, &MapsPage::removeMap);
    menu.exec(m_list->viewport()->mapToGlobal(at));
}

void MapsPage::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasUrls()) e->acceptProposedAction();
}

void MapsPage::dropEvent(QDropEvent* e) {
    QStringList files;
    for (const QUrl& url : e->mimeData()->urls()) files << url.toLocalFile();
    bringIn(files);
}

} // namespace hue
