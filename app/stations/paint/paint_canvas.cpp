#include "app/stations/paint/paint_canvas.h"

#include "app/parts/theme.h"
#include "app/session/drops.h"
#include "core/base/vectors.h"
#include "core/edits/edits.h"
#include "core/image_files/image_file.h"

#include <QDropEvent>
#include <QImageReader>
#include <QKeyEvent>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>
#include <QTabletEvent>
#include <cmath>

namespace hue {
namespace {

constexpr int kPlace = 900; ///< of the picture, beyond those of the lineup
constexpr int kRingPoints = 72;
constexpr size_t kMostDrawn = 60000; ///< places whose edges are still worth a line

} // namespace

PaintCanvas::PaintCanvas(Session& session, PictureService& pictures, PaintDesk& desk, DecalDesk& decals, QWidget* parent)
    : QWidget(parent), m_session(session), m_pictures(pictures), m_desk(desk), m_decals(decals) {
    setObjectName("paintCanvas");
    setMinimumSize(240, 160);
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAcceptDrops(true);
    setAttribute(Qt::WA_OpaquePaintEvent);
    setAccessibleName(tr("Specimen under the brush"));
    setToolTip(tr("Drag to paint; Shift+click paints straight from the last stroke, Ctrl takes away instead of adding. Right button turns, "
                  "middle button moves, the wheel comes nearer, Ctrl+wheel sizes the brush. Arrows turn as well. With decals in hand "
                  "drag moves one, its corners size it, the mast's end turns it; Alt+arrows move, Delete removes."));
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (!what.only(Change::Board)) request();
    });
    connect(&session, &Session::timeChanged, this, [this] {
        if (m_shown.animated) request();
    });
    connect(&session, &Session::projectOpened, this, [this] {
        m_shown = {};
        m_at.reset();
        m_strokeEnd.reset();
        update();
    });
    connect(&desk, &PaintDesk::changed, this, [this] {
        request();
        look(m_pointer);
    });
    connect(&decals, &DecalDesk::changed, this, qOverload<>(&QWidget::update));
    connect(&desk, &PaintDesk::brushChanged, this, [this] { look(m_pointer); });
    connect(&desk, &PaintDesk::surfaceChanged, this, [this] {
        m_at.reset();
        m_strokeEnd.reset();
        followView();
    });
    connect(&pictures, &PictureService::ready, this, [this](int place, const FinishedPicture& picture) {
        if (place != kPlace || picture.serial < m_got) return;
        m_got = picture.serial;
        if (picture.picture.isNull()) m_shown.problem = picture.problem;
        else m_shown = picture;
        update();
    });
}

RenderSettings PaintCanvas::settings() const {
    const Project& p = m_session.project();
    const auto specimen = m_desk.alone();
    RenderSettings s = settingsFor(p, specimen.value_or(Specimen{}), m_session.lights(), m_session.assets().folder(), false);
    s.width = std::max(1, width());
    s.height = std::max(1, height());
    return s;
}

void PaintCanvas::request() {
    const auto specimen = m_desk.alone();
    if (!isVisible() || !specimen || width() < 8 || height() < 8) return;
    followView();
    PictureRequest r;
    r.files = m_session.files();
    r.snapshot = m_session.snapshot();
    r.specimen = *specimen;
    r.settings = settings();
    r.time = m_session.time();
    r.moving = m_session.playing() || m_desk.painting();
    if (m_desk.shown() != PaintShown::Drawn && m_desk.paint()) {
        // The same specimen with what is to be seen as its paint.
        std::vector<int> of;
        for (const ReadChannel& read : m_desk.read()) of.push_back(read.channel);
        auto seen = std::make_shared<Project>(m_session.project());
        Paintwork w;
        w.id = "seen", w.mesh = r.specimen.mesh;
        w.paint = std::make_shared<PaintData>(shownAs(*m_desk.paint(), m_desk.shown(), m_desk.channel(), of));
        seen->paintworks.push_back(std::make_shared<Paintwork>(std::move(w)));
        r.snapshot = std::move(seen);
        r.specimen.paintwork = "seen";
        r.settings.view = findView("vertex_color");
    }
    r.serial = ++m_asked;
    m_pictures.request(kPlace, std::move(r));
}

