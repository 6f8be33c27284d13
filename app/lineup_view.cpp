#include "app/lineup_view.h"

#include "app/drops.h"
#include "app/theme.h"
#include "core/document/edits.h"

#include <QContextMenuEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QMenu>
#include <QMimeData>
#include <QPainter>
#include <QToolButton>
#include <QUrl>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

QString meshName(const Project& p, const Id& id) {
    for (const auto& [shape, name] : shapes())
        if (shape == id) return text(name).toLower();
    const MeshFile* m = p.mesh(id);
    return m ? text(m->name) : QObject::tr("missing mesh");
}

} // namespace

SpecimenView::SpecimenView(Session& session, size_t index, QWidget* parent) : QWidget(parent), m_session(session), m_index(index) {
    setMinimumSize(120, 120);
    setFocusPolicy(Qt::StrongFocus);
    setAcceptDrops(true);
    setObjectName(QString("specimen_%1").arg(index + 1));
    setAccessibleName(tr("Specimen %1").arg(index + 1));
    setToolTip(tr("Drag to turn all specimens, wheel to come nearer, double click to edit what it wears. Right click for mesh, light and "
                  "what it wears."));
}

void SpecimenView::show(const QImage& picture, const QString& problem, bool animated, quint64 serial) {
    if (serial < m_shown) return;
    m_shown = serial;
    // With a problem the last good picture stays, marked.
    if (!picture.isNull()) {
        m_picture = picture;
        ++m_frames;
    }
    m_problem = problem;
    m_animated = animated;
    m_updating = m_updating && m_shown < m_expected;
    update();
}

void SpecimenView::expect(quint64 serial, bool visibly) {
    m_expected = serial;
    m_updating = visibly;
    update();
}

void SpecimenView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = theme();
    const QRect picture(0, 0, width(), height() - kFoot);
    p.fillRect(picture, t.surround);
    if (!m_picture.isNull()) {
        p.setRenderHint(QPainter::SmoothPixmapTransform);
        p.drawImage(picture, m_picture);
    }
    const QRect foot(0, height() - kFoot, width(), kFoot);
    p.fillRect(foot, t.window);
    const Lineup& lineup = m_session.project().lineup;
    if (m_index >= lineup.specimens.size()) return;
    const Specimen& s = lineup.specimens[m_index];
    QStringList names;
    for (const Id& worn : s.wears) names << (worn.empty() ? tr("nothing") : text(m_session.project().nameOf(worn)));
    if (names.isEmpty()) names << tr("wears nothing; drag an instance here");
    const int view = findView(lineup.view);
    QString right =
        meshName(m_session.project(), s.mesh) + " \u00B7 " + (view >= 0 ? QString::fromUtf8(views()[size_t(view)].name.data()) : tr("lit"));
    if (m_updating && m_problem.isEmpty() && m_picture.isNull()) right = tr("updating");
    p.setFont(textFont(12));
    const int rightWidth = p.fontMetrics().horizontalAdvance(right) + 4;
    p.setPen(t.ink2);
    p.drawText(foot.adjusted(0, 0, -12, 0), Qt::AlignRight | Qt::AlignVCenter, right);
    p.setFont(textFont(13, true));
    p.setPen(t.ink);
    p.drawText(foot.adjusted(12, 0, -rightWidth - 20, 0), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(names.join(" + "), Qt::ElideRight, foot.width() - rightWidth - 36));
    if (!m_problem.isEmpty()) {
        p.setFont(textFont(12));
        const QString sentence = "! " + m_problem;
        const QRect box = p.fontMetrics().boundingRect(QRect(0, 0, width() - 44, 200), Qt::TextWordWrap, sentence).adjusted(-8, -5, 8, 5);
        const QRect at(12, 12, box.width(), box.height());
        p.fillRect(at, t.card);
        p.setPen(QPen(t.broken, 1.5));
        p.drawRect(at);
        p.drawText(at.adjusted(8, 5, -8, -5), Qt::TextWordWrap, sentence);
    } else if (m_updating) {
        p.setFont(textFont(11));
        p.setPen(t.card);
        p.drawText(picture.adjusted(0, 0, -10, -6), Qt::AlignRight | Qt::AlignBottom, tr("updating"));
    }
    if (hasFocus()) {
        p.setPen(QPen(t.ink, 1, Qt::DotLine));
        p.drawRect(rect().adjusted(1, 1, -2, -2));
    }
}

void SpecimenView::mousePressEvent(QMouseEvent* e) { m_last = e->position(); }

void SpecimenView::mouseMoveEvent(QMouseEvent* e) {
    if (!(e->buttons() & Qt::LeftButton)) return;
    const QPointF d = e->position() - m_last;
    m_last = e->position();
    Q_EMIT orbited(float(-d.x()) * 0.5f, float(d.y()) * 0.4f);
}

void SpecimenView::editWorn() {
    const auto& specimens = m_session.project().lineup.specimens;
    if (m_index < specimens.size() && !specimens[m_index].wears.empty()) m_session.setTarget(specimens[m_index].wears[0]);
}

