#include "app/stations/paint/channel_panel.h"

#include "app/parts/theme.h"
#include "app/session/finish_menu.h"
#include "app/stations/paint/choice_button.h"
#include "core/edits/edits.h"
#include "core/paint/fill_rules.h"
#include "core/tap/swatches.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <QCompleter>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QPainter>
#include <QPushButton>
#include <QSignalBlocker>
#include <QStyledItemDelegate>
#include <QToolButton>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }
QString text(std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); }

constexpr int kName = Qt::UserRole, kMean = Qt::UserRole + 1, kRead = Qt::UserRole + 2, kFinish = Qt::UserRole + 3;
constexpr int kRow = 44, kSwatch = 28;

/// Key, swatch and name of the finish that it shows, and a bar as long as the channel is painted in the mean.
class ChannelRow : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;
    QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override { return {100, kRow}; }
    void paint(QPainter* p, const QStyleOptionViewItem& o, const QModelIndex& index) const override {
        const Theme& t = theme();
        const bool chosen = o.state & QStyle::State_Selected;
        const QColor ink = chosen ? t.card : index.data(kRead).toBool() ? t.ink : t.ink2;
        p->fillRect(o.rect, chosen ? t.ink : t.card);
        p->setPen(ink);
        p->setFont(codeFont(11));
        p->drawText(o.rect.adjusted(8, 0, 0, -8), Qt::AlignLeft | Qt::AlignVCenter, QString::number(index.row() + 1));
        const QRect swatch(o.rect.left() + 22, o.rect.top() + 8, kSwatch, kSwatch);
        if (const QImage picture = index.data(Qt::DecorationRole).value<QImage>(); !picture.isNull()) p->drawImage(swatch, picture);
        const int left = swatch.right() + 8, wide = o.rect.right() - left;
        const QString finish = index.data(kFinish).toString();
        p->setFont(textFont(13, index.data(kRead).toBool()));
        const double mean = index.data(kMean).toDouble();
        const QRect lines(left, o.rect.top() + 4, wide - 44, 30), all(left, o.rect.top() + 4, wide - 8, 30);
        p->drawText(lines, Qt::AlignLeft | (finish.isEmpty() ? Qt::AlignVCenter : Qt::AlignTop),
                    p->fontMetrics().elidedText(index.data(kName).toString(), Qt::ElideRight, lines.width()));
        p->setFont(codeFont(11));
        p->drawText(all, Qt::AlignRight | (finish.isEmpty() ? Qt::AlignVCenter : Qt::AlignTop), QString("%1 %").arg(100 * mean, 0, 'f', 0));
        p->setFont(textFont(11));
        p->setPen(chosen ? t.card : t.ink2);
        p->drawText(all, Qt::AlignLeft | Qt::AlignBottom, p->fontMetrics().elidedText(finish, Qt::ElideRight, all.width()));
        const QRect bar(left, o.rect.bottom() - 6, wide - 8, 3);
        p->fillRect(bar, chosen ? t.ink2 : t.hairline);
        p->fillRect(QRect(bar.topLeft(), QSize(int(std::lround(mean * bar.width())), bar.height())), ink);
        p->setPen(t.hairline);
        p->drawLine(o.rect.bottomLeft(), o.rect.bottomRight());
    }
};

QLabel* heading(const QString& words) {
    auto* l = new QLabel(words);
    l->setProperty("second", true);
    return l;
}

} // namespace

