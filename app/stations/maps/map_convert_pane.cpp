#include "app/parts/theme.h"
#include "app/stations/maps/map_panes.h"
#include "core/edits/edits.h"
#include "core/maps/conversions.h"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QLabel>
#include <QPushButton>

namespace hue {
namespace {

QString text(std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); }

/// Behind the conversions of one map stands that of a whole set.
int glossIndex() { return int(conversions().size()); }

/// Diffuse, specular and gloss (or none, when it stands in specular's alpha) of a set, at most `side` pixels a side.
Result<MetallicSet> metallicOf(const std::array<std::filesystem::path, 3>& files, int side) {
    if (files[0].empty() || files[1].empty())
        return Error{"gloss.set",
                     "This needs a set that holds base color (the diffuse map) and specular, and gloss unless it is specular's alpha. Say "
                     "at the right what the maps hold.",
                     {}};
    std::array<Image, 3> maps;
    for (size_t i = 0; i < 3; ++i) {
        if (files[i].empty()) continue;
        auto read = readImage(files[i]);
        if (!read) return read.error();
        while (std::max(read->width, read->height) > side) *read = resized(*read, read->width / 2, read->height / 2, Filter::Box);
        maps[i] = std::move(*read);
    }
    return fromSpecularGloss(maps[0], maps[1], maps[2].empty() ? nullptr : &maps[2]);
}

QDoubleSpinBox* spin(double low, double high, double value, double step, const QString& unit) {
    auto* s = new QDoubleSpinBox;
    s->setRange(low, high);
    s->setDecimals(3);
    s->setSingleStep(step);
    s->setValue(value);
    s->setSuffix(unit);
    s->setButtonSymbols(QAbstractSpinBox::NoButtons);
    return s;
}

} // namespace

MapConvertPane::MapConvertPane(Session& session, MapService& service) : MapPane(session, service) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(2);
    const auto place = std::make_shared<CanvasPlace>();
    m_before = new MapCanvas(tr("Before"));
    m_after = new MapCanvas(tr("After"));
    m_before->setCaption(tr("before"));
    m_after->setCaption(tr("after"));
    for (MapCanvas* c : {m_before, m_after}) {
        c->follow(place);
        row->addWidget(c, 1);
        connect(c, &MapCanvas::moved, this, [this] {
            m_before->update();
            m_after->update();
        });
    }
    QFormLayout* form;
    QWidget* side = controlColumn(248, form);
    m_what = new QComboBox;
    m_what->setObjectName("convertWhat");
    m_what->setAccessibleName(tr("What is made"));
    for (const ConversionDef& c : conversions()) m_what->addItem(text(c.name));
    m_what->addItem(tr("metallic set from gloss set"));
    form->addRow(tr("Make"), m_what);
    m_said = new QLabel;
    m_said->setProperty("second", true);
    m_said->setWordWrap(true);
    form->addRow(m_said);
    m_strength = spin(-8, 8, 1, 0.1, {});
    m_width = spin(0.001, 1000, 1, 0.1, tr(" m"));
    m_depth = spin(0, 100, 0.02, 0.005, tr(" m"));
    m_other = new QComboBox;
    auto named = [&](const QString& name, QWidget* field) {
        auto* label = new QLabel(name);
        field->setAccessibleName(name);
        form->addRow(label, field);
        return label;
    };
    m_strengthName = named(tr("Strength"), m_strength);
    m_widthName = named(tr("Covers"), m_width);
    m_width->setToolTip(tr("Metres from the left to the right edge of the map"));
    m_depthName = named(tr("Depth"), m_depth);
    m_depth->setToolTip(tr("Metres from black to white"));
    m_otherName = named(tr("Other map"), m_other);
    m_keep = new QPushButton(tr("Keep as a new map"));
    m_keep->setObjectName("convertKeep");
    form->addRow(m_keep);
    row->addWidget(side);
    connect(m_what, &QComboBox::currentIndexChanged, this, &MapConvertPane::refresh);
    connect(m_other, &QComboBox::activated, this, &MapConvertPane::refresh);
    for (QDoubleSpinBox* s : {m_strength, m_width, m_depth}) connect(s, &QDoubleSpinBox::valueChanged, this, &MapConvertPane::refresh);
    connect(m_keep, &QPushButton::clicked, this, &MapConvertPane::keep);
}

void MapConvertPane::show(const Id& id) {
    const bool other = id != m_map;
    m_map = id;
    const MapFile* m = map();
    m_image = m ? m_service.image(id) : nullptr;
    const QVariant now = m_other->currentData();
    m_other->clear();
    for (const auto& entry : m_session.project().maps)
        if (entry->kind == MapKind::Normal && entry->id != id)
            m_other->addItem(QString::fromStdString(entry->name), QString::fromStdString(entry->id));
    m_other->setCurrentIndex(std::max(0, m_other->findData(now)));
    if (other && m) {
        // What one wants of such a map as a rule.
        const QSignalBlocker block(m_what);
        if (m->role == "gloss") m_what->setCurrentIndex(glossIndex());
        else if (m->kind == MapKind::Height || m->kind == MapKind::Normal) m_what->setCurrentIndex(int(usualConversion(m->kind)));
    }
    refresh();
}

