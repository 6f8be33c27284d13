#include "app/stations/budget/budget_page.h"

#include "app/parts/theme.h"
#include "app/stations/budget/budget_table.h"
#include "app/stations/budget/fit_plot.h"
#include "app/stations/budget/history_view.h"
#include "app/stations/budget/limits_panel.h"
#include "app/stations/budget/lineup_cost_view.h"
#include "app/stations/budget/suggestion_list.h"

#include <QButtonGroup>
#include <QClipboard>
#include <QComboBox>
#include <QGuiApplication>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QStackedWidget>
#include <QStyledItemDelegate>
#include <QToolButton>
#include <QTreeWidget>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }
QString text(std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); }
QString figure(double x) { return x == 0 ? QString() : QString::number(x, 'f', std::fabs(x - std::round(x)) < 0.005 ? 0 : 1); }

enum Column { Name, Operations, Fetches, Instructions, Rests };
enum Page { LedgerPage, MatrixPage, MapsPage, PicturePage, HistoryPage };

} // namespace

BudgetPage::BudgetPage(Workplace& workplace) : Station(workplace, {}), m_session(workplace.session), m_budget(workplace.budget) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    m_limits = new LimitsPanel(m_session, m_budget);
    row->addWidget(m_limits);

    auto* middle = new QVBoxLayout;
    middle->setContentsMargins(8, 10, 8, 10);
    auto* bar = new QHBoxLayout;
    m_views = new QButtonGroup(this);
    const QString views[] = {tr("This material"), tr("All masters"), tr("Maps"), tr("Picture"), tr("Over time")};
    const char* names[] = {"budgetLedger", "budgetMatrix", "budgetMaps", "budgetPicture", "budgetHistory"};
    for (int k = LedgerPage; k <= HistoryPage; ++k) {
        auto* b = new QToolButton;
        b->setObjectName(names[k]);
        b->setText(views[k]);
        b->setCheckable(true);
        m_views->addButton(b, k);
        bar->addWidget(b);
    }
    m_views->button(0)->setChecked(true);
    m_filter = new QLineEdit;
    m_filter->setObjectName("budgetFilter");
    m_filter->setAccessibleName(tr("Filter"));
    m_filter->setPlaceholderText(tr("filter"));
    m_filter->setClearButtonEnabled(true);
    m_filter->setFixedWidth(130);
    bar->addStretch();
    bar->addWidget(m_filter);
    middle->addLayout(bar);
    auto* second = new QHBoxLayout;
    m_head = new QLabel;
    m_head->setObjectName("budgetHead");
    second->addWidget(m_head, 1);
    m_family = new QComboBox;
    m_family->setObjectName("budgetFamily");
    m_family->setAccessibleName(tr("Family of graphics cards"));
    m_family->setToolTip(tr("Whose figures stand in the ledger"));
    for (const Family& f : families()) m_family->addItem(tr("%1, %2").arg(text(f.key), text(f.name)));
    m_family->setCurrentIndex(int(families().size()) - 1);
    second->addWidget(m_family);
    m_rests = new QPushButton(tr("Take each out"));
    m_rests->setObjectName("budgetRests");
    m_rests->setToolTip(
        tr("Measures the material again without each card, its results replaced by their mean: what is saved stands in the ledger"));
    second->addWidget(m_rests);
    middle->addLayout(second);
    m_pages = new QStackedWidget;
    m_ledger = budgetTable("ledger", tr("Ledger"), {tr("Where"), tr("operations"), tr("fetches"), tr("instructions"), tr("without it")});
    m_ledger->headerItem()->setToolTip(Operations, tr("Counted, scalar; the rows of a level add up"));
    m_ledger->headerItem()->setToolTip(Instructions, tr("Measured on the family, apart from fixed costs"));
    m_ledger->headerItem()->setToolTip(Rests, tr("What is saved when the card is taken out, in instructions and cycles"));
    m_matrix = budgetTable("budgetTable", tr("Masters against targets"), {});
    m_maps = budgetTable("budgetMapTable", tr("What maps cost"), {tr("Map"), tr("MB"), tr("format"), tr("read by")});
    for (QTreeWidget* t : {m_ledger, m_matrix, m_maps}) {
        m_pages->addWidget(t);
        connect(t, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) { lead(item); });
    }
    m_matrix->setRootIsDecorated(false);
    m_picture = new LineupCostView(m_session, m_budget);
    connect(m_picture->table(), &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) { lead(item); });
    m_pages->addWidget(m_picture);
    m_history = new HistoryView(m_session, m_budget);
    m_pages->addWidget(m_history);
    middle->addWidget(m_pages, 1);
    m_kinds = new QLabel;
    m_kinds->setObjectName("budgetKinds");
    m_kinds->setProperty("second", true);
    m_kinds->setWordWrap(true);
    middle->addWidget(m_kinds);
    row->addLayout(middle, 1);

    auto* right = new QWidget;
    right->setFixedWidth(300);
    auto* column = new QVBoxLayout(right);
    column->setContentsMargins(8, 10, 12, 10);
    auto* top = new QHBoxLayout;
    m_find = new QPushButton(tr("Find savings"));
    m_find->setObjectName("findSavings");
    m_find->setToolTip(tr("Tries what may make this material cheaper: each is compiled, counted and drawn"));
    m_fit = new QPushButton(tr("Fit to target"));
    m_fit->setObjectName("fitToTarget");
    m_fit->setToolTip(tr("Takes savings one after the other, the least seen first, until the target is met"));
    m_stop = new QPushButton(tr("Stop"));
    m_stop->setObjectName("budgetStop");
    m_stop->hide();
    top->addWidget(m_find);
    top->addWidget(m_fit);
    top->addWidget(m_stop);
    top->addStretch();
    column->addLayout(top);
    m_hint = new QLabel;
    m_hint->setObjectName("budgetHint");
    m_hint->setProperty("second", true);
    m_hint->setWordWrap(true);
    column->addWidget(m_hint);
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_suggestions = new SuggestionList(m_session, m_budget);
    scroll->setWidget(m_suggestions);
    column->addWidget(scroll, 1);
    m_plot = new FitPlot;
    column->addWidget(m_plot);
    m_fitWords = new QLabel;
    m_fitWords->setObjectName("fitWords");
    m_fitWords->setWordWrap(true);
    column->addWidget(m_fitWords);
    m_takeFit = new QPushButton(tr("Take this state"));
    m_takeFit->setObjectName("takeFit");
    m_takeFit->setToolTip(tr("All steps up to the chosen dot, as one step that undo takes back"));
    column->addWidget(m_takeFit);
    row->addWidget(right);

    connect(m_views, &QButtonGroup::idClicked, this, [this](int k) {
        m_pages->setCurrentIndex(k);
        showFacts();
    });
    connect(m_filter, &QLineEdit::textChanged, this, &BudgetPage::filter);
    connect(m_family, &QComboBox::activated, this, [this] { fillLedger(); });
    connect(m_rests, &QPushButton::clicked, this, [this] { m_budget.findRests(family()); });
    connect(m_find, &QPushButton::clicked, &m_budget, &BudgetService::suggest);
    connect(m_fit, &QPushButton::clicked, &m_budget, &BudgetService::findFit);
    connect(m_stop, &QPushButton::clicked, &m_budget, &BudgetService::stop);
    connect(m_plot, &FitPlot::chosenChanged, this, [this] {
        const auto& fit = m_budget.fit();
        const bool chosen = fit && m_plot->chosen() >= 0;
        m_takeFit->setEnabled(chosen && m_plot->chosen() > 0);
        if (!chosen) return m_fitWords->clear();
        const FitStep& s = fit->steps[size_t(m_plot->chosen())];
        m_fitWords->setText(tr("%1: %2 operations, %3 MB, seen %4%5")
                                .arg(text(s.title))
                                .arg(s.verdict.cost.operationsPerPixel())
                                .arg(double(s.verdict.cost.mapBytes) / 1e6, 0, 'f', 1)
                                .arg(s.difference, 0, 'f', 2)
                                .arg(s.verdict.fits() ? tr("; fits") : QString()));
    });
    connect(m_takeFit, &QPushButton::clicked, this, [this] {
        if (m_plot->chosen() > 0) m_budget.takeFit(size_t(m_plot->chosen()));
    });
    connect(&m_budget, &BudgetService::factsChanged, this, &BudgetPage::showFacts);
    connect(&m_budget, &BudgetService::measuredChanged, this, &BudgetPage::fillLedger);
    connect(&m_budget, &BudgetService::suggestionsChanged, this, [this] { showBusy(1); });
    connect(&m_budget, &BudgetService::fitChanged, this, &BudgetPage::showFit);
    connect(&m_budget, &BudgetService::busyChanged, this, &BudgetPage::showBusy);
    showFacts();
    showFit();
    showBusy(1);
}