void PaintCanvas::followView() {
    m_inSight.clear();
    if (!m_desk.surface()) return update();
    m_view = viewOfMesh(m_desk.surface()->bounds(), settings());
    look(m_pointer);
}

Ray PaintCanvas::sight(const QPointF& at) const { return m_view.width ? sightThrough(m_view, float(at.x()), float(at.y())) : Ray{}; }

float PaintCanvas::radiusHere() const {
    if (!m_desk.sizedByView() || !m_at || !m_view.width) return m_desk.brush().radius;
    return m_desk.viewShare() * float(m_view.height) * metresOfPixel(m_view, m_at->position);
}

void PaintCanvas::look(const QPointF& at) {
    m_pointer = at;
    m_at.reset();
    m_ring.clear();
    m_innerRing.clear();
    const auto surface = m_desk.surface();
    if (!surface || !m_view.width || !rect().contains(at.toPoint())) return update();
    const Ray ray = sight(at);
    m_at = surface->rays().hit(ray);
    if (m_at) {
        // The ring looks at the viewer, whichever side of a face that is.
        MeshPoint facing = *m_at;
        const Rgb towards = scaled(ray.towards, -1);
        if (dot(facing.normal, towards) < 0) facing.normal = scaled(facing.normal, -1);
        Brush brush = m_desk.brush();
        brush.radius = radiusHere();
        m_ring = ringOn(surface->rays(), facing, brush.radius, kRingPoints);
        const float inner = brush.radius * (1 - brush.softEdge);
        if (brush.softEdge > 0 && inner > 0) m_innerRing = ringOn(surface->rays(), facing, inner, kRingPoints);
        if (!m_desk.painting())
            if (const PaintDataPtr paint = m_desk.paint()) m_reached = surface->reached(*m_at, towards, brush, *paint);
    }
    update();
}

void PaintCanvas::setOverlay(bool vertices, bool edges) {
    m_vertices = vertices;
    m_edges = edges;
    update();
}

void PaintCanvas::resizeBrush(float factor) {
    if (m_desk.sizedByView()) return m_desk.setViewShare(m_desk.viewShare() * factor);
    Brush b = m_desk.brush();
    b.radius *= factor;
    m_desk.setBrush(b);
}

void PaintCanvas::paintRings(QPainter& p) const {
    const auto draw = [&](const std::vector<Rgb>& ring, bool dotted) {
        QPolygonF line;
        for (const Rgb& place : ring)
            if (const auto pixel = pixelOf(m_view, place)) line << QPointF(double((*pixel)[0]), double((*pixel)[1]));
        if (line.size() < 3) return;
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(theme().card, 3));
        p.drawPolygon(line);
        p.setPen(QPen(theme().ink, 1, dotted ? Qt::DotLine : Qt::SolidLine));
        p.drawPolygon(line);
    };
    draw(m_innerRing, true);
    draw(m_ring, false);
}

