#include "app/lineup/specimen_view.h"

#include "app/parts/theme.h"
#include "app/session/drops.h"

#include <QContextMenuEvent>
#include <QHelpEvent>
#include <QPainter>
#include <cmath>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

QString meshName(const Project& p, const Id& id) {
    const Id plain = id.substr(0, id.find('/'));
    for (const auto& [shape, name] : shapes())
        if (shape == plain) return text(name).toLower();
    const MeshFile* m = p.mesh(id);
    return m ? text(m->name) : QObject::tr("missing mesh");
}

} // namespace

SpecimenView::SpecimenView(Session& session, size_t index, QWidget* parent) : QWidget(parent), m_session(session), m_index(index) {
    setMinimumSize(110, 110);
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAcceptDrops(true);
    setObjectName(QString("specimen_%1").arg(index + 1));
    setAccessibleName(tr("Specimen %1").arg(index + 1));
    setToolTip(
        tr("Drag to turn all specimens (Alt: this one alone), Shift+drag to move, wheel to come nearer, double click to edit what it "
           "wears. Right click for mesh, surroundings and views."));
}

const Yardstick* SpecimenView::yardstick() const {
    const Yardstick& y = m_session.project().lineup.yardstick;
    if (y.what == Yardstick::What::None) return nullptr;
    if (y.what == Yardstick::What::Specimen && size_t(y.specimen) == m_index) return nullptr;
    return &y;
}

bool SpecimenView::beside() const { return yardstick() && yardstick()->show == Yardstick::Show::Beside; }

QSize SpecimenView::pictureSize() const { return {beside() ? (width() - 2) / 2 : width(), height() - kFoot}; }
QRect SpecimenView::pictureRect() const { return {QPoint(0, 0), pictureSize()}; }

void SpecimenView::show(const FinishedPicture& picture) {
    if (picture.serial < std::max(m_serial, m_least)) return;
    m_serial = picture.serial;
    // With a problem the last good picture stays, marked.
    if (!picture.picture.isNull()) {
        const auto comparison = m_shown.comparison;
        m_shown = picture;
        // A quick comparison keeps the last perceptual number rather than showing none.
        if (m_shown.comparison && comparison && m_shown.comparison->flip == 0 && m_shown.comparison->mean > 0)
            m_shown.comparison->flip = comparison->flip;
        if (!picture.standIn && !picture.refined) ++m_frames;
    } else {
        m_shown.animated = picture.animated;
    }
    m_problem = picture.problem;
    m_updating = m_updating && (m_serial < m_expected || picture.standIn);
    update();
}

void SpecimenView::clear() {
    m_shown = {};
    m_problem.clear();
    m_readout.clear();
    m_least = m_expected + 1;
    update();
}

QRect SpecimenView::placeOf(const QImage& picture, const QRect& place) {
    const QSize fitted = picture.size().scaled(place.size(), Qt::KeepAspectRatio);
    // Pictures with fewer pixels differ by the rounding of their sides.
    if (std::abs(fitted.width() - place.width()) <= place.width() / 40 + 2 &&
        std::abs(fitted.height() - place.height()) <= place.height() / 40 + 2)
        return place;
    return {place.center() - QPoint(fitted.width() / 2 - 1, fitted.height() / 2 - 1), fitted};
}

void SpecimenView::expect(quint64 serial, bool visibly) {
    m_expected = serial;
    m_updating = visibly;
    update();
}

void SpecimenView::setReadout(const QString& words) {
    if (m_readout == words) return;
    m_readout = words;
    update();
}

void SpecimenView::setPicking(bool picking) {
    m_picking = picking;
    setCursor(picking ? Qt::CrossCursor : Qt::ArrowCursor);
}

