#include "app/stations/graph/surface_rail.h"

#include "app/parts/fields.h"
#include "app/parts/known_values.h"
#include "app/parts/theme.h"
#include "app/session/finish_menu.h"
#include "app/stations/graph/whole_row.h"
#include "core/check/idle_channels.h"
#include "core/edits/edits.h"
#include "core/nodes/finish.h"
#include "core/surface/channels.h"

#include <QKeyEvent>
#include <QLabel>
#include <QMenu>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QScrollBar>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); }
constexpr int kSwatchSide = 28;

} // namespace

ChannelRow::ChannelRow(Session& session, const ChannelDef& channel, QWidget* parent)
    : QWidget(parent), m_session(session), m_channel(channel) {
    setFocusPolicy(Qt::StrongFocus);
    setObjectName("channel_" + text(channel.key));
    setAccessibleName(text(channel.name));
    const float high = channel.comfortable > 0 ? channel.comfortable : channel.high;
    setToolTip(tr("%1. %2 to %3%4.\nClick the swatch to see this channel alone.")
                   .arg(text(channel.help))
                   .arg(double(channel.low))
                   .arg(double(high))
                   .arg(channel.unit.empty() ? QString() : " " + text(channel.unit)));
    m_field = new ValueField(this);
    m_field->setAccessibleName(text(channel.name));
    m_field->setColor(channel.meaning == Meaning::Color);
    m_field->setRange(channel.low, high);
    m_field->setUnit(text(channel.unit));
    if (channel.key == "ior" || channel.key == "iridescence_ior") m_field->setKnown(knownRefraction());
    if (channel.key == "base_color") m_field->setKnown(knownColors());
    m_field->setValue(channel.standard);
    m_mute = new QToolButton(this);
    m_mute->setText("\u2298");
    m_mute->setCheckable(true);
    m_mute->setAccessibleName(tr("Mute %1").arg(text(channel.name)));
    m_mute->setToolTip(tr("Mute: show the surface without this channel; its wire stays"));
    m_switch = new QPushButton(this);
    m_switch->hide();
    const std::string key(channel.key);
    connect(m_field, &ValueField::edited, this, [this, key](const Value& v) {
        m_session.apply(
            tr("change %1").arg(text(m_channel.name)),
            [&](const Project& p) { return edit::setChannelConstant(p, m_session.masterId(), key, v); }, "channel" + text(key));
    });
    connect(m_field, &ValueField::editingDone, &session, &Session::endRow);
    connect(m_mute, &QToolButton::clicked, this, [this, key](bool on) {
        m_session.apply(on ? tr("mute channel") : tr("unmute channel"),
                        [&](const Project& p) { return edit::muteChannel(p, m_session.masterId(), key, on); });
    });
    connect(m_switch, &QPushButton::clicked, this, &ChannelRow::switchClicked);
}

void ChannelRow::refresh(const QImage& swatch, bool wired, bool fed, bool muted, const QString& inactive, const QString& wake) {
    m_swatch = swatch;
    m_wired = wired;
    m_fed = fed;
    m_muted = muted;
    m_inactive = inactive;
    const bool editable = !wired && !fed && inactive.isEmpty() && m_channel.meaning != Meaning::Normal;
    m_field->setVisible(editable);
    m_mute->setVisible(wired && inactive.isEmpty());
    m_mute->setChecked(muted);
    m_switch->setVisible(!inactive.isEmpty());
    m_switch->setText(wake);
    m_switch->setToolTip(tr("%1: %2").arg(inactive, wake));
    setFixedHeight(inactive.isEmpty() ? 36 : 58);
    const int left = 12 + kSwatchSide + 8;
    m_field->setGeometry(left, 3, width() - left - 10, 30);
    m_field->setBesideName(true);
    m_mute->setGeometry(width() - 34, 6, 26, 24);
    m_switch->setGeometry(left, 32, width() - left - 10, 24);
    update();
}

