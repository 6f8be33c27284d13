#include "app/stations/budget/limits_panel.h"

#include "app/parts/theme.h"
#include "app/stations/budget/target_dialog.h"
#include "app/stations/budget/version_dialog.h"

#include <QInputDialog>
#include <QLabel>
#include <QListWidget>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QTreeWidget>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }
QString text(std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); }
QString figure(double x) { return QString::number(x, 'f', x == std::floor(x) ? 0 : 1); }

} // namespace

LimitBar::LimitBar(QWidget* parent) : QWidget(parent) { setFixedHeight(32); }

void LimitBar::set(const Against& a) {
    m_name = text(a.def->name);
    m_limited = a.limit > 0;
    m_over = a.over();
    m_share = a.share();
    m_figure = m_limited ? tr("%1 of %2").arg(figure(a.figure), figure(a.limit)) : figure(a.figure);
    if (a.def->unit == "MB") m_figure += " MB";
    const QString state = !m_limited ? tr("no limit") : m_over ? tr("over the limit") : tr("within the limit");
    setToolTip(tr("%1\n%2: %3").arg(text(a.def->help), m_figure, state));
    setAccessibleName(tr("%1: %2, %3").arg(m_name, m_figure, state));
    update();
}

void LimitBar::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = theme();
    p.setFont(textFont(12, m_over));
    p.setPen(t.ink);
    const QString words = m_over ? tr("over: %1").arg(m_figure) : m_figure;
    const int room = width() - QFontMetrics(codeFont(12)).horizontalAdvance(words) - 8;
    p.drawText(QRect(0, 0, room, 18), Qt::AlignLeft | Qt::AlignVCenter, p.fontMetrics().elidedText(m_name, Qt::ElideRight, room));
    p.setFont(codeFont(12));
    p.drawText(QRect(0, 0, width(), 18), Qt::AlignRight | Qt::AlignVCenter, words);
    const QRectF bar(0.5, 19.5, width() - 1, 7);
    p.setPen(QPen(t.ink2, 1));
    p.setBrush(t.card);
    p.drawRect(bar);
    if (!m_limited) return;
    p.fillRect(QRectF(bar.left(), bar.top() + 1, bar.width() * std::min(1., m_share), bar.height() - 1),
               m_over ? hatch(t.ink) : QBrush(t.ink));
}

LimitsPanel::LimitsPanel(Session& session, BudgetService& budget, QWidget* parent) : QWidget(parent), m_session(session), m_budget(budget) {
    setFixedWidth(236);
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(0, 0, 0, 0);
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto* body = new QWidget;
    scroll->setWidget(body);
    outer->addWidget(scroll);
    auto* column = new QVBoxLayout(body);
    column->setContentsMargins(12, 8, 12, 8);
    column->setSpacing(4);
    const auto heading = [&](const QString& words) {
        auto* l = new QLabel(words.toUpper());
        l->setFont(textFont(11));
        l->setProperty("second", true);
        column->addSpacing(4);
        column->addWidget(l);
    };
    heading(tr("Target"));
    m_target = new QLabel;
    m_target->setWordWrap(true);
    column->addWidget(m_target);
    m_bars = new QVBoxLayout;
    m_bars->setSpacing(2);
    column->addLayout(m_bars);
    m_formats = new QLabel;
    m_formats->setWordWrap(true);
    column->addWidget(m_formats);
    auto* own = new QPushButton(tr("Own target\u2026"));
    own->setObjectName("ownTarget");
    own->setToolTip(tr("A copy of this target with other limits, for you or beside the project; or this one, where it is your own"));
    connect(own, &QPushButton::clicked, this, [this] {
        auto* dialog = new TargetDialog(m_session, m_budget, window());
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->open();
    });
    column->addWidget(own);
    heading(tr("Measured"));
    m_families = new QTreeWidget;
    m_families->setObjectName("measuredFamilies");
    m_families->setAccessibleName(tr("Measured on families of graphics cards"));
    m_families->setRootIsDecorated(false);
    m_families->setFocusPolicy(Qt::TabFocus);
    m_families->setHeaderLabels({tr("family"), tr("instr"), tr("reg"), tr("sub")});
    m_families->setToolTip(
        tr("What the compilers of these graphics cards make of the pixel stage: instructions apart from what any material costs, "
           "vector registers, and how many subgroups run beside each other. No card is needed for that."));
    m_families->setFixedHeight(132);
    column->addWidget(m_families);
    m_steps = new QLabel;
    m_steps->setObjectName("measuredSteps");
    m_steps->setWordWrap(true);
    m_steps->setProperty("second", true);
    column->addWidget(m_steps);
    heading(tr("Versions"));
    m_versions = new QListWidget;
    m_versions->setObjectName("versions");
    m_versions->setAccessibleName(tr("States that are kept to be compared with"));
    m_versions->setToolTip(tr("Enter or a double click compares one with the present state"));
    connect(m_versions, &QListWidget::itemActivated, this, [this](QListWidgetItem* item) { compareVersion(m_versions->row(item)); });
    m_versions->setFixedHeight(64);
    column->addWidget(m_versions);
    auto* keepButton = new QPushButton(tr("Keep this state\u2026"));
    keepButton->setObjectName("keepVersion");
    keepButton->setToolTip(tr("Under a name, to be set beside a later one: costs, pictures and how far they lie apart"));
    connect(keepButton, &QPushButton::clicked, this, &LimitsPanel::keep);
    column->addWidget(keepButton);
    column->addStretch();
    connect(&budget, &BudgetService::factsChanged, this, &LimitsPanel::showLimits);
    connect(&budget, &BudgetService::targetChosen, this, &LimitsPanel::showLimits);
    connect(&budget, &BudgetService::measuredChanged, this, &LimitsPanel::showFamilies);
    connect(&budget, &BudgetService::factsChanged, this, &LimitsPanel::showFamilies);
    connect(&budget, &BudgetService::versionsChanged, this, &LimitsPanel::showVersions);
    showLimits();
    showFamilies();
    showVersions();
}