void SpecimenView::paintPicture(QPainter& p) const {
    const Theme& t = theme();
    const QRect whole(0, 0, width(), height() - kFoot), own = pictureRect();
    p.fillRect(whole, t.surround);
    if (m_shown.picture.isNull()) {
        p.setPen(t.ink);
        p.setFont(textFont(12));
        if (m_problem.isEmpty()) p.drawText(whole, Qt::AlignCenter, tr("drawing"));
        return;
    }
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    const Yardstick* y = yardstick();
    if (!y || m_shown.yardstick.isNull()) {
        p.drawImage(placeOf(m_shown.picture, own), m_shown.picture);
        return;
    }
    auto label = [&](const QRect& at, Qt::Alignment side, const QString& words) {
        p.setFont(textFont(11));
        p.setPen(QColor(0xF4, 0xF4, 0xF4));
        p.drawText(at.adjusted(8, 0, -8, -6), side | Qt::AlignBottom, words);
    };
    switch (y->show) {
    case Yardstick::Show::Beside: {
        const QRect other(own.width() + 2, 0, width() - own.width() - 2, own.height());
        p.drawImage(placeOf(m_shown.picture, own), m_shown.picture);
        p.drawImage(placeOf(m_shown.yardstick, other), m_shown.yardstick);
        p.fillRect(own.width(), 0, 2, own.height(), t.window);
        label(other, Qt::AlignRight, tr("yardstick"));
        break;
    }
    case Yardstick::Show::Split: {
        const int x = int(std::lround(y->split * float(own.width())));
        p.drawImage(placeOf(m_shown.picture, own), m_shown.picture);
        p.save();
        p.setClipRect(QRect(x, 0, own.width() - x, own.height()));
        p.drawImage(placeOf(m_shown.yardstick, own), m_shown.yardstick);
        p.restore();
        p.fillRect(x - 1, 0, 2, own.height(), t.card);
        p.fillRect(x, 0, 1, own.height(), t.ink);
        // The grip.
        p.setPen(QPen(t.ink, 1));
        p.setBrush(t.card);
        p.drawRect(QRect(x - 5, own.height() / 2 - 11, 10, 22));
        label(own, Qt::AlignRight, tr("yardstick"));
        break;
    }
    case Yardstick::Show::Difference:
        p.drawImage(placeOf(m_shown.picture, own), m_shown.difference.isNull() ? m_shown.picture : m_shown.difference);
        label(own, Qt::AlignRight, tr("difference x %1").arg(double(y->gain), 0, 'g', 3));
        break;
    }
}

QString SpecimenView::footText() const {
    const Project& project = m_session.project();
    if (m_index >= project.lineup.specimens.size()) return {};
    const int view = std::max(0, findView(project.lineup.view));
    QString right = meshName(project, project.lineup.specimens[m_index].mesh) + " \u00B7 " + text(views()[size_t(view)].name);
    if (m_shown.peak > 0) right += tr(" up to %1").arg(double(m_shown.peak), 0, 'g', 5);
    const Specimen& s = project.lineup.specimens[m_index];
    if (s.orbit) right += tr(" \u00B7 own orbit");
    if (!s.light.empty()) right += tr(" \u00B7 own light");
    if (m_shown.density) {
        const UvDensity& d = *m_shown.density;
        right += tr(" \u00B7 %1 per m (%2 to %3)")
                     .arg(double(d.median), 0, 'g', 3)
                     .arg(double(d.lowest), 0, 'g', 3)
                     .arg(double(d.highest), 0, 'g', 3);
    }
    return right;
}

void SpecimenView::paintFoot(QPainter& p) const {
    const Theme& t = theme();
    const QRect foot(0, height() - kFoot, width(), kFoot);
    p.fillRect(foot, t.window);
    const Lineup& lineup = m_session.project().lineup;
    if (m_index >= lineup.specimens.size()) return;
    QStringList names;
    for (const Id& worn : lineup.specimens[m_index].wears) names << (worn.empty() ? tr("nothing") : text(m_session.project().nameOf(worn)));
    if (names.isEmpty()) names << tr("wears nothing; drag an instance here");
    const QString right = footText();
    p.setFont(textFont(12));
    const int rightWidth = std::min(p.fontMetrics().horizontalAdvance(right) + 4, width() * 6 / 10);
    p.setPen(t.ink2);
    p.drawText(foot.adjusted(0, 0, -12, 0), Qt::AlignRight | Qt::AlignVCenter,
               p.fontMetrics().elidedText(right, Qt::ElideLeft, rightWidth));
    p.setFont(textFont(13, true));
    p.setPen(t.ink);
    p.drawText(foot.adjusted(12, 0, -rightWidth - 20, 0), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(names.join(" + "), Qt::ElideRight, foot.width() - rightWidth - 36));
}