void PaintCanvas::paintMesh(QPainter& p) const {
    const auto surface = m_desk.surface();
    if (!surface || (!m_vertices && !m_edges)) return;
    const MeshNeighbours& neighbours = surface->neighbours();
    if (neighbours.places() > kMostDrawn) return;
    if (m_inSight.empty()) m_inSight = placesInSight(*surface, m_view.eye);
    std::vector<QPointF> pixels(neighbours.places());
    for (uint32_t place = 0; place < pixels.size(); ++place)
        if (const auto pixel = pixelOf(m_view, neighbours.position(place))) pixels[place] = {double((*pixel)[0]), double((*pixel)[1])};
        else m_inSight[place] = false;
    // Grey reads on black and on white.
    p.setPen(QPen(QColor(0x80, 0x80, 0x80, 150), 1));
    if (m_edges) {
        std::vector<QLineF> lines;
        for (uint32_t place = 0; place < pixels.size(); ++place)
            for (const uint32_t other : neighbours.around(place))
                if (other > place && m_inSight[place] && m_inSight[other]) lines.emplace_back(pixels[place], pixels[other]);
        p.drawLines(lines.data(), int(lines.size()));
    }
    if (!m_vertices) return;
    const PaintDataPtr paint = m_desk.paint();
    for (uint32_t place = 0; place < pixels.size(); ++place) {
        if (!m_inSight[place]) continue;
        // As dark as it is painted.
        const float value = paint ? paint->value(m_desk.channel(), surface->verticesOf(place)[0]) : 0;
        p.fillRect(QRectF(pixels[place] - QPointF(2, 2), QSizeF(4, 4)), theme().ink);
        const int grey = int(std::lround(255 * (1 - value)));
        p.fillRect(QRectF(pixels[place] - QPointF(1, 1), QSizeF(2, 2)), QColor(grey, grey, grey));
    }
}

void PaintCanvas::paintWords(QPainter& p) const {
    const Theme& t = theme();
    const auto tag = [&](const QPoint& corner, const QString& words, const QColor& ink, bool fromRight = false) {
        p.setFont(codeFont(11));
        QRect box = p.fontMetrics().boundingRect(QRect(0, 0, width() - 24, 200), Qt::TextWordWrap, words).adjusted(-6, -3, 6, 3);
        box.moveTopLeft(corner - (fromRight ? QPoint(box.width(), 0) : QPoint()));
        p.fillRect(box, t.card);
        p.setPen(ink);
        p.drawText(box.adjusted(6, 3, -6, -3), Qt::TextWordWrap, words);
    };
    if (!m_shown.problem.isEmpty()) tag({12, 12}, "! " + m_shown.problem, t.broken);
    if (!m_desk.surface()) return tag({12, height() - 30}, tr("making the mesh ready"), t.ink);
    if (m_decals.inHand()) {
        if (m_decals.all().empty())
            tag({8, height() - 26}, tr("No decal lies here yet. Add one at the right, or drop an instance of a decal on the mesh."), t.ink);
        return;
    }
    if (m_at && !m_desk.painting()) {
        constexpr size_t kFew = 4;
        const bool few = m_reached < kFew;
        const QString count = counted(int(m_reached), tr("vertex"), tr("vertices"));
        const QPoint beside(std::clamp(int(m_pointer.x()) + 18, 8, width() - 60), std::clamp(int(m_pointer.y()) + 14, 8, height() - 60));
        tag(beside, few ? tr("! %1: the mesh is too coarse here; the menu beside the paintwork makes it finer").arg(count) : count,
            few ? t.caution : t.ink);
    }
    if (m_at)
        if (const PaintDataPtr paint = m_desk.paint()) {
            const auto& indices = m_desk.surface()->mesh()->indices;
            float value = 0;
            for (size_t k = 0; k < 3; ++k)
                value += m_at->weights[k] * paint->value(m_desk.channel(), indices[3 * size_t(m_at->triangle) + k]);
            tag({8, height() - 26},
                tr("%1 %2   at %3 %4 %5 m")
                    .arg(m_desk.channelName(m_desk.channel()))
                    .arg(double(value), 0, 'f', 3)
                    .arg(double(m_at->position[0]), 0, 'f', 3)
                    .arg(double(m_at->position[1]), 0, 'f', 3)
                    .arg(double(m_at->position[2]), 0, 'f', 3),
                t.ink);
        }
    if (m_desk.shown() == PaintShown::Sum && m_desk.paint()) {
        std::vector<int> of;
        for (const ReadChannel& r : m_desk.read()) of.push_back(r.channel);
        const SumFaults faults = sumFaults(*m_desk.paint(), of);
        tag({width() - 8, 8}, tr("over 1: %1 vertices   under 1: %2").arg(faults.over).arg(faults.under), faults.over ? t.broken : t.ink,
            true);
    }
    if ((m_vertices || m_edges) && m_desk.surface()->neighbours().places() > kMostDrawn)
        tag({width() - 8, height() - 26}, tr("more than %1 vertices: too many to draw").arg(kMostDrawn), t.ink, true);
}