ChannelPanel::ChannelPanel(Session& session, PaintDesk& desk, QWidget* parent) : QWidget(parent), m_session(session), m_desk(desk) {
    setFixedWidth(236);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 8, 10, 8);
    column->setSpacing(6);
    m_specimen = new QComboBox;
    m_specimen->setObjectName("paintSpecimen");
    m_specimen->setAccessibleName(tr("Specimen"));
    m_specimen->setToolTip(tr("Which specimen of the lineup is painted"));
    connect(m_specimen, &QComboBox::currentIndexChanged, this, [this](int index) {
        if (!m_refreshing && index >= 0) m_desk.setSpecimen(size_t(index));
    });
    column->addWidget(m_specimen);
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    m_paintwork = new QComboBox;
    m_paintwork->setObjectName("paintwork");
    m_paintwork->setAccessibleName(tr("Paintwork"));
    m_paintwork->setToolTip(tr("What the specimen has painted on its mesh. Two specimens of one mesh may wear different paintworks."));
    connect(m_paintwork, &QComboBox::currentIndexChanged, this, [this](int) {
        if (!m_refreshing) m_desk.wear(m_paintwork->currentData().toString().toStdString());
    });
    row->addWidget(m_paintwork, 1);
    m_menuButton = new QToolButton;
    m_menuButton->setObjectName("paintworkMenu");
    m_menuButton->setText("\u2026");
    m_menuButton->setAccessibleName(tr("New, rename, remove"));
    m_menuButton->setToolTip(tr("New paintwork, rename, remove"));
    m_menuButton->setPopupMode(QToolButton::InstantPopup);
    auto* menu = new QMenu(m_menuButton);
    m_menuButton->setMenu(menu);
    connect(menu, &QMenu::aboutToShow, this, &ChannelPanel::fillMenu);
    row->addWidget(m_menuButton);
    column->addLayout(row);

    column->addWidget(heading(tr("Channels")));
    m_channels = new QListWidget;
    m_channels->setObjectName("paintChannels");
    m_channels->setAccessibleName(tr("Channels"));
    m_channels->setToolTip(tr("The channel that the brush and rules change; keys 1 to 8. The bar is its mean over the vertices."));
    m_channels->setItemDelegate(new ChannelRow(m_channels));
    m_channels->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    for (int c = 0; c < PaintData::kChannels; ++c) m_channels->addItem(QString());
    connect(m_channels, &QListWidget::currentRowChanged, this, [this](int at) {
        if (!m_refreshing && at >= 0) m_desk.setChannel(at);
    });
    column->addWidget(m_channels);

    column->addWidget(heading(tr("Seen")));
    auto* seen = new QHBoxLayout;
    seen->setSpacing(2);
    m_shown = new QButtonGroup(this);
    const std::tuple<PaintShown, QString, const char*, QString> all[] = {
        {PaintShown::Drawn, tr("worn"), "paintSeenDrawn", tr("As what the specimen wears shows it, in the view of the lineup")},
        {PaintShown::Alone, tr("alone"), "paintSeenAlone", tr("The chosen channel alone, black where nothing is painted")},
        {PaintShown::Weights, tr("weights"), "paintSeenWeights", tr("The first three channels as red, green and blue")},
        {PaintShown::Sum, tr("sum"), "paintSeenSum", tr("All channels that are read, added up; red where that is more than 1")}};
    for (const auto& [shown, name, object, tip] : all) {
        QToolButton* b = choiceButton(name, object, tip);
        m_shown->addButton(b, int(shown));
        seen->addWidget(b);
    }
    connect(m_shown, &QButtonGroup::idClicked, this, [this](int id) { m_desk.setShown(PaintShown(id)); });
    column->addLayout(seen);
    auto* over = new QHBoxLayout;
    const auto check = [&](const QString& name, const char* object, const QString& tip) {
        auto* c = new QCheckBox(name);
        c->setObjectName(object);
        c->setToolTip(tip);
        connect(c, &QCheckBox::toggled, this, [this] { Q_EMIT overlayChanged(m_vertices->isChecked(), m_edges->isChecked()); });
        over->addWidget(c);
        return c;
    };
    m_vertices = check(tr("vertices"), "paintVertices", tr("Vertices over the picture, as dark as the channel is there"));
    m_edges = check(tr("edges"), "paintEdges", tr("Edges of the triangles over the picture"));
    over->addStretch();
    column->addLayout(over);

    column->addWidget(heading(tr("Fill by a rule")));
    m_rule = new QLineEdit;
    m_rule->setObjectName("paintRule");
    m_rule->setAccessibleName(tr("Rule"));
    m_rule->setPlaceholderText(tr("height 0..1.2"));
    m_rule->setToolTip(tr("What the channel is filled by; behind it may stand replace, add, subtract, multiply, largest or smallest, and "
                          "weight 0.5. Enter fills."));
    QStringList rules;
    for (const FillRuleDef& d : fillRules()) rules << text(d.key);
    auto* completer = new QCompleter(rules, m_rule);
    completer->setCaseSensitivity(Qt::CaseInsensitive);
    m_rule->setCompleter(completer);
    connect(m_rule, &QLineEdit::textChanged, this, [this](const QString& words) {
        const QString first = words.section(' ', 0, 0);
        QStringList known;
        for (const FillRuleDef& d : fillRules()) {
            if (text(d.key) == first) return m_ruleHelp->setText(tr("%1 %2: %3").arg(text(d.key), text(d.takes), text(d.help)));
            if (!first.isEmpty() && text(d.key).startsWith(first)) known << text(d.key);
        }
        m_ruleHelp->setText(first.isEmpty() || known.isEmpty() ? tr("direction, height, edges, cavities, occlusion, border, noise, wire, "
                                                                    "constant; blur, invert and levels change what is there")
                                                               : known.join(", "));
    });
    auto* rule = new QHBoxLayout;
    rule->setSpacing(4);
    rule->addWidget(m_rule, 1);
    m_fill = new QPushButton(tr("Fill"));
    m_fill->setObjectName("paintFill");
    m_fill->setToolTip(tr("Fills the chosen channel of the whole mesh; one step of undo"));
    rule->addWidget(m_fill);
    column->addLayout(rule);
    m_keepLive = new QPushButton(tr("Keep"));
    m_keepLive->setObjectName("paintKeepLive");
    m_keepLive->setToolTip(
        tr("Keeps the rule live, above the other kept ones and below what the hand has painted: it is reckoned again when "
           "the mesh or a wire that it names has changed"));
    rule->addWidget(m_keepLive);
    connect(m_keepLive, &QPushButton::clicked, this, [this] {
        const std::string words = m_rule->text().trimmed().toStdString();
        if (words.empty()) return m_session.say(tr("Type a rule, such as height 0..1.2."));
        std::vector<std::string> kept = m_desk.live();
        kept.push_back(words);
        m_desk.setLive(kept);
    });
    const auto fill = [this] {
        if (m_desk.filling()) return m_desk.cancelFill();
        if (m_rule->text().trimmed().isEmpty()) return m_session.say(tr("Type a rule, such as height 0..1.2."));
        m_desk.fill(m_rule->text().trimmed());
    };
    connect(m_fill, &QPushButton::clicked, this, fill);
    connect(m_rule, &QLineEdit::returnPressed, this, fill);
    connect(&desk, &PaintDesk::fillProgress, this, [this](bool running) { m_fill->setText(running ? tr("Cancel") : tr("Fill")); });
    m_ruleHelp = new QLabel;
    m_ruleHelp->setWordWrap(true);
    m_ruleHelp->setProperty("second", true);
    column->addWidget(m_ruleHelp);
    m_liveHead = heading(tr("Kept below the hand"));
    column->addWidget(m_liveHead);
    m_live = new QListWidget;
    m_live->setObjectName("paintLive");
    m_live->setAccessibleName(tr("Rules that are kept, the highest first"));
    m_live->setToolTip(tr("Rules that stay below what the hand has painted, the highest first: drag to order, F2 changes one, Delete "
                          "removes it and lets the rest show."));
    m_live->setDragDropMode(QAbstractItemView::InternalMove);
    m_live->setEditTriggers(QAbstractItemView::EditKeyPressed | QAbstractItemView::DoubleClicked);
    m_live->setMaximumHeight(96);
    m_live->setSpacing(1);
    column->addWidget(m_live);
    // Rows are made anew by what follows, so the list ends what it is at first.
    const auto later = [this] {
        if (!m_refreshing) QMetaObject::invokeMethod(this, &ChannelPanel::liveEdited, Qt::QueuedConnection);
    };
    connect(m_live, &QListWidget::itemChanged, this, later);
    connect(m_live->model(), &QAbstractItemModel::rowsMoved, this, later);
    auto* remove = new QAction(tr("Remove the rule"), m_live);
    remove->setShortcut(QKeySequence::Delete);
    remove->setShortcutContext(Qt::WidgetShortcut);
    m_live->addAction(remove);
    connect(remove, &QAction::triggered, this, [this, later] {
        delete m_live->takeItem(m_live->currentRow());
        later();
    });
    column->addStretch();
    m_hint = new QLabel;
    m_hint->setObjectName("paintHint");
    m_hint->setWordWrap(true);
    column->addWidget(m_hint);
    m_place = new QPushButton(tr("Place a card that reads it"));
    m_place->setObjectName("paintPlaceCard");
    m_place->setToolTip(tr("Puts a Painted channel card on the board of what the specimen wears, and goes there"));
    connect(m_place, &QPushButton::clicked, this, [this] {
        m_desk.placeCard();
        Q_EMIT graphWanted();
    });
    column->addWidget(m_place);
    m_mixOver = new QPushButton(tr("Mix a finish over it"));
    m_mixOver->setObjectName("paintMixOver");
    m_mixOver->setToolTip(tr("What the specimen wears becomes a finish, and another lies over it where a channel is painted"));
    connect(m_mixOver, &QPushButton::clicked, this, [this] {
        const auto specimen = m_desk.alone();
        const Master* master = specimen && !specimen->wears.empty() ? m_session.project().masterOf(specimen->wears[0]) : nullptr;
        if (!master) return m_session.say(tr("The specimen wears no master. Choose one for it in the lineup."));
        askMixOver(m_session, master->id, this, m_mixOver->mapToGlobal(QPoint(0, m_mixOver->height())), [this] {
            const std::vector<ReadChannel>& read = m_desk.read();
            if (!read.empty()) m_desk.setChannel(read.back().channel);
        });
    });
    column->addWidget(m_mixOver);

    connect(&desk, &PaintDesk::changed, this, &ChannelPanel::refresh);
    connect(&desk, &PaintDesk::surfaceChanged, this, &ChannelPanel::refresh);
    connect(&desk, &PaintDesk::painted, this, [this] {
        if (!m_desk.painting()) refresh();
    });
    Q_EMIT m_rule->textChanged({});
    refresh();
}