void ChannelRow::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = theme();
    const bool active = m_inactive.isEmpty();
    const QRect swatch(12, 4, kSwatchSide, kSwatchSide);
    if (active && !m_swatch.isNull()) p.drawImage(swatch, m_swatch);
    p.setPen(QPen(hasFocus() ? t.ink : t.hairline, hasFocus() ? 2 : 1));
    p.setBrush(Qt::NoBrush);
    if (active) {
        p.drawRect(swatch);
    } else {
        // A lock: body and shackle.
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(t.ink2, 1.5));
        p.drawRoundedRect(QRectF(17.5, 15.5, 17, 12), 2, 2);
        p.drawArc(QRectF(21, 7, 10, 16), 0, 180 * 16);
    }
    p.setFont(textFont(13, m_wired));
    p.setPen(active && !m_muted ? t.ink : t.ink2);
    const int left = 12 + kSwatchSide + 8;
    const bool editable = active && !m_wired && !m_fed;
    const int room = width() - left - (editable ? m_field->figureWidth() + 12 : 8);
    p.drawText(QRect(left, editable ? 4 : 2, room, active && m_wired ? 32 : 18), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(text(m_channel.name), Qt::ElideRight, room));
    if (active && m_fed) {
        p.setFont(textFont(11));
        p.setPen(t.ink2);
        p.drawText(QRect(left, 18, width() - left - 4, 14), Qt::AlignLeft | Qt::AlignVCenter, tr("from the finish"));
    }
    if (!active) {
        p.setFont(textFont(11));
        p.drawText(QRect(left, 17, width() - left - 4, 14), Qt::AlignLeft | Qt::AlignVCenter, m_inactive);
    }
    if (m_wired) {
        p.setPen(QPen(t.ink, 2.4));
        p.drawLine(0, 18, 9, 18);
    } else if (active) {
        p.setPen(QPen(t.ink2, 1.4));
        p.drawLine(0, 18, 5, 18);
    }
}

void ChannelRow::mousePressEvent(QMouseEvent* e) {
    if (e->position().x() < 12 + kSwatchSide + 4) Q_EMIT swatchClicked();
}

void ChannelRow::keyPressEvent(QKeyEvent* e) {
    if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Space) Q_EMIT swatchClicked();
    else QWidget::keyPressEvent(e);
}

void ChannelRow::contextMenuEvent(QContextMenuEvent* e) {
    auto* menu = new QMenu(this);
    menu->setObjectName("channelMenu");
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->setToolTipsVisible(true);
    menu->addAction(tr("Show this channel alone"), this, &ChannelRow::swatchClicked);
    QAction* expose = menu->addAction(tr("Expose as parameter"), this, &ChannelRow::exposeWanted);
    expose->setEnabled(!m_wired && m_inactive.isEmpty());
    expose->setToolTip(m_wired ? tr("A wire leads to it already") : tr("A parameter with the channel's name, range and help drives it"));
    menu->popup(e->globalPos());
}