void SpecimenView::paintNumbers(QPainter& p) const {
    const Theme& t = theme();
    auto tag = [&](QRect at, Qt::Alignment where, const QString& words) {
        p.setFont(codeFont(11));
        QRect box = p.fontMetrics().boundingRect(QRect(0, 0, at.width() - 16, 200), Qt::TextWordWrap, words).adjusted(-6, -3, 6, 3);
        box.moveTopLeft({where & Qt::AlignRight ? at.right() - box.width() - 7 : at.left() + 8,
                         where & Qt::AlignBottom ? at.bottom() - box.height() - 7 : at.top() + 8});
        p.fillRect(box, t.card);
        p.setPen(t.ink);
        p.drawText(box.adjusted(6, 3, -6, -3), Qt::TextWordWrap, words);
    };
    const QRect own = pictureRect();
    if (m_shown.comparison && yardstick()) {
        const Comparison& c = *m_shown.comparison;
        tag(own, Qt::AlignLeft | Qt::AlignTop,
            tr("\u0394E mean %1  worst %2  perceived %3")
                .arg(double(c.mean), 0, 'f', 2)
                .arg(double(c.worst), 0, 'f', 1)
                .arg(double(c.flip), 0, 'f', 3));
    }
    if (!m_readout.isEmpty()) tag(own, Qt::AlignLeft | Qt::AlignBottom, m_readout);
}

void SpecimenView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = theme();
    paintPicture(p);
    paintFoot(p);
    if (!m_problem.isEmpty()) {
        p.setFont(textFont(12));
        const QString sentence = "! " + m_problem;
        const QRect box = p.fontMetrics().boundingRect(QRect(0, 0, width() - 44, 200), Qt::TextWordWrap, sentence).adjusted(-8, -5, 8, 5);
        const QRect at(12, 12, box.width(), box.height());
        p.fillRect(at, t.card);
        p.setPen(QPen(t.broken, 1.5));
        p.drawRect(at);
        p.drawText(at.adjusted(8, 5, -8, -5), Qt::TextWordWrap, sentence);
    } else {
        paintNumbers(p);
        if (m_updating || m_shown.fromEvaluator) {
            p.setFont(textFont(11));
            p.setPen(t.card);
            p.drawText(pictureRect().adjusted(0, 0, -10, -6), Qt::AlignRight | Qt::AlignTop,
                       m_shown.fromEvaluator ? tr("linking") : tr("updating"));
        }
    }
    if (hasFocus()) {
        p.setPen(QPen(t.ink, 1, Qt::DotLine));
        p.drawRect(rect().adjusted(1, 1, -2, -2));
    }
}

void SpecimenView::mousePressEvent(QMouseEvent* e) {
    m_last = e->position();
    const QPoint at = e->pos();
    if (m_picking && e->button() == Qt::LeftButton && pictureRect().contains(at)) return Q_EMIT picked(at.x(), at.y());
    if (const Yardstick* y = yardstick(); y && y->show == Yardstick::Show::Split && e->button() == Qt::LeftButton)
        m_splitting = std::fabs(e->position().x() - double(y->split) * pictureSize().width()) < 7 && at.y() < height() - kFoot;
}

