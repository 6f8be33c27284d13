#include "app/window/top_bar.h"

#include "app/parts/theme.h"
#include "core/edits/edits.h"

#include <QButtonGroup>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QMenu>
#include <QPainter>
#include <QToolButton>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

} // namespace

Meter::Meter(const QString& name, QWidget* parent) : QWidget(parent), m_name(name) {
    setFixedSize(72, 34);
    setAccessibleName(name);
}

void Meter::set(double value, double limit, double least, const QString& text, const QString& tip) {
    m_part = limit > 0 ? value / limit : 0;
    m_least = limit > 0 ? least / limit : 0;
    m_text = text;
    // Name and figures stand beside each other.
    const int both = QFontMetrics(textFont(11)).horizontalAdvance(m_name) + 10 + QFontMetrics(codeFont(11)).horizontalAdvance(m_text);
    setFixedWidth(std::max(72, both));
    setToolTip(tip);
    setAccessibleDescription(text);
    update();
}

void Meter::setMost(double figure, double limit) {
    m_most = limit > 0 ? figure / limit : 0;
    update();
}

void Meter::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = theme();
    p.setFont(textFont(11));
    p.setPen(t.ink2);
    p.drawText(QRect(0, 1, width(), 16), Qt::AlignLeft | Qt::AlignVCenter, m_name);
    p.setFont(codeFont(11));
    p.setPen(t.ink);
    p.drawText(QRect(0, 1, width(), 16), Qt::AlignRight | Qt::AlignVCenter, m_text);
    const QRectF bar(0.5, 20.5, width() - 1, 8);
    p.setPen(QPen(t.hairline, 1));
    p.setBrush(t.card);
    p.drawRect(bar);
    const QRectF filled(bar.left(), bar.top() + 1, bar.width() * std::min(m_part, 1.0), bar.height() - 1);
    if (m_part > 1) p.fillRect(filled, hatch(t.ink));
    else p.fillRect(filled, t.ink);
    if (m_part <= 1 && m_least < m_part) {
        const double from = bar.left() + bar.width() * m_least;
        p.fillRect(QRectF(from, filled.top(), std::max(0.0, filled.right() - from), filled.height()), t.hairline);
    }
    if (m_most > 0) {
        // A mast at the most of the project; two where that is over.
        const double x = bar.left() + bar.width() * std::min(m_most, 1.0);
        p.setPen(QPen(t.ink, 1));
        p.drawLine(QPointF(x, bar.top() - 2), QPointF(x, bar.bottom() + 2));
        if (m_most > 1) p.drawLine(QPointF(x - 3, bar.top() - 2), QPointF(x - 3, bar.bottom() + 2));
    }
}

TopBar::TopBar(Session& session, BoardService& service, BudgetService& budget, Commands& commands, const std::vector<StationDef>& stations,
               QWidget* parent)
    : QWidget(parent), m_session(session), m_service(service), m_budget(budget) {
    setFixedHeight(44);
    setObjectName("page");
    setAttribute(Qt::WA_StyledBackground);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(8, 0, 14, 0);
    row->setSpacing(4);
    m_menu = new QToolButton;
    m_menu->setText("Hue Stack");
    m_menu->setFont(textFont(15, true));
    m_menu->setPopupMode(QToolButton::InstantPopup);
    commands.explain(m_menu, "window.keys", tr("Project, edit, view and help; the key lists all keys"));
    m_menu->setAccessibleName(tr("Menu"));
    row->addWidget(m_menu);
    m_name = new QLabel;
    m_name->setContentsMargins(8, 0, 10, 0);
    row->addWidget(m_name);
    m_stations = new QButtonGroup(this);
    int index = 0;
    for (const StationDef& station : stations) {
        auto* b = new QToolButton;
        b->setText(station.name);
        b->setCheckable(true);
        b->setFixedHeight(26);
        b->setObjectName("station_" + station.name);
        commands.explain(b, "station." + station.key, station.help);
        m_stations->addButton(b, index++);
        row->addWidget(b);
    }
    m_stations->button(1)->setChecked(true);
    connect(m_stations, &QButtonGroup::idClicked, this, &TopBar::stationChosen);
    row->addStretch();
    m_master = new QComboBox;
    m_master->setAccessibleName(tr("Master on the board"));
    m_master->setToolTip(tr("Which master the board shows"));
    m_master->setMinimumWidth(150);
    connect(m_master, &QComboBox::activated, this, [this](int i) { m_session.showMaster(m_master->itemData(i).toString().toStdString()); });
    row->addWidget(m_master);
    row->addSpacing(10);
    m_target = new QComboBox;
    m_target->setObjectName("targetChooser");
    m_target->setAccessibleName(tr("Target"));
    connect(m_target, &QComboBox::activated, this, &TopBar::chooseTarget);
    row->addWidget(m_target);
    row->addSpacing(8);
    m_operations = new Meter(tr("Operations"));
    m_fetches = new Meter(tr("Fetches"));
    m_memory = new Meter(tr("Map MB"));
    m_builds = new Meter(tr("Builds"));
    connect(&budget, &BudgetService::targetChosen, this, [this] {
        fillTargets();
        refresh();
    });
    connect(&budget, &BudgetService::projectCounted, this, &TopBar::refresh);
    fillTargets();
    for (Meter* m : {m_operations, m_fetches, m_memory, m_builds}) {
        row->addWidget(m);
        row->addSpacing(6);
    }
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (what.any(Change::Names)) refresh();
    });
    connect(&session, &Session::fileChanged, this, [this] {
        fillTargets(); // there may be others beside the file
        refresh();
    });
    connect(&session, &Session::masterShown, this, &TopBar::refresh);
    connect(&service, &BoardService::factsChanged, this, &TopBar::refresh);
    refresh();
}