void ChannelPanel::typeRule() {
    m_rule->setFocus();
    m_rule->selectAll();
}

void ChannelPanel::fillMenu() {
    QMenu* menu = m_menuButton->menu();
    menu->clear();
    menu->addAction(tr("New paintwork"), &m_desk, qOverload<>(&PaintDesk::begin))->setEnabled(m_desk.surface() != nullptr);
    menu->addAction(tr("Make the mesh finer"), &m_desk, &PaintDesk::makeFiner)->setEnabled(m_desk.surface() != nullptr);
    const Paintwork* w = m_desk.paintwork();
    menu->addAction(tr("Rename"), this, &ChannelPanel::chooseName)->setEnabled(w);
    menu->addAction(tr("Remove"), this,
                    [this] {
                        if (const Paintwork* its = m_desk.paintwork())
                            m_session.apply(tr("remove paintwork"),
                                            [id = its->id](const Project& p) { return edit::removePaintwork(p, id); });
                    })
        ->setEnabled(w);
}

void ChannelPanel::chooseName() {
    const Paintwork* w = m_desk.paintwork();
    if (!w) return;
    bool good = false;
    const QString name = QInputDialog::getText(this, tr("Rename"), tr("Name of the paintwork"), QLineEdit::Normal, text(w->name), &good);
    if (good)
        m_session.apply(tr("rename paintwork"),
                        [id = w->id, name](const Project& p) { return edit::renamePaintwork(p, id, name.toStdString()); });
}