void PaintCanvas::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), theme().surround);
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    if (!m_shown.picture.isNull()) p.drawImage(rect(), m_shown.picture);
    if (m_view.width == width() && m_view.height == height()) {
        p.setRenderHint(QPainter::Antialiasing);
        paintMesh(p);
        if (!m_decals.inHand()) paintRings(p);
        else if (const auto held = handles()) held->paint(p, !m_decals.chosen()->locked);
        p.setRenderHint(QPainter::Antialiasing, false);
    }
    paintWords(p);
    if (hasFocus()) {
        p.setPen(QPen(theme().ink, 1, Qt::DotLine));
        p.drawRect(rect().adjusted(1, 1, -2, -2));
    }
}

bool PaintCanvas::event(QEvent* e) {
    // The readout speaks; a tool tip would lie over the brush.
    return e->type() == QEvent::ToolTip || QWidget::event(e);
}

void PaintCanvas::turn(const std::function<void(Orbit&)>& how) {
    Lineup lineup = m_session.project().lineup;
    if (m_desk.specimen() >= lineup.specimens.size()) return;
    auto& own = lineup.specimens[m_desk.specimen()].orbit;
    how(own ? *own : lineup.orbit);
    m_session.setLineup(lineup);
}

void PaintCanvas::press(const QPointF& at, float pressure, Qt::KeyboardModifiers keys) {
    look(at);
    const float radius = radiusHere();
    const bool opposite = (keys & Qt::ControlModifier) != 0;
    if ((keys & Qt::ShiftModifier) && m_strokeEnd) {
        // A straight line, as the eye sees it.
        if (m_desk.begin(*m_strokeEnd, radius, pressure, opposite)) m_desk.moveTo(sight(at), pressure);
    } else {
        m_desk.begin(sight(at), radius, pressure, opposite);
    }
    m_strokeEnd = sight(at);
}

std::optional<MeshPoint> PaintCanvas::middle() const {
    if (!m_desk.surface() || !m_view.width) return {};
    return m_desk.surface()->rays().hit(sight(rect().center()));
}

std::optional<DecalHandles> PaintCanvas::handles() const {
    const Decal* d = m_decals.inHand() ? m_decals.chosen() : nullptr;
    if (!d || !m_desk.surface() || !m_view.width) return {};
    return DecalHandles(m_view, m_desk.surface()->rays(), *d);
}

void PaintCanvas::hold(const QPointF& at) {
    using Grip = DecalHandles::Grip;
    m_grip = Grip::None;
    if (!m_desk.surface()) return;
    const auto its = handles();
    if (its && !m_decals.chosen()->locked) m_grip = its->gripAt(at);
    if (m_grip == Grip::None) {
        // The highest that lies there, hidden and locked ones passed over.
        const auto& all = m_decals.all();
        for (auto d = all.rbegin(); d != all.rend(); ++d) {
            if (d->hidden || d->locked || DecalHandles(m_view, m_desk.surface()->rays(), *d).gripAt(at) == Grip::None) continue;
            m_grip = Grip::Middle;
            m_decals.choose(d->id);
            break;
        }
    }
    if (m_grip == Grip::Middle)
        if (const auto pixel = pixelOf(m_view, m_decals.chosen()->position))
            m_gripped = at - QPointF(double((*pixel)[0]), double((*pixel)[1]));
}

