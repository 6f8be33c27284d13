#include "app/stations/graph/builds_dialog.h"

#include "core/compile/compile.h"

#include <QHeaderView>
#include <QLabel>
#include <QTreeWidget>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }
constexpr int kUser = Qt::UserRole;

} // namespace

BuildsDialog::BuildsDialog(Session& session, const Id& master, QWidget* parent) : QDialog(parent), m_session(session), m_master(master) {
    setObjectName("buildsDialog");
    setWindowTitle(tr("Builds of %1").arg(text(session.project().master(master)->name)));
    resize(720, 320);
    auto* column = new QVBoxLayout(this);
    m_head = new QLabel;
    m_head->setWordWrap(true);
    column->addWidget(m_head);
    m_list = new QTreeWidget;
    m_list->setObjectName("builds");
    m_list->setAccessibleName(tr("Builds"));
    m_list->setRootIsDecorated(false);
    m_list->setHeaderLabels({tr("Build"), tr("Operations"), tr("Fetches"), tr("Samplers"), tr("Used by")});
    m_list->header()->setSectionResizeMode(0, QHeaderView::ResizeToContents);
    m_list->setToolTip(tr("Enter or a double click tunes the first that uses it"));
    column->addWidget(m_list, 1);
    connect(m_list, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) {
        if (const QString user = item->data(0, kUser).toString(); !user.isEmpty()) m_session.setTarget(user.toStdString());
    });
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (what.any(Change::Graph | Change::Values | Change::Surface | Change::Names | Change::Lineup)) refresh();
    });
    refresh();
}

void BuildsDialog::refresh() {
    if (!m_session.project().master(m_master)) return reject();
    using Found = std::pair<std::vector<Build>, std::vector<Cost>>;
    m_session.runner().run(
        {.owner = this, .kind = "builds"},
        [snapshot = m_session.snapshot(), id = m_master](const Work& work) {
            Found out{buildsOf(*snapshot, *snapshot->master(id)), {}};
            for (const Build& b : out.first) {
                if (work.stopped()) break;
                const Compilation c = compileSurface(*snapshot, *masterOfBuild(*snapshot->master(id), b.chosen));
                out.second.push_back(costOf(*c.program, c.offset.get(), {}));
            }
            return out;
        },
        [this](const Found& found) {
            if (found.first.size() == found.second.size()) take(found.first, found.second);
        });
}

void BuildsDialog::take(const std::vector<Build>& builds, const std::vector<Cost>& costs) {
    const Master* master = m_session.project().master(m_master);
    if (!master) return;
    m_list->clear();
    const size_t used = usedOf(builds);
    for (size_t k = 0; k < builds.size(); ++k) {
        QStringList users;
        for (const Id& user : builds[k].users) {
            const Instance* i = m_session.project().instance(user);
            users << (i ? text(i->name) : tr("%1 itself").arg(text(master->name)));
        }
        auto* item = new QTreeWidgetItem(m_list, {text(buildWords(m_session.project(), *master, builds[k].chosen)),
                                                  QString::number(costs[k].operationsPerPixel()), QString::number(costs[k].fetches),
                                                  QString::number(costs[k].samplers),
                                                  users.isEmpty() ? tr("nobody; it is the default") : users.join(", ")});
        item->setSizeHint(0, {0, 26});
        item->setData(0, kUser, builds[k].users.empty() ? QString() : text(builds[k].users[0]));
        item->setToolTip(4, users.join('\n'));
    }
    m_head->setText(
        tr("In use: %1. Each is compiled in the background when a picture needs it, and ships on its "
           "own.%3")
            .arg(text(buildCountWords(*master, used)))
            .arg(used > kManyBuilds ? tr(" These are many: choices of which little is saved are better left live.") : QString()));
    if (m_list->topLevelItemCount()) m_list->setCurrentItem(m_list->topLevelItem(0));
}

} // namespace hue
