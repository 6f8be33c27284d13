#include "app/lineup/placements_dialog.h"

#include "core/edits/edits.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QPushButton>
#include <QSpinBox>

namespace hue {

PlacementsDialog::PlacementsDialog(Session& session, size_t specimen, QWidget* parent)
    : QDialog(parent), m_session(session), m_specimen(specimen) {
    setWindowTitle(tr("Placements of specimen %1").arg(specimen + 1));
    setAttribute(Qt::WA_DeleteOnClose);
    auto* form = new QFormLayout(this);
    m_form = new QComboBox;
    m_form->addItems({tr("once"), tr("in a row"), tr("in a grid"), tr("in a ring")});
    m_form->setObjectName("form");
    form->addRow(tr("The mesh stands"), m_form);
    const auto whole = [&](const QString& name, const char* key, int low, int high, const QString& help) {
        auto* box = new QSpinBox;
        box->setRange(low, high);
        box->setToolTip(help);
        box->setObjectName(key);
        form->addRow(name, box);
        connect(box, &QSpinBox::valueChanged, this, &PlacementsDialog::apply);
        return box;
    };
    const auto number = [&](const QString& name, const char* key, double low, double high, double step, const QString& unit,
                            const QString& help) {
        auto* box = new QDoubleSpinBox;
        box->setRange(low, high);
        box->setSingleStep(step);
        box->setSuffix(unit);
        box->setToolTip(help);
        box->setObjectName(key);
        form->addRow(name, box);
        connect(box, &QDoubleSpinBox::valueChanged, this, &PlacementsDialog::apply);
        return box;
    };
    m_count = whole(tr("Copies"), "count", 2, Placements::kMost, tr("How many; of a grid, how many across"));
    m_rows = whole(tr("Rows"), "rows", 1, Placements::kMost / 2, tr("Of a grid. At most %1 copies are placed").arg(Placements::kMost));
    m_spacing =
        number(tr("Spacing"), "spacing", 0.1, 10, 0.05, tr(" widths"), tr("From one to the next, as a multiple of the mesh's width"));
    m_turn = number(tr("Turn"), "turn", -3600, 3600, 15, tr("°"), tr("By how much the last is turned more than the first"));
    m_lift = number(tr("Lift"), "lift", -100, 100, 0.1, tr(" m"), tr("By how much the last stands higher than the first"));
    m_turn->setDecimals(1);
    m_size = number(tr("Size of the last"), "size", 0.1, 10, 0.1, tr(" times"), tr("As a multiple of the first"));
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    form->addRow(buttons);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::close);
    connect(m_form, &QComboBox::currentIndexChanged, this, &PlacementsDialog::apply);
    const auto now = [this] {
        const auto& specimens = m_session.project().lineup.specimens;
        if (m_specimen >= specimens.size()) close();
        else fill(specimens[m_specimen].placements);
    };
    // An undo elsewhere shows here as well.
    connect(&m_session, &Session::changed, this, now);
    now();
}

std::optional<Placements> PlacementsDialog::placements() const {
    if (m_form->currentIndex() == 0) return {};
    Placements p;
    p.form = Placements::Form(m_form->currentIndex() - 1);
    p.count = m_count->value();
    p.rows = m_rows->value();
    p.spacing = float(m_spacing->value());
    p.turn = float(m_turn->value());
    p.lift = float(m_lift->value());
    p.size = float(m_size->value());
    p.extra = m_extra;
    return p;
}

void PlacementsDialog::fill(const std::optional<Placements>& placements) {
    m_showing = true;
    const Placements p = placements.value_or(Placements{});
    if (placements || m_form->currentIndex() != 0) m_form->setCurrentIndex(placements ? int(p.form) + 1 : 0);
    if (placements) {
        m_count->setValue(p.count);
        m_extra = p.extra;
    } else if (m_count->value() < 3) {
        m_count->setValue(p.count);
    }
    const auto set = [](QDoubleSpinBox* box, float value) {
        // What is shown rounded stays as it is.
        if (std::abs(box->value() - double(value)) > 0.005) box->setValue(double(value));
    };
    m_rows->setValue(p.rows);
    set(m_spacing, p.spacing);
    set(m_turn, p.turn);
    set(m_lift, p.lift);
    set(m_size, p.size);
    for (QWidget* box : {static_cast<QWidget*>(m_count), static_cast<QWidget*>(m_spacing), static_cast<QWidget*>(m_turn),
                         static_cast<QWidget*>(m_lift), static_cast<QWidget*>(m_size)})
        box->setEnabled(placements.has_value());
    static_cast<QFormLayout*>(layout())->setRowVisible(m_rows, p.form == Placements::Form::Grid && placements);
    adjustSize();
    m_showing = false;
}

void PlacementsDialog::apply() {
    if (m_showing) return;
    m_session.apply(
        tr("place copies"),
        [&](const Project& p) {
            Lineup lineup = p.lineup;
            if (m_specimen < lineup.specimens.size()) lineup.specimens[m_specimen].placements = placements();
            return edit::setLineup(p, lineup);
        },
        QString("placements %1").arg(m_specimen));
}

} // namespace hue