SurfaceRail::SurfaceRail(Session& session, BoardService& service, QWidget* parent)
    : QWidget(parent), m_session(session), m_service(service) {
    setObjectName("panel");
    setAttribute(Qt::WA_StyledBackground);
    setFixedWidth(206);
    setAccessibleName(tr("Surface rail"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 8, 0, 8);
    column->setSpacing(2);
    auto* title = new QHBoxLayout;
    title->setContentsMargins(12, 0, 6, 0);
    auto* head = new QLabel(tr("Surface"));
    head->setProperty("title", true);
    title->addWidget(head, 1);
    m_kind = new QToolButton;
    m_kind->setObjectName("surfaceKind");
    m_kind->setAccessibleName(tr("Surface kind"));
    m_kind->setToolTip(tr("What the surface is made like: a starting point, and the layers it has"));
    m_kind->setPopupMode(QToolButton::InstantPopup);
    auto* kinds = new QMenu(m_kind);
    kinds->setToolTipsVisible(true);
    connect(kinds, &QMenu::aboutToShow, this, [this, kinds] { fillKindMenu(kinds); });
    m_kind->setMenu(kinds);
    title->addWidget(m_kind);
    column->addLayout(title);
    auto* row = new QHBoxLayout;
    row->setContentsMargins(6, 0, 6, 0);
    row->setSpacing(0);
    auto button = [&](const QString& name, const QString& tip) {
        auto* b = new QToolButton;
        b->setAccessibleName(name);
        b->setToolTip(tip);
        row->addWidget(b);
        return b;
    };
    m_alphaMode = button(tr("Alpha mode"), tr("Opaque, cut out by a mask, or see-through"));
    m_alphaMode->setPopupMode(QToolButton::InstantPopup);
    auto* menu = new QMenu(m_alphaMode);
    for (AlphaMode mode : {AlphaMode::Opaque, AlphaMode::Mask, AlphaMode::Blend})
        menu->addAction(text(nameOf(mode)), this,
                        [this, mode] { changeSurface(tr("change alpha mode"), [mode](SurfaceSettings& s) { s.alphaMode = mode; }); });
    m_alphaMode->setMenu(menu);
    m_sides = button(tr("Double sided"), tr("Whether back faces are drawn too"));
    row->addStretch();
    connect(m_sides, &QToolButton::clicked, this,
            [this] { changeSurface(tr("change double sided"), [](SurfaceSettings& s) { s.doubleSided = !s.doubleSided; }); });
    column->addLayout(row);
    auto* cut = new QHBoxLayout;
    cut->setContentsMargins(12, 0, 10, 0);
    m_cutoffLabel = new QLabel(tr("Alpha cutoff"));
    m_cutoff = new ValueField;
    m_cutoff->setAccessibleName(tr("Alpha cutoff"));
    cut->addWidget(m_cutoffLabel);
    cut->addWidget(m_cutoff);
    column->addLayout(cut);
    connect(m_cutoff, &ValueField::edited, this, [this](const Value& v) {
        const Master* m = m_session.master();
        SurfaceSettings s = m->surface;
        s.alphaCutoff = v[0];
        m_session.apply(
            tr("change alpha cutoff"), [&](const Project& p) { return edit::setSurface(p, m->id, s); }, "cutoff");
    });
    connect(m_cutoff, &ValueField::editingDone, &session, &Session::endRow);
    auto* body = new QWidget;
    auto* list = new QVBoxLayout(body);
    list->setContentsMargins(0, 0, 0, 0);
    list->setSpacing(0);
    m_whole = new WholeRow(session, body);
    list->addWidget(m_whole);
    for (const ChannelDef& channel : channels()) {
        auto* r = new ChannelRow(session, channel, body);
        m_rows.push_back(r);
        list->addWidget(r);
        const std::string key(channel.key);
        connect(r, &ChannelRow::swatchClicked, this, [this, key] { Q_EMIT viewWanted(QString::fromStdString(key)); });
        connect(r, &ChannelRow::exposeWanted, this, [this, key] { Q_EMIT exposeWanted(QString::fromStdString(key)); });
        connect(r, &ChannelRow::switchClicked, this, [this, key] {
            const Master* m = m_session.master();
            const auto idle = m ? inactive(*m, key) : std::nullopt;
            if (!idle) return;
            const SurfaceSettings before = m->surface;
            m_session.apply(tr("wake %1").arg(QString::fromStdString(key)), idle->wake.edit);
            // A layer brings more than the one channel.
            if (const Master* now = m_session.master(); now && now->surface.layers != before.layers) {
                const SurfaceKind added{{}, {}, {}, now->surface.layers};
                announce(QString::fromStdString(idle->wake.label), announcement(added, before));
            }
        });
    }
    m_more = new QToolButton;
    m_more->setObjectName("moreChannels");
    m_more->setToolTip(tr("Channels of layers that this surface does not have, each with the switch that adds it"));
    list->addWidget(m_more);
    connect(m_more, &QToolButton::clicked, this, [this] {
        m_showsAll = !m_showsAll;
        refresh();
    });
    list->addStretch();
    m_scroll = new QScrollArea;
    m_scroll->setWidgetResizable(true);
    m_scroll->setFrameShape(QFrame::NoFrame);
    m_scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_scroll->setWidget(body);
    body->setObjectName("panel");
    column->addWidget(m_scroll, 1);
    // Wires end at rows, so the board must follow when these move.
    connect(m_scroll->verticalScrollBar(), &QScrollBar::valueChanged, this, [this] {
        if (window()) window()->update();
        Q_EMIT moved();
    });
    m_announcement = new QFrame(this, Qt::Popup);
    m_announcement->setObjectName("panel");
    m_announcement->setFrameShape(QFrame::Box);
    auto* words = new QVBoxLayout(m_announcement);
    m_announced = new QLabel;
    m_announced->setWordWrap(true);
    m_announced->setMinimumWidth(340);
    m_announced->setTextFormat(Qt::PlainText);
    words->addWidget(m_announced);
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (what.any(Change::Graph | Change::Surface | Change::Names)) refresh();
    });
    connect(&session, &Session::masterShown, this, &SurfaceRail::refresh);
    connect(&service, &BoardService::factsChanged, this, &SurfaceRail::refresh);
    refresh();
}

