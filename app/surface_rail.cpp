#include "app/surface_rail.h"

#include "app/fields.h"
#include "app/theme.h"
#include "core/document/edits.h"
#include "core/surface/channels.h"

#include <QKeyEvent>
#include <QLabel>
#include <QMenu>
#include <QPainter>
#include <QPushButton>
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
    setToolTip(text(channel.help) + tr("\nClick the swatch to see this channel alone."));
    m_field = new ValueField(this);
    m_field->setAccessibleName(text(channel.name));
    m_field->setColor(channel.meaning == Meaning::Color);
    m_field->setRange(channel.low, std::min(channel.high, 20.f));
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

void ChannelRow::refresh(const QImage& swatch, bool wired, bool muted, const QString& inactive) {
    m_swatch = swatch;
    m_wired = wired;
    m_muted = muted;
    m_inactive = inactive;
    const bool editable = !wired && inactive.isEmpty() && m_channel.meaning != Meaning::Normal;
    m_field->setVisible(editable);
    m_mute->setVisible(wired && inactive.isEmpty());
    m_mute->setChecked(muted);
    m_switch->setVisible(!inactive.isEmpty());
    m_switch->setText(m_channel.key == "alpha" ? tr("Switch to blend") : tr("Switch to lit"));
    setFixedHeight(inactive.isEmpty() ? 37 : 60);
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
    const int room = width() - left - (active && !m_wired ? m_field->figureWidth() + 12 : 8);
    p.drawText(QRect(left, active && !m_wired ? 4 : 2, room, active && m_wired ? 32 : 18), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(text(m_channel.name), Qt::ElideRight, room));
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

SurfaceRail::SurfaceRail(Session& session, BoardService& service, QWidget* parent)
    : QWidget(parent), m_session(session), m_service(service) {
    setObjectName("panel");
    setAttribute(Qt::WA_StyledBackground);
    setFixedWidth(206);
    setAccessibleName(tr("Surface rail"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 8, 0, 8);
    column->setSpacing(2);
    auto* head = new QLabel(tr("Surface"));
    head->setProperty("title", true);
    head->setContentsMargins(12, 0, 0, 0);
    column->addWidget(head);
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
    m_unlit = button(tr("Unlit"), tr("Whether light changes what is seen"));
    row->addStretch();
    connect(m_sides, &QToolButton::clicked, this,
            [this] { changeSurface(tr("change double sided"), [](SurfaceSettings& s) { s.doubleSided = !s.doubleSided; }); });
    connect(m_unlit, &QToolButton::clicked, this,
            [this] { changeSurface(tr("change unlit"), [](SurfaceSettings& s) { s.unlit = !s.unlit; }); });
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
    for (const ChannelDef& channel : channels()) {
        auto* r = new ChannelRow(session, channel, this);
        m_rows.push_back(r);
        column->addWidget(r);
        const std::string key(channel.key);
        connect(r, &ChannelRow::swatchClicked, this,
                [this, key] { Q_EMIT viewWanted(QString::fromStdString(key == "emissive_strength" ? "emissive" : key)); });
        connect(r, &ChannelRow::switchClicked, this, [this, key] {
            changeSurface(tr("wake %1").arg(QString::fromStdString(key)), [key](SurfaceSettings& s) {
                if (key == "alpha") s.alphaMode = AlphaMode::Blend;
                else s.unlit = false;
            });
        });
    }
    column->addStretch();
    connect(&session, &Session::changed, this, &SurfaceRail::refresh);
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

void SurfaceRail::refresh() {
    const Master* m = m_session.master();
    setEnabled(m);
    if (!m) return;
    m_alphaMode->setText(text(nameOf(m->surface.alphaMode)) + " \u25BE");
    m_sides->setText(m->surface.doubleSided ? tr("double-sided") : tr("one-sided"));
    m_unlit->setText(m->surface.unlit ? tr("unlit") : tr("lit"));
    const bool mask = m->surface.alphaMode == AlphaMode::Mask;
    m_cutoff->setVisible(mask);
    m_cutoffLabel->setVisible(mask);
    m_cutoff->setValue(Value::number(m->surface.alphaCutoff));
    const auto& swatches = m_service.facts()->swatches;
    for (ChannelRow* row : m_rows) {
        const std::string key(row->channel().key);
        auto swatch = swatches.find("channel." + key);
        auto constant = m->graph.channelConstants.find(key);
        row->field()->setValue(constant == m->graph.channelConstants.end() ? row->channel().standard : constant->second);
        const bool muted = std::find(m->graph.mutedChannels.begin(), m->graph.mutedChannels.end(), key) != m->graph.mutedChannels.end();
        row->refresh(swatch == swatches.end() ? QImage() : swatch->second, m->graph.channelWires.contains(key), muted,
                     inactive(*m, key) ? QString::fromStdString(inactive(*m, key)->why) : QString());
    }
}

std::vector<std::pair<std::string, int>> SurfaceRail::channelPins() const {
    std::vector<std::pair<std::string, int>> pins;
    for (const ChannelRow* row : m_rows) pins.emplace_back(row->channel().key, row->mapToGlobal(QPoint(0, 18)).y());
    return pins;
}

std::string SurfaceRail::channelAt(const QPoint& global) const {
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