void TopBar::fillTargets() {
    const QSignalBlocker block(m_target);
    m_target->clear();
    for (const auto& [key, target] : m_budget.targets()) m_target->addItem(text(target.name), key);
    m_target->addItem(tr("From a file\u2026"));
    m_target->setCurrentIndex(m_target->findData(m_budget.chosenTarget()));
    m_target->setToolTip(tr("What the meters are held against. %1").arg(text(m_budget.target().about)));
}

void TopBar::chooseTarget(int index) {
    QString wanted = m_target->itemData(index).toString();
    if (wanted.isEmpty()) wanted = QFileDialog::getOpenFileName(this, tr("The limits of a kind of machine"), {}, tr("Targets (*.json)"));
    if (wanted.isEmpty() || !m_budget.choose(wanted)) fillTargets();
}

void TopBar::setMenu(QMenu* menu) { m_menu->setMenu(menu); }
void TopBar::setStation(int index) { m_stations->button(index)->setChecked(true); }

void TopBar::refresh() {
    const Project& p = m_session.project();
    m_name->setText(QString::fromStdString(p.name) + (m_session.dirty() ? " \u25CF" : ""));
    m_name->setToolTip(m_session.file().isEmpty() ? tr("Not saved yet") : m_session.file());
    const QSignalBlocker block(m_master);
    m_master->clear();
    for (const auto& m : p.masters) m_master->addItem(QString::fromStdString(m->name), QString::fromStdString(m->id));
    m_master->setCurrentIndex(m_master->findData(QString::fromStdString(m_session.rootId())));
    const Cost& c = m_service.facts()->cost;
    const auto span = [](int least, int most) {
        return least == most ? QString::number(most) : QString("%1\u2013%2").arg(least).arg(most);
    };
    // The worst of what is worn, and of the whole project.
    const auto worst = [this](std::string_view key) {
        QString out;
        for (const bool worn : {true, false})
            if (const BudgetService::Most most = m_budget.mostOf(key, worn); !most.worn.empty())
                out += (worn ? tr("\nMost of what is worn: %1 by %2") : tr("\nMost of the project: %1 by %2"))
                           .arg(std::round(most.figure * 10) / 10)
                           .arg(text(m_session.project().nameOf(most.worn)));
        return out;
    };
    const auto against = [this](double figure, float limit) {
        const QString of = limit > 0 ? tr("; %1 has %2").arg(text(m_budget.target().name)).arg(double(limit))
                                     : tr("; %1 has no limit").arg(text(m_budget.target().name));
        return limit > 0 && figure > double(limit) ? of + tr(": over it") : of;
    };
    const Limits& limits = m_budget.target().limits;
    m_operations->set(
        c.operationsPerPixel(), double(limits.operations), c.leastOperationsPerPixel(),
        span(c.leastOperationsPerPixel(), c.operationsPerPixel()),
        tr("%1 operations per pixel, %2 per vertex with %3 carried over its triangles, %4 once a frame")
                .arg(c.operationsPerPixel())
                .arg(c.operations[size_t(Rate::Vertex)])
                .arg(counted(c.carried, tr("number"), tr("numbers")))
                .arg(c.operations[0]) +
            against(c.operationsPerPixel(), limits.operations) + worst("operations") +
            (c.skips() ? tr(". Where masks hide most of what is skipped where unseen: %1").arg(c.leastOperationsPerPixel()) : QString()));
    m_fetches->set(
        c.fetches, double(limits.fetches), c.leastFetches(), span(c.leastFetches(), c.fetches),
        tr("%1 map fetches per pixel (%2 depend on another), %3 samplers").arg(c.fetches).arg(c.dependentFetches).arg(c.samplers) +
            against(c.fetches, limits.fetches) + worst("fetches") +
            (c.skips() ? tr(". Where masks hide most of what is skipped where unseen: %1").arg(c.leastFetches()) : QString()));
    m_memory->set(double(c.mapBytes) / 1e6, double(limits.mapMegabytes), double(c.mapBytes) / 1e6,
                  QString::number(double(c.mapBytes) / 1e6, 'f', 1),
                  tr("Map memory with its smaller levels, in the format that each map is compressed to") +
                      against(double(c.mapBytes) / 1e6, limits.mapMegabytes) + worst("mapMegabytes"));
    m_operations->setMost(m_budget.mostOf("operations", false).figure, double(limits.operations));
    m_fetches->setMost(m_budget.mostOf("fetches", false).figure, double(limits.fetches));
    m_memory->setMost(m_budget.mostOf("mapMegabytes", false).figure, double(limits.mapMegabytes));
    const double builds = double(m_service.facts()->masterBuilds);
    m_builds->set(builds, double(limits.builds), builds, QString::number(builds),
                  tr("Builds of this master that are in use") + against(builds, limits.builds));
}

} // namespace hue