void ChannelPanel::refresh() {
    m_refreshing = true;
    const Project& p = m_session.project();
    {
        const QSignalBlocker quiet(m_specimen);
        m_specimen->clear();
        for (size_t i = 0; i < p.lineup.specimens.size(); ++i) {
            QStringList worn;
            for (const Id& id : p.lineup.specimens[i].wears) worn << (id.empty() ? tr("nothing") : text(p.nameOf(id)));
            m_specimen->addItem(tr("%1: %2").arg(i + 1).arg(worn.join(" + ")));
        }
        m_specimen->setCurrentIndex(int(m_desk.specimen()));
    }
    {
        const QSignalBlocker quiet(m_paintwork);
        m_paintwork->clear();
        m_paintwork->addItem(tr("no paintwork"), QString());
        const auto s = m_desk.alone();
        for (const auto& w : p.paintworks)
            if (s && w->mesh == s->mesh) m_paintwork->addItem(text(w->name), text(w->id));
        m_paintwork->setCurrentIndex(std::max(0, m_paintwork->findData(s ? text(s->paintwork) : QString())));
    }
    if (QAbstractButton* b = m_shown->button(int(m_desk.shown()))) b->setChecked(true);
    const std::vector<ReadChannel>& read = m_desk.read();
    int listed = 0;
    for (int c = 0; c < PaintData::kChannels; ++c) {
        QListWidgetItem* item = m_channels->item(c);
        const auto of = std::find_if(read.begin(), read.end(), [c](const ReadChannel& r) { return r.channel == c; });
        const bool isRead = of != read.end();
        item->setData(kRead, isRead);
        item->setData(kName, m_desk.channelName(c));
        const QString finish = of == read.end() ? QString() : text(of->finishName);
        item->setData(kFinish, finish.compare(m_desk.channelName(c), Qt::CaseInsensitive) == 0 ? QString() : finish);
        item->setToolTip(!isRead            ? tr("Nothing that the specimen wears reads this channel")
                         : finish.isEmpty() ? QString()
                                            : tr("Where it is painted lies the finish %1").arg(finish));
        // The second four are there for who needs them.
        const bool wanted = c < 4 || isRead || c == m_desk.channel() || (m_desk.paint() && m_desk.paint()->isPainted(c));
        item->setHidden(!wanted);
        listed += wanted;
    }
    m_channels->setFixedHeight(std::min(listed, 6) * kRow + 2);
    m_channels->setCurrentRow(m_desk.channel());
    refreshShares();
    refreshSwatches();
    refreshLive();
    const QString hint = m_desk.hint();
    m_hint->setText(hint);
    m_hint->setVisible(!hint.isEmpty());
    m_place->setVisible(!hint.isEmpty() && m_desk.alone());
    m_mixOver->setVisible(!hint.isEmpty() && m_desk.alone());
    m_refreshing = false;
}