void SpecimenView::wheelEvent(QWheelEvent* e) { Q_EMIT zoomed(std::pow(0.9985f, float(e->angleDelta().y()))); }

void SpecimenView::keyPressEvent(QKeyEvent* e) {
    switch (e->key()) {
    case Qt::Key_Left: return Q_EMIT orbited(-8, 0);
    case Qt::Key_Right: return Q_EMIT orbited(8, 0);
    case Qt::Key_Up: return Q_EMIT orbited(0, 6);
    case Qt::Key_Down: return Q_EMIT orbited(0, -6);
    case Qt::Key_Return: return editWorn();
    case Qt::Key_Plus: return Q_EMIT zoomed(0.9f);
    case Qt::Key_Minus: return Q_EMIT zoomed(1.1f);
    default: QWidget::keyPressEvent(e);
    }
}

void SpecimenView::contextMenuEvent(QContextMenuEvent* e) { Q_EMIT menuWanted(e->globalPos()); }

void SpecimenView::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasFormat(kWornMime) || e->mimeData()->hasUrls()) e->acceptProposedAction();
}

void SpecimenView::dropEvent(QDropEvent* e) {
    Q_EMIT dropped(e->mimeData());
    e->acceptProposedAction();
}

LineupView::LineupView(Session& session, PictureService& pictures, QWidget* parent)
    : QWidget(parent), m_session(session), m_pictures(pictures) {
    setAccessibleName(tr("Lineup"));
    m_row = new QHBoxLayout(this);
    m_row->setContentsMargins(0, 0, 0, 0);
    m_row->setSpacing(2);
    m_add = new QToolButton;
    m_add->setText("+");
    m_add->setFixedWidth(28);
    m_add->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Expanding);
    m_add->setToolTip(tr("Add a specimen"));
    m_add->setAccessibleName(tr("Add a specimen"));
    m_row->addWidget(m_add);
    connect(m_add, &QToolButton::clicked, this, &LineupView::addSpecimen);
    connect(&session, &Session::changed, this, &LineupView::refresh);
    connect(&session, &Session::timeChanged, this, [this] { requestAll(true); });
    connect(&pictures, &PictureService::ready, this,
            [this](int place, const QImage& picture, const QString& problem, bool animated, quint64 serial) {
                if (SpecimenView* view = specimen(size_t(place))) view->show(picture, problem, animated, serial);
            });
    refresh();
}

void LineupView::change(const std::function<void(Lineup&)>& change) {
    Lineup lineup = m_session.project().lineup;
    change(lineup);
    m_session.setLineup(lineup);
}

void LineupView::changeByEdit(const QString& name, const std::function<void(Lineup&)>& change) {
    m_session.apply(name, [&](const Project& p) {
        Lineup lineup = p.lineup;
        change(lineup);
        return edit::setLineup(p, lineup);
    });
}

void LineupView::setView(const QString& key) {
    change([&](Lineup& l) { l.view = l.view == key.toStdString() ? "lit" : key.toStdString(); });
}

void LineupView::nextView() {
    change([](Lineup& l) { l.view = views()[size_t(findView(l.view) + 1) % views().size()].key; });
}

void LineupView::addSpecimen() {
    m_session.apply(tr("add specimen"), [&](const Project& p) {
        Lineup l = p.lineup;
        if (l.specimens.size() < kMost) l.specimens.push_back({"shape:sphere", {m_session.target()}});
        return edit::setLineup(p, l);
    });
}

