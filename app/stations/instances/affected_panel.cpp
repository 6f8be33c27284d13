#include "app/stations/instances/affected_panel.h"

#include "app/parts/theme.h"
#include "core/instances/affected.h"

#include <QHeaderView>
#include <QLabel>
#include <QTreeWidget>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

// Places of the picture service beyond those of the lineup and the table.
constexpr int kFirstPlace = 1000000;
constexpr int kSide = 60;
constexpr size_t kMostRows = 200;
/// CIEDE2000, mean over the picture, below which nobody sees a difference.
constexpr double kUnseen = 0.05;

/// Orders by the number, not by its words.
class Item : public QTreeWidgetItem {
  public:
    using QTreeWidgetItem::QTreeWidgetItem;
    double difference = -1; ///< not known yet
    bool operator<(const QTreeWidgetItem& other) const override { return difference < static_cast<const Item&>(other).difference; }
};

PictureView viewOf(const QImage& picture) { return {picture.width(), picture.height(), picture.constBits()}; }

} // namespace

AffectedPanel::AffectedPanel(Session& session, PictureService& pictures, QWidget* parent)
    : QWidget(parent), m_session(session), m_pictures(pictures) {
    setObjectName("panel");
    setAttribute(Qt::WA_StyledBackground);
    setFixedWidth(330);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 8, 8, 8);
    m_head = new QLabel;
    m_head->setObjectName("affectedHead");
    m_head->setWordWrap(true);
    column->addWidget(m_head);
    m_list = new QTreeWidget;
    m_list->setObjectName("affected");
    m_list->setAccessibleName(tr("Affected"));
    m_list->setHeaderLabels({tr("Saved"), tr("Now"), tr("Who"), tr("Apart")});
    m_list->headerItem()->setToolTip(3, tr("CIEDE2000, mean over the picture: about 1 is just visible where it is all over"));
    m_list->setRootIsDecorated(false);
    m_list->setIconSize({kSide, kSide});
    m_list->header()->setStretchLastSection(false);
    m_list->header()->setSectionResizeMode(2, QHeaderView::Stretch);
    m_list->setColumnWidth(0, kSide + 8);
    m_list->setColumnWidth(1, kSide + 8);
    m_list->setColumnWidth(3, 52);
    column->addWidget(m_list, 1);
    connect(m_list, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) {
        for (const Row& row : m_rows)
            if (row.item == item) Q_EMIT chosen(row.worn);
    });
    connect(&pictures, &PictureService::ready, this, qOverload<int, const FinishedPicture&>(&AffectedPanel::take));
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (what.any(Change::Graph | Change::Values | Change::Surface | Change::Maps | Change::Names | Change::Files)) refresh();
    });
    connect(&session, &Session::fileChanged, this, &AffectedPanel::refresh);
    refresh();
}

void AffectedPanel::showEvent(QShowEvent*) { refresh(); }

bool AffectedPanel::settled() const {
    return !m_session.runner().running(this, "affected") &&
           std::all_of(m_rows.begin(), m_rows.end(), [](const Row& r) { return r.compared; });
}

void AffectedPanel::refresh() {
    const Snapshot before = m_session.savedState(), after = m_session.snapshot();
    if (!before || before == after) return take({});
    m_session.runner().run(
        {.owner = this, .kind = "affected"}, [before, after](const Work&) { return affectedBy(*before, *after); },
        [this](const std::vector<Id>& affected) { take(affected); });
}

void AffectedPanel::take(const std::vector<Id>& affected) {
    m_before = m_session.savedState();
    m_after = m_session.snapshot();
    m_list->clear();
    m_rows.clear();
    m_more = 0;
    Q_EMIT counted(int(affected.size()));
    if (isVisible() && m_before) {
        static quint64 serial = 0;
        for (const Id& worn : affected) {
            if (m_rows.size() == kMostRows) break;
            const Instance* instance = m_after->instance(worn);
            const QString master = text(m_after->masterOf(worn)->name);
            auto* item = new Item(m_list, {QString(), QString(), instance ? text(instance->name) + '\n' + master : master, tr("\u2026")});
            item->setToolTip(2, text(m_after->nameOf(worn)));
            for (const bool now : {false, true}) {
                PictureRequest r;
                r.files = m_session.files();
                r.snapshot = now ? m_after : m_before;
                r.specimen.wears = {worn};
                r.settings = settingsFor(*r.snapshot, r.specimen, m_session.lights(), m_session.assets().folder(), false);
                r.settings.view = 0;
                r.settings.backdrop = Backdrop::Surround;
                r.settings.width = r.settings.height = kSide;
                r.settings.camera = m_after->lineup.orbit;
                r.settings.camera.standOff = 0.8f;
                r.settings.camera.panX = r.settings.camera.panY = 0;
                r.time = m_session.time();
                r.serial = ++serial;
                m_pictures.request(kFirstPlace + int(m_rows.size()) * 2 + int(now), std::move(r));
            }
            m_rows.push_back({worn, {}, {}, item});
        }
        m_more = affected.size() - m_rows.size();
    }
    sayHead();
}

void AffectedPanel::take(int place, const FinishedPicture& finished) {
    const int at = place - kFirstPlace;
    if (at < 0 || at / 2 >= int(m_rows.size()) || finished.standIn) return;
    Row& row = m_rows[size_t(at / 2)];
    if (finished.picture.isNull()) {
        if (!finished.problem.isEmpty()) {
            row.compared = true;
            row.item->setText(3, tr("none"));
            row.item->setToolTip(3, finished.problem);
        }
        return;
    }
    (at % 2 ? row.after : row.before) = finished.picture.convertToFormat(QImage::Format_RGBA8888);
    row.item->setIcon(at % 2, QIcon(QPixmap::fromImage(finished.picture)));
    if (!row.before.isNull() && !row.after.isNull()) compareRow(size_t(at / 2));
}

void AffectedPanel::compareRow(size_t k) {
    Row& row = m_rows[k];
    const Comparison c = compare(viewOf(row.before), viewOf(row.after), false);
    row.compared = true;
    auto* item = static_cast<Item*>(row.item);
    item->difference = double(c.mean);
    item->setText(3, item->difference < kUnseen ? tr("same") : QString::number(item->difference, 'f', item->difference < 10 ? 2 : 1));
    item->setToolTip(3, tr("%1 in the mean, %2 at the worst").arg(double(c.mean), 0, 'f', 2).arg(double(c.worst), 0, 'f', 1));
    m_list->sortItems(3, Qt::DescendingOrder);
    sayHead();
}

void AffectedPanel::sayHead() {
    if (!m_before) return m_head->setText(tr("The project was never saved: there is nothing to compare with yet."));
    if (m_rows.empty()) return m_head->setText(tr("Nothing that is worn looks different from what was saved."));
    const auto same = std::count_if(m_rows.begin(), m_rows.end(),
                                    [](const Row& r) { return r.compared && static_cast<const Item*>(r.item)->difference < kUnseen; });
    QString words = tr("%1 may look different from what was saved")
                        .arg(hue::counted(int(m_rows.size() + m_more), tr("master or instance"), tr("masters and instances")));
    if (same) words += tr("; %1 of them the same").arg(same);
    if (m_more) words += tr("; %1 are not drawn").arg(m_more);
    m_head->setText(words + tr(". Enter chooses one in the table."));
}

} // namespace hue