void SpecimenView::mouseMoveEvent(QMouseEvent* e) {
    const QPointF d = e->position() - m_last;
    m_last = e->position();
    const bool alone = (e->modifiers() & Qt::AltModifier) != 0;
    const float height = float(std::max(1, pictureSize().height()));
    if (!e->buttons()) {
        if (pictureRect().contains(e->pos())) Q_EMIT hovered(e->pos().x(), e->pos().y());
        else Q_EMIT hovered(-1, -1);
    } else if (m_splitting) {
        Q_EMIT splitMoved(float(std::clamp(e->position().x() / pictureSize().width(), 0.0, 1.0)));
    } else if (e->modifiers() & Qt::ControlModifier) {
        // The last thing that was set up follows the pointer; with Shift it comes nearer.
        if (e->modifiers() & Qt::ShiftModifier) Q_EMIT thingMoved(0, 0, float(d.y()) / height);
        else Q_EMIT thingMoved(float(d.x()) / height, float(-d.y()) / height, 0);
    } else if ((e->buttons() & Qt::MiddleButton) || (e->modifiers() & Qt::ShiftModifier)) {
        Q_EMIT panned(float(d.x()) / height, float(-d.y()) / height, alone);
    } else if (e->buttons() & Qt::LeftButton) {
        Q_EMIT orbited(float(-d.x()) * 0.5f, float(d.y()) * 0.4f, alone);
    }
}

void SpecimenView::mouseReleaseEvent(QMouseEvent*) { m_splitting = false; }
bool SpecimenView::event(QEvent* e) {
    // Over the picture the readout speaks; the tool tip waits at the foot.
    if (e->type() == QEvent::ToolTip && static_cast<QHelpEvent*>(e)->pos().y() < height() - kFoot) return true;
    return QWidget::event(e);
}

void SpecimenView::leaveEvent(QEvent*) { Q_EMIT hovered(-1, -1); }

void SpecimenView::editWorn() {
    const auto& specimens = m_session.project().lineup.specimens;
    if (m_index < specimens.size() && !specimens[m_index].wears.empty()) m_session.setTarget(specimens[m_index].wears[0], int(m_index));
}

void SpecimenView::wheelEvent(QWheelEvent* e) {
    // With Alt held, the wheel turns sideways on some desktops.
    const int turned = e->angleDelta().y() ? e->angleDelta().y() : e->angleDelta().x();
    Q_EMIT zoomed(std::pow(0.9985f, float(turned)), (e->modifiers() & Qt::AltModifier) != 0);
}

void SpecimenView::keyPressEvent(QKeyEvent* e) {
    const bool alone = (e->modifiers() & Qt::AltModifier) != 0, pan = (e->modifiers() & Qt::ShiftModifier) != 0;
    switch (e->key()) {
    case Qt::Key_Left: return pan ? Q_EMIT panned(-0.05f, 0, alone) : Q_EMIT orbited(-8, 0, alone);
    case Qt::Key_Right: return pan ? Q_EMIT panned(0.05f, 0, alone) : Q_EMIT orbited(8, 0, alone);
    case Qt::Key_Up: return pan ? Q_EMIT panned(0, 0.05f, alone) : Q_EMIT orbited(0, 6, alone);
    case Qt::Key_Down: return pan ? Q_EMIT panned(0, -0.05f, alone) : Q_EMIT orbited(0, -6, alone);
    case Qt::Key_Home: return Q_EMIT fitted(alone);
    case Qt::Key_Return: return editWorn();
    case Qt::Key_Plus: return Q_EMIT zoomed(0.9f, alone);
    case Qt::Key_Minus: return Q_EMIT zoomed(1.1f, alone);
    case Qt::Key_Menu: return Q_EMIT menuWanted(mapToGlobal(rect().center()));
    default: QWidget::keyPressEvent(e);
    }
}

void SpecimenView::contextMenuEvent(QContextMenuEvent* e) { Q_EMIT menuWanted(e->globalPos()); }

void SpecimenView::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasFormat(kWornMime) || e->mimeData()->hasUrls()) e->acceptProposedAction();
}

void SpecimenView::dropEvent(QDropEvent* e) {
    Q_EMIT dropped(e->mimeData(), e->position().toPoint());
    e->acceptProposedAction();
}

} // namespace hue