void BudgetPage::arrive() { m_ledger->setFocus(); }
void BudgetPage::showEvent(QShowEvent*) { m_budget.setWatched(true); }
void BudgetPage::hideEvent(QHideEvent*) { m_budget.setWatched(false); }

void BudgetPage::addCommands() {
    place().commands.add({.id = "budget.copy",
                          .text = tr("Copy the table"),
                          .menu = tr("Edit"),
                          .keys = QKeySequence::keyBindings(QKeySequence::Copy),
                          .where = {"budget"},
                          .act = [this] { copy(); }});
    place().commands.add({.id = "budget.find",
                          .text = tr("Find savings"),
                          .menu = tr("Edit"),
                          .keys = {QKeySequence("Ctrl+R")},
                          .where = {"budget"},
                          .act = [this] { m_budget.suggest(); }});
    place().commands.add({.id = "budget.fit",
                          .text = tr("Fit to target"),
                          .menu = tr("Edit"),
                          .keys = {QKeySequence("Ctrl+Shift+R")},
                          .where = {"budget"},
                          .act = [this] { m_budget.findFit(); }});
}

Family BudgetPage::family() const { return families()[size_t(std::clamp(m_family->currentIndex(), 0, int(families().size()) - 1))]; }

void BudgetPage::showFacts() {
    const BudgetFacts& f = *m_budget.facts();
    const int page = m_pages->currentIndex();
    const bool ledger = page == LedgerPage;
    m_family->setVisible(ledger);
    m_rests->setVisible(ledger);
    if (!f.snapshot) return m_head->setText(tr("being counted"));
    if (ledger) m_head->setText(text(f.snapshot->nameOf(f.worn)));
    else if (page == HistoryPage) m_head->setText(tr("%1, each time it was recorded").arg(text(f.snapshot->nameOf(f.worn))));
    else
        m_head->setText(page == MatrixPage ? tr("The limit of which each uses most")
                        : page == MapsPage ? tr("Maps of what is in use")
                                           : tr("Each specimen, filling a picture"));
    m_filter->setVisible(page == LedgerPage || page == MatrixPage || page == MapsPage);
    if (page == HistoryPage) m_history->refresh();
    if (page == PicturePage) m_picture->refresh();
    const OperationKinds& k = f.ledger.kinds;
    m_kinds->setText(ledger ? tr("Of the operations %1 run at full rate, %2 at a quarter, %3 through the unit for sines and powers; %4 "
                                 "numbers wait at once.")
                                  .arg(k.full)
                                  .arg(k.quarter)
                                  .arg(k.transcendental)
                                  .arg(f.ledger.liveNumbers)
                            : QString());
    m_kinds->setVisible(ledger);
    fillLedger();
    fillMatrix();
    fillMaps();
    filter();
}

