#include "app/stations/instances/variations_dialog.h"

#include "app/parts/theme.h"
#include "core/instances/value_words.h"
#include "preview/worn_pictures.h"

#include <QCheckBox>
#include <QDialogButtonBox>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QScrollArea>
#include <QSpinBox>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

constexpr int kPicture = 96;   // pixels a side
constexpr int kMostDrawn = 64; // of a row; the others have names alone

} // namespace

VariationsDialog::VariationsDialog(Session& session, const Id& of, QWidget* parent) : QDialog(parent), m_session(session), m_of(of) {
    const Project& p = session.project();
    const Resolved all = resolve(p, of);
    setWindowTitle(tr("Variations of %1").arg(text(p.nameOf(of))));
    resize(860, 520);
    auto* halves = new QHBoxLayout(this);
    auto* column = new QVBoxLayout;
    halves->addLayout(column, 1);
    auto* rows = new QWidget;
    auto* grid = new QGridLayout(rows);
    grid->addWidget(new QLabel(tr("Varies")), 0, 0);
    grid->addWidget(new QLabel(tr("from")), 0, 1);
    grid->addWidget(new QLabel(tr("to")), 0, 2);
    const auto field = [&](const QString& words, const QString& name, const QString& tip) {
        auto* line = new QLineEdit(words);
        line->setAccessibleName(name);
        line->setToolTip(tip);
        return line;
    };
    for (const Parameter& its : all.master->parameters) {
        const QString name = text(its.name), key = text(its.codeName);
        Row row{its.id, new QCheckBox(name), nullptr, nullptr};
        row.varies->setObjectName("varies_" + key);
        row.varies->setToolTip(its.description.empty() ? tr("Whether %1 varies").arg(name) : text(its.description));
        const std::string now = wordsOf(p, its, all.values.at(its.id).value);
        const int at = grid->rowCount();
        grid->addWidget(row.varies, at, 0);
        if (!its.width()) {
            row.low = field(text(now), tr("%1, values").arg(name),
                            tr("Values with semicolons between them: names of maps, or curves and the like in words"));
            grid->addWidget(row.low, at, 1, 1, 2);
        } else {
            const bool slides = its.type == ParameterType::Number;
            row.low = field(slides ? QString::number(double(its.softMin)) : text(now), tr("%1, from").arg(name), tr("The low end"));
            row.high = field(slides ? QString::number(double(its.softMax)) : text(now), tr("%1, to").arg(name), tr("The high end"));
            row.high->setObjectName("high_" + key);
            grid->addWidget(row.low, at, 1);
            grid->addWidget(row.high, at, 2);
        }
        row.low->setObjectName("low_" + key);
        // Who types a range means it.
        for (QLineEdit* line : {row.low, row.high})
            if (line) connect(line, &QLineEdit::textEdited, row.varies, [box = row.varies] { box->setChecked(true); });
        for (QLineEdit* line : {row.low, row.high})
            if (line) connect(line, &QLineEdit::textChanged, this, &VariationsDialog::tell);
        connect(row.varies, &QCheckBox::toggled, this, &VariationsDialog::tell);
        m_rows.push_back(row);
    }
    grid->setRowStretch(grid->rowCount(), 1);
    auto* scroll = new QScrollArea;
    scroll->setWidget(rows);
    scroll->setWidgetResizable(true);
    column->addWidget(scroll, 1);

    auto* how = new QGridLayout;
    const auto number = [&](const char* object, const QString& name, int low, int high, int value, const QString& tip) {
        auto* box = new QSpinBox;
        box->setObjectName(object);
        box->setAccessibleName(name);
        box->setToolTip(tip);
        box->setRange(low, high);
        box->setValue(value);
        how->addWidget(new QLabel(name), how->rowCount(), 0);
        how->addWidget(box, how->rowCount() - 1, 1);
        connect(box, &QSpinBox::valueChanged, this, &VariationsDialog::tell);
        return box;
    };
    m_count = number("varyCount", tr("How many"), 1, kMostVariations, 8, tr("Instances that are made"));
    m_seed = number("varySeed", tr("Seed"), 0, 999'999, 1, tr("Of the chance; the same gives the same"));
    m_gradual = new QCheckBox(tr("Gradual"));
    m_gradual->setObjectName("varyGradual");
    m_gradual->setToolTip(
        tr("From low to high in even steps, all together; else each takes a value out of every part of its range by chance"));
    connect(m_gradual, &QCheckBox::toggled, m_seed, &QWidget::setDisabled);
    how->addWidget(m_gradual, how->rowCount(), 1);
    m_name = field({}, tr("Name"), tr("Of all, with numbers behind"));
    m_name->setObjectName("varyName");
    m_name->setPlaceholderText(p.instance(of) ? text(p.instance(of)->name) : tr("Variation"));
    connect(m_name, &QLineEdit::textChanged, this, &VariationsDialog::tell);
    how->addWidget(new QLabel(tr("Name")), how->rowCount(), 0);
    how->addWidget(m_name, how->rowCount() - 1, 1);
    column->addLayout(how);
    m_said = new QLabel;
    m_said->setObjectName("varySaid");
    m_said->setWordWrap(true);
    column->addWidget(m_said);
    auto* buttons = new QDialogButtonBox;
    m_make = buttons->addButton(tr("Make them"), QDialogButtonBox::AcceptRole);
    buttons->addButton(tr("Go back"), QDialogButtonBox::RejectRole);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    column->addWidget(buttons);
    m_pictures = new QListWidget;
    m_pictures->setObjectName("varyPictures");
    m_pictures->setAccessibleName(tr("Variations"));
    m_pictures->setToolTip(tr("As they would look. Those without a tick are not made; Space changes it"));
    m_pictures->setViewMode(QListView::IconMode);
    m_pictures->setResizeMode(QListView::Adjust);
    m_pictures->setMovement(QListView::Static);
    m_pictures->setIconSize({kPicture, kPicture});
    m_pictures->setGridSize({kPicture + 36, kPicture + 32}); // with the tick, and the name below
    m_pictures->setTextElideMode(Qt::ElideMiddle);
    m_pictures->setMinimumWidth(3 * (kPicture + 36) + 48);
    halves->addWidget(m_pictures, 1);
    connect(m_pictures, &QListWidget::itemChanged, this, &VariationsDialog::tell);
    m_soon.setSingleShot(true);
    m_soon.setInterval(300);
    connect(&m_soon, &QTimer::timeout, this, &VariationsDialog::draw);
    tell();
}

Result<Variations> VariationsDialog::variations() const {
    const Project& p = m_session.project();
    const Master& master = *p.masterOf(m_of);
    Variations out{m_of, m_name->text().trimmed().toStdString(), m_count->value(), m_gradual->isChecked(), uint32_t(m_seed->value()), {},
                   {}};
    for (const Row& row : m_rows) {
        if (!row.varies->isChecked()) continue;
        const QString words = row.high ? row.low->text() + ".." + row.high->text() : row.low->text();
        const Result<Varied> varied = variedFrom(p, *master.parameter(row.parameter), words.toStdString());
        if (!varied) return varied.error();
        out.varied.push_back(*varied);
    }
    for (int k = 0; k < m_pictures->count(); ++k)
        if (m_pictures->item(k)->checkState() != Qt::Checked) out.without.insert(k);
    return out;
}

void VariationsDialog::tell() {
    // As many entries as are to be made, ticked at first.
    const QSignalBlocker quiet(m_pictures);
    while (m_pictures->count() > m_count->value()) delete m_pictures->takeItem(m_pictures->count() - 1);
    while (m_pictures->count() < m_count->value()) {
        auto* item = new QListWidgetItem(QString::number(m_pictures->count() + 1), m_pictures);
        item->setCheckState(Qt::Checked);
    }
    const Result<Variations> wanted = variations();
    const Result<Project> made = wanted ? withVariations(m_session.project(), *wanted) : wanted.error();
    m_make->setEnabled(bool(made));
    m_said->setText(made ? counted(m_count->value() - int(wanted->without.size()), tr("instance"), tr("instances"))
                         : text(made.error().sentence));
    m_soon.start();
}

void VariationsDialog::draw() {
    Result<Variations> wanted = variations();
    if (!wanted) return;
    wanted->without.clear();
    std::vector<Id> made;
    const Result<Project> state = withVariations(m_session.project(), *wanted, &made);
    if (!state) return;
    struct Seen {
        QString name;
        QImage picture;
        QString problem;
    };
    m_session.runner().start({.owner = this, .kind = "variations", .pace = Pace::Long},
                             [this, files = m_session.files(), state = std::make_shared<const Project>(*state),
                              made](const Work& work, const Runner::Tell& shown) -> std::function<void()> {
                                 const auto pictures = WornPictures::start(*state, files->assets);
                                 for (size_t k = 0; k < made.size() && k < size_t(kMostDrawn) && !work.stopped(); ++k) {
                                     Seen look{text(state->instance(made[k])->name), {}, {}};
                                     if (pictures) {
                                         (*pictures)->side = kPicture;
                                         (*pictures)->samples = 4;
                                         const Result<RenderedPicture> p = (*pictures)->draw(made[k]);
                                         if (p)
                                             look.picture =
                                                 QImage(p->rgba.data(), p->width, p->height, p->width * 4, QImage::Format_RGBA8888).copy();
                                         else look.problem = text(p.error().sentence);
                                     } else {
                                         look.problem = text(pictures.error().sentence);
                                     }
                                     shown([this, k, look] {
                                         QListWidgetItem* item = m_pictures->item(int(k));
                                         if (!item) return;
                                         const QSignalBlocker quiet(m_pictures);
                                         item->setText(look.name);
                                         item->setIcon(QIcon(QPixmap::fromImage(look.picture)));
                                         item->setToolTip(look.problem);
                                     });
                                 }
                                 return [] {};
                             });
}

} // namespace hue