std::array<std::filesystem::path, 3> MapConvertPane::glossFiles() const {
    std::array<std::filesystem::path, 3> out;
    const MapFile* m = map();
    static constexpr const char* roles[] = {"base color", "specular", "gloss"};
    for (size_t i = 0; i < 3 && m && !m->set.empty(); ++i)
        if (const MapFile* its = m_session.project().mapOfSet(m->set, roles[i])) out[i] = m_service.path(*its);
    return out;
}

std::function<Result<Image>(const Image&)> MapConvertPane::conversion() const {
    if (m_what->currentIndex() == glossIndex())
        return [gloss = glossFiles()](const Image&) -> Result<Image> {
            auto made = metallicOf(gloss, 512);
            if (!made) return made.error();
            return made->baseColor;
        };
    ConversionSettings settings{float(m_strength->value()), {float(m_width->value()), float(m_depth->value())}, nullptr};
    std::filesystem::path other;
    if (const MapFile* m = m_session.project().map(m_other->currentData().toString().toStdString())) other = m_service.path(*m);
    return [what = Conversion(m_what->currentIndex()), settings, other](const Image& image) mutable -> Result<Image> {
        Result<Image> detail = Image{};
        if (conversionDef(what).other && !other.empty()) {
            detail = readImage(other);
            if (!detail) return detail;
            settings.other = &*detail;
        }
        return convert(what, image, settings);
    };
}

void MapConvertPane::refresh() {
    ConversionDef w{};
    if (const int index = m_what->currentIndex(); index >= 0 && index < glossIndex()) w = conversions()[size_t(index)];
    m_said->setText(!w.help.empty()
                        ? text(w.help)
                        : tr("Base color, metallic and roughness from the diffuse (base color), specular and gloss maps of this "
                             "map's set."));
    auto visible = [](QLabel* label, QWidget* field, bool on) {
        label->setVisible(on);
        field->setVisible(on);
    };
    visible(m_strengthName, m_strength, w.strength);
    visible(m_widthName, m_width, w.width);
    visible(m_depthName, m_depth, w.depth);
    visible(m_otherName, m_other, w.other);
    m_before->setEmptyText(m_map.empty() ? QString() : tr("reading"));
    m_before->setImage(m_image ? imageOfScreen(colorPicture(*m_service.shown(m_image))) : QImage());
    m_keep->setEnabled(false);
    if (!m_image || !isVisible()) return m_after->setImage({});
    // The preview is made from a smaller map, so that turning a value is seen at once.
    m_session.runner().run(
        {.owner = this, .kind = "convert"},
        [image = m_service.shown(m_image), convert = conversion()](const Work&) {
            Image small = *image;
            while (std::max(small.width, small.height) > 512) small = resized(small, small.width / 2, small.height / 2, Filter::Box);
            return std::make_shared<Result<Image>>(convert(small));
        },
        [this](const std::shared_ptr<Result<Image>>& made) {
            m_after->setEmptyText(*made ? QString() : QString::fromStdString(made->error().sentence));
            m_after->setImage(*made ? imageOfScreen(colorPicture(**made)) : QImage());
            m_keep->setEnabled(bool(*made));
        });
}

void MapConvertPane::keep() {
    const MapFile* m = map();
    if (!m || !m_image) return;
    if (m_what->currentIndex() == glossIndex()) {
        const auto files = glossFiles();
        const std::string name = m->set;
        m_service.addMade(tr("make metallic set"), [files, name](const Work&) -> Result<std::vector<NewMap>> {
            auto made = metallicOf(files, 16384);
            if (!made) return made.error();
            std::vector<NewMap> maps;
            maps.push_back({name + " base color", MapKind::Color, std::move(made->baseColor), name + " metallic", "base color"});
            maps.push_back({name + " metallic", MapKind::Data, std::move(made->metallic), name + " metallic", "metallic"});
            maps.push_back({name + " roughness", MapKind::Data, std::move(made->roughness), name + " metallic", "roughness"});
            return maps;
        });
        return;
    }
    const ConversionDef& w = conversionDef(Conversion(m_what->currentIndex()));
    m_service.addMade(text(w.name),
                      [image = m_image, convert = conversion(), name = m->name + " " + std::string(w.suffix), kind = w.kind,
                       role = w.role](const Work&) -> Result<std::vector<NewMap>> {
                          auto made = convert(*image);
                          if (!made) return made.error();
                          return std::vector<NewMap>{{name, kind, std::move(*made), {}, role}};
                      });
}

} // namespace hue