void BudgetPage::fillLedger() {
    const BudgetFacts& f = *m_budget.facts();
    m_ledger->setSortingEnabled(false);
    m_ledger->clear();
    if (!f.snapshot) return;
    const auto& measured = m_budget.measured();
    const size_t on = size_t(std::max(0, m_family->currentIndex()));
    const Measured* its = on < measured.size() && measured[on] ? &*measured[on] : nullptr;
    const std::function<void(QTreeWidgetItem*, const LedgerRow&, double)> add = [&](QTreeWidgetItem* under, const LedgerRow& row,
                                                                                    double of) {
        auto* item = new FigureRow({text(row.title), figure(row.operations), figure(row.fetches)});
        if (under) under->addChild(item);
        else m_ledger->addTopLevelItem(item);
        item->setData(Operations, Part, of > 0 ? row.operations / of : 0);
        item->setData(0, Board, text(row.board.empty() ? f.ledger.master : row.board));
        if (row.is == LedgerRow::Is::Card || row.is == LedgerRow::Is::Within) item->setData(0, Card, text(row.id));
        for (int c = Operations; c <= Rests; ++c) item->setTextAlignment(c, Qt::AlignRight | Qt::AlignVCenter);
        if (row.is == LedgerRow::Is::Stage && its) {
            const bool pixel = row.title == "Per pixel", vertex = row.title == "Per vertex";
            if (pixel || vertex) item->setText(Instructions, figure(pixel ? its->pixel(kInstructions) : its->vertex(kInstructions)));
        }
        if (const auto rest = row.is == LedgerRow::Is::Card ? m_budget.rests().find(row.id) : m_budget.rests().end();
            rest != m_budget.rests().end())
            item->setText(Rests, tr("%1 instr, %2 cycles").arg(rest->second.instructions).arg(rest->second.cycles));
        for (const LedgerRow& r : row.rows) add(item, r, of);
        if (row.is == LedgerRow::Is::Stage) {
            QFont bold = textFont(13, true);
            item->setFont(0, bold);
            item->setExpanded(row.title == "Per pixel");
        }
    };
    for (const LedgerRow& stage : f.ledger.stages) add(nullptr, stage, stage.operations);
    QTreeWidgetItem* channels = nullptr;
    for (const auto& [key, share] : f.ledger.channels) {
        if (share.pixel() == 0 && share.fetches == 0) continue;
        if (!channels) {
            channels = new FigureRow(QStringList{tr("By channel, per pixel")});
            channels->setFont(0, textFont(13, true));
            m_ledger->addTopLevelItem(channels);
        }
        auto* item = new FigureRow({key.empty() ? tr("other") : text(key).replace('_', ' '), figure(share.pixel()), figure(share.fetches)});
        item->setData(Operations, Part, f.ledger.cost.operationsPerPixel() ? share.pixel() / f.ledger.cost.operationsPerPixel() : 0);
        for (int c = Operations; c <= Fetches; ++c) item->setTextAlignment(c, Qt::AlignRight | Qt::AlignVCenter);
        channels->addChild(item);
    }
    m_ledger->setColumnWidth(Name, 210);
    m_ledger->setColumnWidth(Operations, 80);
    m_ledger->setColumnWidth(Fetches, 58);
    m_ledger->setColumnWidth(Instructions, 84);
    m_ledger->header()->setSortIndicator(-1, Qt::DescendingOrder);
    m_ledger->setSortingEnabled(true);
    filter();
}