void LimitsPanel::showLimits() {
    const Target& t = m_budget.target();
    m_target->setText(text(t.name));
    m_target->setFont(textFont(14, true));
    m_target->setToolTip(text(t.about));
    std::vector<Against> all = m_budget.facts()->verdict.limits;
    for (const Against& a : m_budget.facts()->project.builds)
        if (const size_t k = size_t(&a - m_budget.facts()->project.builds.data());
            m_budget.facts()->project.masters[k] == m_budget.facts()->ledger.master)
            all.push_back(a);
    if (m_budget.facts()->project.memory.def) all.push_back(m_budget.facts()->project.memory);
    while (m_rows.size() < all.size()) {
        m_rows.push_back(new LimitBar);
        m_bars->addWidget(m_rows.back());
    }
    for (size_t k = 0; k < m_rows.size(); ++k) {
        m_rows[k]->setVisible(k < all.size());
        if (k < all.size()) m_rows[k]->set(all[k]);
    }
    QStringList bad;
    for (const std::string& map : m_budget.facts()->verdict.badFormats) bad << text(map);
    m_formats->setVisible(!bad.isEmpty());
    m_formats->setText(tr("In formats that it does not read: %1").arg(bad.join(", ")));
}

void LimitsPanel::showFamilies() {
    m_families->clear();
    const auto& all = m_budget.measured();
    const std::string why = whyNotMeasured();
    m_families->setVisible(why.empty());
    if (!why.empty()) return m_steps->setText(text(why));
    if (all.empty()) return m_steps->setText(tr("being measured"));
    QStringList words;
    for (size_t k = 0; k < all.size() && k < families().size(); ++k) {
        auto* item = new QTreeWidgetItem(m_families, QStringList{text(families()[k].key)});
        item->setToolTip(0, text(families()[k].name));
        if (!all[k]) {
            words << text(all[k].error().sentence);
            continue;
        }
        const double figures[] = {all[k]->pixel(kInstructions), all[k]->whole.pixel(kVectorRegisters), all[k]->whole.pixel(kOccupancy)};
        for (int c = 0; c < 3; ++c) {
            item->setText(c + 1, QString::number(figures[c]));
            item->setTextAlignment(c + 1, Qt::AlignRight | Qt::AlignVCenter);
        }
        if (k < m_budget.steps().size() && !m_budget.steps()[k].empty())
            words << tr("%1: %2").arg(text(families()[k].key), text(m_budget.steps()[k]));
    }
    const int widths[] = {72, 44, 36, 34};
    for (int c = 0; c < 4; ++c) m_families->setColumnWidth(c, widths[c]);
    m_steps->setText(words.join('\n'));
}

void LimitsPanel::showVersions() {
    m_versions->clear();
    for (const KeptVersion& v : m_budget.versions()) m_versions->addItem(v.name);
    if (m_budget.versions().empty()) {
        auto* hint = new QListWidgetItem(tr("none kept"), m_versions);
        hint->setFlags(Qt::NoItemFlags);
    }
}

void LimitsPanel::keep() {
    bool done = false;
    const QString name = QInputDialog::getText(this, tr("Keep this state"), tr("Name:"), QLineEdit::Normal,
                                               tr("Version %1").arg(m_budget.versions().size() + 1), &done);
    if (done && !name.trimmed().isEmpty()) m_budget.keepVersion(name.trimmed());
}

void LimitsPanel::compareVersion(int k) {
    if (k < 0 || size_t(k) >= m_budget.versions().size()) return;
    auto* dialog = new VersionDialog(m_session, m_budget, size_t(k), window());
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->show();
}

} // namespace hue