void PaintCanvas::dragDecal(const QPointF& at) {
    using Grip = DecalHandles::Grip;
    const auto surface = m_desk.surface();
    if (!surface || m_grip == Grip::None) return;
    if (m_grip == Grip::Middle) {
        if (const auto on = surface->rays().hit(sight(at - m_gripped)))
            m_decals.change(
                tr("move a decal"), [&](Decal& d) { d = placedOn(d, *surface->mesh(), *on); }, "move decal");
    } else if (m_grip == Grip::Corner) {
        m_decals.change(
            tr("size a decal"), [&](Decal& d) { d = sizedTo(d, sight(at)); }, "size decal");
    } else {
        m_decals.change(
            tr("turn a decal"), [&](Decal& d) { d = turnedTo(d, sight(at)); }, "turn decal");
    }
}

void PaintCanvas::dragEnterEvent(QDragEnterEvent* e) {
    const bool image = e->mimeData()->hasUrls() && isImageFile(e->mimeData()->urls()[0].toLocalFile().toStdString());
    const bool words = e->mimeData()->hasText() && !e->mimeData()->hasUrls();
    if (image || words || e->mimeData()->hasFormat(kWornMime)) e->acceptProposedAction();
}

void PaintCanvas::dropEvent(QDropEvent* e) {
    if (e->mimeData()->hasUrls()) {
        const QString file = e->mimeData()->urls()[0].toLocalFile();
        const QSize size = QImageReader(file).size();
        const float aspect = size.isValid() && size.height() > 0 ? float(size.width()) / float(size.height()) : 1;
        mapsFromFiles(m_session, {file}, [self = QPointer<PaintCanvas>(this), aspect, ray = sight(e->position())](const auto& maps) {
            if (self && self->m_desk.surface()) self->m_decals.putMap(maps[0], aspect, self->m_desk.surface()->rays().hit(ray));
        });
        return e->acceptProposedAction();
    }
    if (!e->mimeData()->hasFormat(kWornMime) && e->mimeData()->hasText()) {
        if (m_desk.surface()) m_decals.putText(e->mimeData()->text(), m_desk.surface()->rays().hit(sight(e->position())));
        return e->acceptProposedAction();
    }
    const Id worn = e->mimeData()->data(kWornMime).toStdString();
    const Master* master = m_session.project().masterOf(worn);
    if (!master || !m_desk.surface()) return;
    e->acceptProposedAction();
    if (!master->surface.decal)
        return m_session.say(tr("%1 is no decal. Choose the kind Decal for its surface, or drop it on a specimen of the lineup to wear it.")
                                 .arg(QString::fromStdString(m_session.project().nameOf(worn))));
    m_decals.put(worn, m_desk.surface()->rays().hit(sight(e->position())));
}

void PaintCanvas::mousePressEvent(QMouseEvent* e) {
    m_last = e->position();
    if (e->button() == Qt::LeftButton && m_decals.inHand()) return hold(e->position());
    if (e->button() == Qt::LeftButton && !m_tablet) press(e->position(), 1, e->modifiers());
}

void PaintCanvas::mouseMoveEvent(QMouseEvent* e) {
    const QPointF d = e->position() - m_last;
    m_last = e->position();
    if (e->buttons() & Qt::RightButton) {
        turn([&](Orbit& o) {
            o.yaw = std::fmod(o.yaw - float(d.x()) * 0.5f, 360.f);
            o.pitch = std::clamp(o.pitch + float(d.y()) * 0.4f, -89.f, 89.f);
        });
    } else if (e->buttons() & Qt::MiddleButton) {
        const float tall = float(std::max(1, height()));
        turn([&](Orbit& o) { o.panX += float(d.x()) / tall, o.panY -= float(d.y()) / tall; });
    } else if (m_decals.inHand() && (e->buttons() & Qt::LeftButton)) {
        dragDecal(e->position());
    } else if (m_desk.painting() && !m_tablet) {
        m_desk.moveTo(sight(e->position()), 1);
        m_strokeEnd = sight(e->position());
    }
    look(e->position());
}

void PaintCanvas::mouseReleaseEvent(QMouseEvent* e) {
    if (e->button() != Qt::LeftButton || m_tablet) return;
    if (m_grip != DecalHandles::Grip::None) {
        m_grip = DecalHandles::Grip::None;
        m_session.endRow();
    }
    m_desk.end();
    look(e->position());
}