void BudgetPage::fillMatrix() {
    const BudgetFacts& f = *m_budget.facts();
    m_matrix->setSortingEnabled(false);
    m_matrix->clear();
    if (!f.snapshot) return;
    QStringList headers{tr("Master")};
    for (const Target& t : f.matrix.targets) headers << text(t.name);
    m_matrix->setHeaderLabels(headers);
    for (size_t m = 0; m < f.matrix.masters.size(); ++m) {
        auto* item = new FigureRow(QStringList{text(f.snapshot->nameOf(f.matrix.masters[m]))});
        item->setData(0, Board, text(f.matrix.masters[m]));
        for (size_t t = 0; t < f.matrix.targets.size(); ++t) {
            const MatrixCell& cell = f.matrix.cells[m][t];
            const int c = int(t) + 1;
            if (!cell.worst.def) continue;
            item->setText(c, tr("%1 %").arg(int(std::lround(cell.worst.share() * 100))) + (cell.over ? tr(" over") : QString()));
            item->setData(c, Part, cell.worst.share());
            item->setData(c, Over, cell.over);
            item->setToolTip(c, tr("%1: %2").arg(text(f.snapshot->nameOf(cell.worn)), text(cell.worst.words())));
            if (cell.over) item->setFont(c, textFont(13, true));
        }
        m_matrix->addTopLevelItem(item);
    }
    m_matrix->setColumnWidth(0, 160);
    m_matrix->header()->setSortIndicator(-1, Qt::DescendingOrder);
    m_matrix->setSortingEnabled(true);
}