void LineupView::refresh() {
    const auto& specimens = m_session.project().lineup.specimens;
    const size_t wanted = std::min(specimens.size(), kMost);
    while (m_views.size() > wanted) {
        m_views.back()->deleteLater();
        m_views.pop_back();
    }
    while (m_views.size() < wanted) {
        const size_t index = m_views.size();
        auto* view = new SpecimenView(m_session, index, this);
        m_views.push_back(view);
        m_row->insertWidget(int(index), view, 1);
        connect(view, &SpecimenView::orbited, this, [this](float yaw, float pitch) {
            change([&](Lineup& l) {
                l.orbit.yaw = std::fmod(l.orbit.yaw + yaw, 360.f);
                l.orbit.pitch = std::clamp(l.orbit.pitch + pitch, -85.f, 85.f);
            });
        });
        connect(view, &SpecimenView::zoomed, this,
                [this](float factor) { change([&](Lineup& l) { l.orbit.standOff = std::clamp(l.orbit.standOff * factor, 0.3f, 8.f); }); });
        connect(view, &SpecimenView::resized, this, [this] { requestAll(false); });
        connect(view, &SpecimenView::dropped, this, [this, index](const QMimeData* mime) {
            if (mime->hasFormat(kWornMime)) {
                const Id worn = mime->data(kWornMime).toStdString();
                // A drop dresses the first slot; the others are reached by the menu.
                m_session.apply(tr("wear %1").arg(text(m_session.project().nameOf(worn))),
                                [&](const Project& p) { return edit::wear(p, index, 0, worn); });
            } else {
                for (const QUrl& url : mime->urls()) importFile(m_session, url.toLocalFile());
            }
        });
        connect(view, &SpecimenView::menuWanted, this, [this, index](const QPoint& global) {
            auto* menu = new QMenu(this);
            menu->setAttribute(Qt::WA_DeleteOnClose);
            const Project& p = m_session.project();
            auto setMesh = [this, index](const Id& id) {
                m_session.apply(tr("change mesh"), [&](const Project& q) {
                    Lineup l = q.lineup;
                    l.specimens[index].mesh = id;
                    return edit::setLineup(q, l);
                });
            };
            auto* meshMenu = menu->addMenu(tr("Mesh"));
            for (const auto& m : p.meshes) meshMenu->addAction(text(m->name), this, [setMesh, id = m->id] { setMesh(id); });
            for (const auto& [id, name] : shapes()) meshMenu->addAction(text(name), this, [setMesh, id = id] { setMesh(id); });
            meshMenu->addSeparator();
            meshMenu->addAction(tr("Bring in a file"), this, [this] {
                const QString file = QFileDialog::getOpenFileName(this, tr("Bring in a mesh"), {}, tr("Meshes (*.glb *.gltf)"));
                if (!file.isEmpty()) importFile(m_session, file);
            });
            const MeshPtr mesh = m_session.assets().mesh(p, p.lineup.specimens[index].mesh);
            for (size_t slot = 0; slot < mesh->slots.size(); ++slot) {
                auto* wears = menu->addMenu(tr("%1 wears").arg(text(mesh->slots[slot].name)));
                auto add = [&](const Id& id) {
                    wears->addAction(text(p.nameOf(id)), this, [this, index, slot, id] {
                        m_session.apply(tr("wear"), [&](const Project& q) { return edit::wear(q, index, slot, id); });
                    });
                };
                for (const auto& m : p.masters) add(m->id);
                for (const auto& i : p.instances) add(i->id);
            }
            auto* lightMenu = menu->addMenu(tr("Light"));
            for (const LightDef& light : lights())
                lightMenu->addAction(text(light.name), this,
                                     [this, id = light.id] { changeByEdit(tr("change light"), [&](Lineup& l) { l.light = id; }); });
            auto* exposure = menu->addMenu(tr("Exposure"));
            for (int stops = -3; stops <= 3; ++stops)
                exposure->addAction(stops ? tr("%1%2 stops").arg(stops > 0 ? "+" : "").arg(stops) : tr("as it is"), this,
                                    [this, stops] { changeByEdit(tr("change exposure"), [&](Lineup& l) { l.exposure = float(stops); }); });
            auto* viewMenu = menu->addMenu(tr("Show"));
            for (const ViewDef& v : views())
                viewMenu->addAction(QString::fromUtf8(v.name.data()), this,
                                    [this, key = std::string(v.key)] { change([&](Lineup& l) { l.view = key; }); });
            auto* stand = menu->addMenu(tr("Stand-off"));
            for (const auto& [name, factor] : {std::pair{tr("near"), 0.55f}, {tr("middle"), 1.f}, {tr("far"), 2.5f}})
                stand->addAction(name, this, [this, f = factor] { change([&](Lineup& l) { l.orbit.standOff = f; }); });
            menu->addSeparator();
            menu->addAction(tr("Edit what it wears"), m_views[index], &SpecimenView::editWorn);
            menu->addAction(tr("Remove specimen"), this, [this, index] {
                m_session.apply(tr("remove specimen"), [&](const Project& q) {
                    Lineup l = q.lineup;
                    if (l.specimens.size() > 1) l.specimens.erase(l.specimens.begin() + long(index));
                    return edit::setLineup(q, l);
                });
            });
            menu->popup(global);
        });
    }
    m_add->setVisible(wanted < kMost);
    requestAll(false);
}

void LineupView::requestAll(bool onlyAnimated) {
    const Project& p = m_session.project();
    for (size_t i = 0; i < m_views.size() && i < p.lineup.specimens.size(); ++i) {
        SpecimenView* view = m_views[i];
        if ((onlyAnimated && !view->animated()) || view->pictureSize().width() < 8 || view->pictureSize().height() < 8) {
            view->update();
            continue;
        }
        PictureRequest r;
        r.snapshot = m_session.snapshot();
        r.specimen = p.lineup.specimens[i];
        r.time = m_session.time();
        r.settings.width = view->pictureSize().width();
        r.settings.height = view->pictureSize().height();
        r.settings.camera = p.lineup.orbit;
        r.settings.view = std::max(0, findView(p.lineup.view));
        r.settings.light = findLight(p.lineup.light) ? p.lineup.light : lights()[0].id;
        r.settings.exposure = p.lineup.exposure;
        static quint64 serial = 0;
        r.serial = ++serial;
        view->expect(serial, !onlyAnimated);
        m_pictures.request(int(i), std::move(r));
    }
}

} // namespace hue
