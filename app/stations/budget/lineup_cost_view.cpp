#include "app/stations/budget/lineup_cost_view.h"

#include "app/stations/budget/budget_table.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }
QString millions(double x) { return QString::number(x / 1e6, 'f', 2); }

} // namespace

LineupCostView::LineupCostView(Session& session, BudgetService& budget, QWidget* parent)
    : QWidget(parent), m_session(session), m_budget(budget) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 6, 0, 0);
    auto* top = new QHBoxLayout;
    m_size = new QComboBox;
    m_size->setObjectName("pictureSize");
    m_size->setAccessibleName(tr("Pixels of the picture"));
    m_size->setToolTip(tr("Write another size as 2560x1080"));
    m_size->setEditable(true);
    m_size->addItems({"1280x720", "1920x1080", "1800x1900", "2560x1440", "3840x2160"});
    m_size->setCurrentIndex(1);
    auto* label = new QLabel(tr("At"));
    label->setBuddy(m_size);
    top->addWidget(label);
    top->addWidget(m_size);
    top->addStretch();
    column->addLayout(top);
    m_table = budgetTable("pictureTable", tr("What a picture costs"),
                          {tr("Specimen"), tr("pixels"), tr("times each"), tr("M operations"), tr("M fetches")});
    m_table->headerItem()->setToolTip(1, tr("That show it, or would without what is see-through before it"));
    m_table->headerItem()->setToolTip(2, tr("How often each of them is computed: see-through and cut-out surfaces lie behind each other"));
    m_table->headerItem()->setToolTip(3, tr("Pixels times how often times the operations of each, in millions"));
    m_table->setRootIsDecorated(false);
    column->addWidget(m_table, 1);
    m_words = new QLabel;
    m_words->setObjectName("pictureWords");
    m_words->setWordWrap(true);
    column->addWidget(m_words);
    connect(m_size, &QComboBox::textActivated, this, [this] { count(); });
    connect(&budget, &BudgetService::pictureChanged, this, &LineupCostView::fill);
    connect(&budget, &BudgetService::targetChosen, this, &LineupCostView::fill);
}

void LineupCostView::refresh() {
    const auto facts = m_budget.picture();
    if (!facts || facts->of != m_session.snapshot()) count();
}

void LineupCostView::count() {
    const auto size = pictureSize(m_size->currentText().trimmed().toStdString());
    if (!size) return m_words->setText(text(size.error().sentence));
    m_words->setText(tr("being counted"));
    m_budget.countPicture(size->first, size->second);
}

void LineupCostView::fill() {
    if (!m_budget.picture()) return m_table->clear();
    const BudgetService::PictureFacts& f = *m_budget.picture();
    const Overdrawn most = mostOverdrawn(f.slots, m_budget.target());
    m_table->setSortingEnabled(false);
    m_table->clear();
    double operations = 0, fetches = 0, dearest = 1;
    for (const ShadedSlot& s : f.slots) {
        operations += s.allOperations();
        fetches += s.allFetches();
        dearest = std::max(dearest, s.allOperations());
    }
    for (const ShadedSlot& s : f.slots) {
        const QString name = s.worn.empty() ? tr("nothing worn") : text(f.of->nameOf(s.worn));
        auto* item = new FigureRow({tr("%1, slot %2: %3").arg(s.specimen + 1).arg(s.slot + 1).arg(name), QString::number(s.covered),
                                    QString::number(s.overdraw(), 'f', 2), millions(s.allOperations()), millions(s.allFetches())});
        for (int c = 1; c <= 4; ++c) item->setTextAlignment(c, Qt::AlignRight | Qt::AlignVCenter);
        item->setData(3, Part, s.allOperations() / dearest);
        const bool over = &s == most.slot && most.against.over();
        const bool layered = s.seeThrough || s.alpha != AlphaMode::Opaque;
        item->setData(2, Part, layered && most.against.limit > 0 ? s.overdraw() / most.against.limit : 0);
        item->setData(2, Over, over);
        if (const Master* m = f.of->masterOf(s.worn)) item->setData(0, Board, text(m->id));
        m_table->addTopLevelItem(item);
    }
    m_table->header()->setStretchLastSection(false);
    m_table->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    for (int c = 1; c <= 4; ++c) m_table->setColumnWidth(c, 92);
    m_table->header()->setSortIndicator(-1, Qt::DescendingOrder);
    m_table->setSortingEnabled(true);
    if (!f.problem.empty()) return m_words->setText(text(f.problem));
    QString words = tr("All together at %1 x %2: %3 million operations, %4 million fetches.")
                        .arg(f.width)
                        .arg(f.height)
                        .arg(millions(operations), millions(fetches));
    if (f.slots.empty()) words = tr("There is no specimen. Add one to the lineup.");
    if (most.slot && most.against.def)
        words += tr(" Most often computed: %1, %2%3.")
                     .arg(text(f.of->nameOf(most.slot->worn)), text(most.against.words()), most.against.over() ? tr(", over") : QString());
    m_words->setText(words);
}

} // namespace hue