void BudgetPage::fillMaps() {
    const BudgetFacts& f = *m_budget.facts();
    m_maps->setSortingEnabled(false);
    m_maps->clear();
    if (!f.snapshot) return;
    double most = 1;
    for (const MapRow& r : f.maps) most = std::max(most, double(r.bytes));
    for (const MapRow& r : f.maps) {
        const MapFile* map = f.snapshot->map(r.map);
        QStringList readers;
        for (const Id& id : r.worn) readers << text(f.snapshot->nameOf(id));
        auto* item = new FigureRow({map ? text(map->name) : text(r.map), QString::number(double(r.bytes) / 1e6, 'f', 2),
                                    map ? text(map->format) : tr("drawn"),
                                    readers.size() > 1 ? tr("%1 and %2 more").arg(readers[0]).arg(readers.size() - 1) : readers.value(0)});
        item->setData(1, Part, double(r.bytes) / most);
        item->setToolTip(3, readers.join('\n'));
        item->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
        m_maps->addTopLevelItem(item);
    }
    m_maps->setColumnWidth(0, 200);
    m_maps->header()->setSortIndicator(-1, Qt::DescendingOrder);
    m_maps->setSortingEnabled(true);
}

void BudgetPage::filter() {
    const QString wanted = m_filter->text().trimmed();
    const std::function<bool(QTreeWidgetItem*)> show = [&](QTreeWidgetItem* item) {
        bool any = wanted.isEmpty() || item->text(0).contains(wanted, Qt::CaseInsensitive);
        for (int k = 0; k < item->childCount(); ++k) any = show(item->child(k)) || any;
        item->setHidden(!any);
        if (!wanted.isEmpty() && any && item->childCount()) item->setExpanded(true);
        return any;
    };
    for (QTreeWidget* t : {m_ledger, m_matrix, m_maps})
        for (int k = 0; k < t->topLevelItemCount(); ++k) show(t->topLevelItem(k));
}

void BudgetPage::copy() {
    auto* t = m_pages->currentIndex() == PicturePage ? m_picture->table() : qobject_cast<QTreeWidget*>(m_pages->currentWidget());
    if (!t) return m_session.say(tr("There is no table here to copy."));
    QStringList lines;
    const auto line = [&](const QTreeWidgetItem* item, int depth) {
        QStringList cells;
        for (int c = 0; c < t->columnCount(); ++c) cells << (c ? QString() : QString(2 * depth, ' ')) + item->text(c);
        lines << cells.join('\t');
    };
    const std::function<void(const QTreeWidgetItem*, int)> add = [&](const QTreeWidgetItem* item, int depth) {
        if (item->isHidden()) return;
        line(item, depth);
        for (int k = 0; k < item->childCount(); ++k) add(item->child(k), depth + 1);
    };
    line(t->headerItem(), 0);
    for (int k = 0; k < t->topLevelItemCount(); ++k) add(t->topLevelItem(k), 0);
    QGuiApplication::clipboard()->setText(lines.join('\n') + '\n');
    m_session.say(tr("Copied %1 lines.").arg(lines.size()));
}

void BudgetPage::lead(const QTreeWidgetItem* item) {
    const Id board = item->data(0, Board).toString().toStdString(), card = item->data(0, Card).toString().toStdString();
    if (board.empty() || !m_session.project().board(board)) return;
    place().lead({board, card, {}});
}

void BudgetPage::showBusy(float share) {
    const bool busy = !m_budget.busy().isEmpty();
    m_stop->setVisible(busy);
    m_find->setVisible(!busy);
    m_fit->setVisible(!busy);
    m_rests->setEnabled(!busy);
    if (busy) m_hint->setText(tr("%1: %2 %").arg(m_budget.busy()).arg(int(share * 100)));
    else
        m_hint->setText(m_budget.suggestions().empty()
                            ? tr("Find savings tries what makes this material cheaper, and shows what would be seen of it.")
                            : tr("Each was tried. Seen: CIEDE2000, mean; about 1 is just visible."));
}

void BudgetPage::showFit() {
    m_plot->set(m_budget.fit());
    if (m_budget.fit()) {
        const Fit& fit = *m_budget.fit();
        if (fit.steps.size() == 1)
            m_fitWords->setText(fit.fits ? tr("It fits as it is.")
                                         : tr("Nothing was found that brings it nearer to %1.").arg(text(m_budget.target().name)));
    }
    m_takeFit->setVisible(m_budget.fit() && m_budget.fit()->steps.size() > 1);
}

} // namespace hue
