#include "app/lineup/scene_panel.h"

#include "app/lineup/lineup_view.h"
#include "app/parts/fields.h"
#include "app/parts/theme.h"

#include <QComboBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QFormLayout>
#include <QLabel>

namespace hue {
namespace {

struct NumberDef {
    const char *key, *name, *tip, *unit;
    float low, high;
    float Lineup::*member;
};
constexpr NumberDef kNumbers[] = {
    {"rotation", QT_TRANSLATE_NOOP("Scene", "Turn of the light"), QT_TRANSLATE_NOOP("Scene", "About the vertical, sun and all"), "\u00B0",
     -180, 180, &Lineup::rotation},
    {"sun", QT_TRANSLATE_NOOP("Scene", "Sun"), QT_TRANSLATE_NOOP("Scene", "Strength of the light's own sun; 0 takes it away"), "", 0, 4,
     &Lineup::sun},
    {"exposure", QT_TRANSLATE_NOOP("Scene", "Exposure"), QT_TRANSLATE_NOOP("Scene", "In stops: each doubles the light"), "stops", -5, 5,
     &Lineup::exposure},
    {"glare", QT_TRANSLATE_NOOP("Scene", "Glare"), QT_TRANSLATE_NOOP("Scene", "Halo around what is brighter than white"), "", 0, 1,
     &Lineup::glare},
};

const std::vector<std::pair<std::string, QString>>& backdrops() {
    static const std::vector<std::pair<std::string, QString>> all = {{"surround", QObject::tr("surround grey")},
                                                                     {"environment", QObject::tr("the light, blurred")},
                                                                     {"depot", QObject::tr("depot floor and wall")}};
    return all;
}

} // namespace

ScenePanel::ScenePanel(Session& session, LineupView& lineup) : QFrame(&lineup, Qt::Popup), m_session(session), m_lineup(lineup) {
    setObjectName("panel");
    setFrameShape(QFrame::Box);
    setAccessibleName(tr("Scene"));
    auto* form = new QFormLayout(this);
    form->setContentsMargins(14, 12, 14, 12);
    form->setSpacing(7);
    auto box = [&](const QString& name, const QString& tip) {
        auto* b = new QComboBox;
        b->setAccessibleName(name);
        b->setToolTip(tip);
        b->setMinimumWidth(220);
        form->addRow(name, b);
        return b;
    };
    m_light = box(tr("Light"), tr("Made by code, or from an HDR or EXR file of the whole surroundings"));
    for (const NumberDef& n : kNumbers) {
        auto* field = new ValueField;
        field->setRange(n.low, n.high);
        field->setUnit(tr(n.unit));
        field->setAccessibleName(tr(n.name));
        field->setToolTip(tr(n.tip));
        form->addRow(tr(n.name), field);
        m_fields[n.key] = field;
        connect(field, &ValueField::edited, this, [this, &n](const Value& v) {
            m_lineup.changeByEdit(
                tr("change scene"), [&](Lineup& l) { l.*n.member = std::clamp(v[0], n.low * 2, n.high * 2); }, QString("scene") + n.key);
        });
        connect(field, &ValueField::editingDone, &session, &Session::endRow);
    }
    m_tone = box(tr("Tone curve"), tr("How radiance becomes what the screen shows"));
    for (const ToneCurveDef& t : toneCurves()) {
        m_tone->addItem(QString::fromUtf8(t.name.data()), QString::fromUtf8(t.key.data()));
        m_tone->setItemData(m_tone->count() - 1, QString::fromUtf8(t.help.data()), Qt::ToolTipRole);
    }
    m_backdrop = box(tr("Backdrop"), tr("What stands behind the specimens"));
    for (const auto& [key, name] : backdrops()) m_backdrop->addItem(name, QString::fromStdString(key));
    connect(m_light, &QComboBox::activated, this, &ScenePanel::chooseLight);
    connect(m_tone, &QComboBox::activated, this, [this] {
        m_lineup.changeByEdit(tr("change tone curve"), [&](Lineup& l) { l.tone = m_tone->currentData().toString().toStdString(); });
    });
    connect(m_backdrop, &QComboBox::activated, this, [this] {
        m_lineup.changeByEdit(tr("change backdrop"), [&](Lineup& l) { l.backdrop = m_backdrop->currentData().toString().toStdString(); });
    });
    // Closed, it has nothing to follow.
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (isVisible() && what.any(Change::Lineup | Change::Camera | Change::Names | Change::Maps)) refresh();
    });
    refresh();
}

void ScenePanel::chooseLight(int) {
    QString id = m_light->currentData().toString();
    if (id.isEmpty()) {
        hide();
        id = QFileDialog::getOpenFileName(&m_lineup, tr("Bring in a light"), {}, tr("Surroundings (*.hdr *.exr)"));
        if (id.isEmpty()) return refresh();
        id = QString::fromStdString(m_session.assets().stored(id.toStdString()));
    }
    m_lineup.changeByEdit(tr("change light"), [&](Lineup& l) { l.light = id.toStdString(); });
}

void ScenePanel::refresh() {
    const Lineup& l = m_session.project().lineup;
    m_light->clear();
    for (const LightDef& light : lights()) m_light->addItem(QString::fromStdString(light.name), QString::fromStdString(light.id));
    if (!findLight(l.light)) m_light->addItem(QFileInfo(QString::fromStdString(l.light)).fileName(), QString::fromStdString(l.light));
    m_light->addItem(tr("From a file\u2026"), QString());
    m_light->setCurrentIndex(m_light->findData(QString::fromStdString(l.light)));
    for (const NumberDef& n : kNumbers) m_fields[n.key]->setValue(Value::number(l.*n.member));
    m_tone->setCurrentIndex(m_tone->findData(QString::fromStdString(l.tone)));
    m_backdrop->setCurrentIndex(m_backdrop->findData(QString::fromStdString(l.backdrop)));
}

} // namespace hue