void ChannelPanel::refreshLive() {
    const std::vector<std::string> rules = m_desk.live();
    for (QWidget* w : {static_cast<QWidget*>(m_liveHead), static_cast<QWidget*>(m_live)}) w->setVisible(!rules.empty());
    if (rules == rulesShown()) return; // who is typing there goes on
    const int row = m_live->currentRow();
    m_live->clear();
    for (auto r = rules.rbegin(); r != rules.rend(); ++r) {
        auto* item = new QListWidgetItem(text(*r), m_live);
        item->setFlags((item->flags() | Qt::ItemIsEditable) & ~Qt::ItemIsDropEnabled);
    }
    m_live->setCurrentRow(std::min(row, m_live->count() - 1));
}

std::vector<std::string> ChannelPanel::rulesShown() const {
    std::vector<std::string> rules;
    for (int row = m_live->count() - 1; row >= 0; --row)
        if (const QString words = m_live->item(row)->text().trimmed(); !words.isEmpty()) rules.push_back(words.toStdString());
    return rules;
}

void ChannelPanel::liveEdited() {
    if (const std::vector<std::string> rules = rulesShown(); rules != m_desk.live()) m_desk.setLive(rules);
    else refreshLive();
}

void ChannelPanel::refreshShares() {
    const PaintDataPtr paint = m_desk.paint();
    for (int c = 0; c < PaintData::kChannels; ++c) {
        const float mean = paint && paint->isPainted(c) ? shareOf(paint->channel(c)).mean : 0;
        QListWidgetItem* item = m_channels->item(c);
        item->setData(kMean, double(mean));
        const QString finish = item->data(kFinish).toString(), name = item->data(kName).toString();
        item->setData(
            Qt::AccessibleTextRole,
            tr("%1, %2 hundredths painted").arg(finish.isEmpty() ? name : tr("%1, finish %2").arg(name, finish)).arg(int(100 * mean)));
    }
}

void ChannelPanel::refreshSwatches() {
    using Swatches = std::map<int, QImage>;
    m_session.runner().run(
        {.owner = this, .kind = "swatches", .newer = Newer::Waits},
        [snapshot = m_session.snapshot(), files = m_session.files(), read = m_desk.read(), time = m_session.time()](const Work&) {
            Swatches out;
            for (const ReadChannel& r : read) {
                if (!r.finish) continue;
                if (const auto swatch = swatchOf(*snapshot, r.worn, *r.finish, files->assets, time, kSwatch))
                    out[r.channel] = QImage(reinterpret_cast<const uchar*>(swatch->rgb.data()), swatch->side, swatch->side,
                                            4 * swatch->side, QImage::Format_RGB32)
                                         .copy();
            }
            return out;
        },
        [this](const Swatches& swatches) {
            for (int c = 0; c < PaintData::kChannels; ++c) {
                const auto swatch = swatches.find(c);
                m_channels->item(c)->setData(Qt::DecorationRole, swatch == swatches.end() ? QVariant() : QVariant(swatch->second));
            }
        });
}

} // namespace hue