void PaintCanvas::tabletEvent(QTabletEvent* e) {
    const auto pressure = float(e->pressure());
    switch (e->type()) {
    case QEvent::TabletPress:
        if (e->button() != Qt::LeftButton || m_decals.inHand()) return e->ignore();
        m_tablet = true;
        press(e->position(), pressure, e->modifiers());
        break;
    case QEvent::TabletMove:
        if (!m_tablet) return e->ignore();
        if (m_desk.painting()) m_desk.moveTo(sight(e->position()), pressure);
        m_strokeEnd = sight(e->position());
        look(e->position());
        break;
    case QEvent::TabletRelease:
        if (!m_tablet) return e->ignore();
        m_desk.end();
        m_tablet = false;
        break;
    default: return e->ignore();
    }
    e->accept();
}

void PaintCanvas::wheelEvent(QWheelEvent* e) {
    const int turned = e->angleDelta().y() ? e->angleDelta().y() : e->angleDelta().x();
    if (e->modifiers() & Qt::ControlModifier) resizeBrush(std::pow(1.0012f, float(turned)));
    else turn([&](Orbit& o) { o.standOff = std::clamp(o.standOff * std::pow(0.9985f, float(turned)), 0.2f, 10.f); });
    e->accept();
}

void PaintCanvas::leaveEvent(QEvent*) {
    m_at.reset();
    m_ring.clear();
    m_innerRing.clear();
    m_pointer = {-1, -1};
    update();
}

bool PaintCanvas::decalKey(QKeyEvent* e) {
    const Decal* d = m_decals.inHand() ? m_decals.chosen() : nullptr;
    if (!d) return false;
    if (e->key() == Qt::Key_Delete || e->key() == Qt::Key_Backspace) {
        m_decals.remove();
        return true;
    }
    // Alt and arrows move it on the surface by a fiftieth of its size.
    if (!(e->modifiers() & Qt::AltModifier) || !m_desk.surface()) return false;
    const int x = e->key() == Qt::Key_Right  ? 1
                  : e->key() == Qt::Key_Left ? -1
                                             : 0,
              y = e->key() == Qt::Key_Up     ? 1
                  : e->key() == Qt::Key_Down ? -1
                                             : 0;
    if (!x && !y) return false;
    const float step = std::max(d->width, d->height) / 50;
    const DecalAxes axes = decalAxes(*d);
    const Rgb to = sum(d->position, sum(scaled(axes.across, step * float(x)), scaled(axes.up, step * float(y))));
    if (const auto on = m_desk.surface()->rays().nearest(to, &axes.out))
        m_decals.change(
            tr("move a decal"), [&](Decal& its) { its = placedOn(its, *m_desk.surface()->mesh(), *on); }, "move decal");
    return true;
}

void PaintCanvas::keyPressEvent(QKeyEvent* e) {
    if (decalKey(e)) return;
    const auto yaw = [&](float by) { turn([&](Orbit& o) { o.yaw = std::fmod(o.yaw + by, 360.f); }); };
    const auto pitch = [&](float by) { turn([&](Orbit& o) { o.pitch = std::clamp(o.pitch + by, -89.f, 89.f); }); };
    switch (e->key()) {
    case Qt::Key_Left: return yaw(-8);
    case Qt::Key_Right: return yaw(8);
    case Qt::Key_Up: return pitch(6);
    case Qt::Key_Down: return pitch(-6);
    case Qt::Key_Home: return turn([](Orbit& o) { o.standOff = 1, o.panX = o.panY = 0; });
    // A touch in the middle of the view, for who has no mouse at hand.
    case Qt::Key_Space:
        if (e->isAutoRepeat() || m_decals.inHand()) return;
        press(rect().center(), 1, e->modifiers());
        return m_desk.end();
    default: QWidget::keyPressEvent(e);
    }
}

void PaintCanvas::resizeEvent(QResizeEvent*) { request(); }

} // namespace hue