void SurfaceRail::changeSurface(const QString& name, const std::function<void(SurfaceSettings&)>& change) {
    const Master* m = m_session.master();
    if (!m) return;
    SurfaceSettings s = m->surface;
    change(s);
    m_session.apply(name, [&](const Project& p) { return edit::setSurface(p, m->id, s); });
}

void SurfaceRail::fillKindMenu(QMenu* menu) {
    menu->clear();
    const Master* m = m_session.master();
    if (!m) return;
    const SurfaceKind* now = kindOf(m->surface);
    for (const SurfaceKind& kind : surfaceKinds()) {
        QAction* a = menu->addAction(text(kind.name), this, [this, &kind] { chooseKind(kind); });
        a->setToolTip(text(kind.help));
        a->setCheckable(true);
        a->setChecked(&kind == now);
    }
    menu->addSection(tr("Layers"));
    for (const LayerDef& layer : layers()) {
        QAction* a = menu->addAction(text(layer.name), this, [this, &layer] {
            const Master* master = m_session.master();
            const SurfaceSettings before = master->surface;
            changeSurface(tr("change layers"), [&](SurfaceSettings& s) { s.layers ^= uint32_t(layer.layer); });
            if (const Master* after = m_session.master(); after && after->surface.has(layer.layer))
                announce(text(layer.name), announcement({{}, {}, {}, uint32_t(layer.layer)}, before));
        });
        a->setToolTip(text(layer.help));
        a->setCheckable(true);
        a->setChecked(m->surface.has(layer.layer));
        a->setEnabled(!m->surface.unlit && !m->surface.simpleDiffuse);
    }
    menu->addSeparator();
    QAction* fade = menu->addAction(tr("Highlights fade with alpha"), this, [this] {
        changeSurface(tr("change highlights"), [](SurfaceSettings& s) { s.highlightsFade = !s.highlightsFade; });
    });
    fade->setToolTip(tr("With blend: reflections go with alpha, as on smoke; or they stay, as on clear film and water"));
    fade->setCheckable(true);
    fade->setChecked(m->surface.highlightsFade);
    fade->setEnabled(m->surface.alphaMode == AlphaMode::Blend);
    menu->addAction(tr("Mix a finish over it by paint"), this,
                    [this] { askMixOver(m_session, m_session.masterId(), this, m_kind->mapToGlobal(QPoint(0, m_kind->height()))); })
        ->setToolTip(tr("What the surface shows becomes a finish; another lies over it where a channel is painted on the mesh"));
    if (!m->silencedAdvice.empty())
        menu->addAction(tr("Hear silenced advice again"), this, [this] {
            m_session.apply(tr("hear advice"), [&](const Project& p) -> Result<Project> {
                Result<Project> out = p;
                for (const std::string& code : p.master(m_session.masterId())->silencedAdvice)
                    if (out) out = edit::silenceAdvice(*out, m_session.masterId(), code, false);
                return out;
            });
        });
}

void SurfaceRail::chooseKind(const SurfaceKind& kind) {
    const Master* m = m_session.master();
    if (!m) return;
    const SurfaceSettings before = m->surface;
    if (!m_session.apply(tr("make it %1").arg(text(kind.name).toLower()),
                         [&](const Project& p) { return edit::applyKind(p, m_session.masterId(), kind); }))
        return;
    announce(text(kind.name), announcement(kind, before));
}

void SurfaceRail::announce(const QString& title, const std::vector<std::string>& lines) {
    if (lines.empty()) {
        m_announced->clear();
        return;
    }
    QString words = tr("%1 adds:").arg(title);
    for (const std::string& line : lines) words += "\n\u00B7 " + QString::fromStdString(line);
    m_announced->setText(words);
    // The new channels come into sight.
    for (ChannelRow* row : m_rows)
        if (!lines[0].compare(0, row->channel().name.size() + 1, std::string(row->channel().name) + ","))
            QTimer::singleShot(0, this, [this, row] { m_scroll->ensureWidgetVisible(row, 0, 120); });
    m_announcement->adjustSize();
    m_announcement->move(mapToGlobal(QPoint(-m_announcement->sizeHint().width() - 6, 40)));
    m_announcement->show();
}

QString SurfaceRail::announced() const { return m_announced->text(); }

void SurfaceRail::refresh() {
    const Master* m = m_session.master();
    setEnabled(m);
    if (!m) return;
    const SurfaceKind* kind = kindOf(m->surface);
    m_kind->setText((kind ? text(kind->name).toLower() : tr("own mix")) + " \u25BE");
    m_alphaMode->setText(text(nameOf(m->surface.alphaMode)) + " \u25BE");
    m_sides->setText(m->surface.doubleSided ? tr("double-sided") : tr("one-sided"));
    const bool mask = m->surface.alphaMode == AlphaMode::Mask;
    m_cutoff->setVisible(mask);
    m_cutoffLabel->setVisible(mask);
    m_cutoff->setValue(Value::number(m->surface.alphaCutoff));
    const auto& swatches = m_service.facts()->swatches;
    m_whole->refresh();
    const bool whole = feedsWhole(m->graph);
    int hidden = 0;
    for (ChannelRow* row : m_rows) {
        const ChannelDef& def = row->channel();
        const std::string key(def.key);
        const bool wired = m->graph.channelWires.contains(key);
        // What a layer would bring stays folded away until it is asked for; what is wired is always in sight.
        const bool foreign = !isCompiled(def, m->surface) && !wired;
        hidden += foreign;
        row->setVisible(!foreign || m_showsAll);
        auto swatch = swatches.find("channel." + key);
        auto constant = m->graph.channelConstants.find(key);
        row->field()->setValue(constant == m->graph.channelConstants.end() ? def.standard : constant->second);
        const bool muted = std::find(m->graph.mutedChannels.begin(), m->graph.mutedChannels.end(), key) != m->graph.mutedChannels.end();
        const auto idle = inactive(*m, key);
        const bool fed = whole && !wired && !muted && findFinishPart(key);
        row->refresh(swatch == swatches.end() ? QImage() : swatch->second, wired, fed, muted,
                     idle ? QString::fromStdString(idle->why) : QString(), idle ? QString::fromStdString(idle->wake.label) : QString());
    }
    m_more->setVisible(hidden > 0);
    m_more->setText(m_showsAll ? tr("fewer channels") : tr("%1 more channels").arg(hidden));
}

std::vector<std::pair<std::string, int>> SurfaceRail::channelPins() const {
    std::vector<std::pair<std::string, int>> pins;
    const int top = m_scroll->viewport()->mapToGlobal(QPoint(0, 4)).y(),
              bottom = m_scroll->viewport()->mapToGlobal(QPoint(0, m_scroll->viewport()->height() - 4)).y();
    // Wires of rows that are scrolled away end at the edge, so that they can still be seen.
    pins.emplace_back(kWholeSurface, std::clamp(m_whole->mapToGlobal(QPoint(0, m_whole->pinHeight())).y(), top, std::max(top, bottom)));
    for (const ChannelRow* row : m_rows)
        if (row->isVisibleTo(m_scroll->widget()))
            pins.emplace_back(row->channel().key, std::clamp(row->mapToGlobal(QPoint(0, 18)).y(), top, std::max(top, bottom)));
    return pins;
}

std::string SurfaceRail::channelAt(const QPoint& global) const {
    if (!m_scroll->viewport()->rect().contains(m_scroll->viewport()->mapFromGlobal(global))) return {};
    if (m_whole->rect().contains(m_whole->mapFromGlobal(global))) return std::string(kWholeSurface);
    for (const ChannelRow* row : m_rows)
        if (row->isVisible() && row->rect().contains(row->mapFromGlobal(global))) return std::string(row->channel().key);
    return {};
}

ChannelRow* SurfaceRail::row(const std::string& channel) const {
    for (ChannelRow* row : m_rows)
        if (row->channel().key == channel) return row;
    return nullptr;
}

} // namespace hue
