#include "app/stations/graph/compare_panel.h"

#include "app/parts/theme.h"
#include "core/nodes/assembly_card.h"
#include "core/project/store.h"
#include "core/surface/channels.h"

#include <QComboBox>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QListWidget>
#include <QMimeData>
#include <QUrl>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); }
/// Steps of undo that are offered.
constexpr int kSteps = 20;
constexpr char kOpen[] = "open"; ///< the entry that asks for a file

QString projectIn(const QMimeData* data) {
    const QList<QUrl> urls = data->urls();
    return urls.size() == 1 && urls[0].toLocalFile().endsWith(".huestack") ? urls[0].toLocalFile() : QString();
}

} // namespace

ComparePanel::ComparePanel(Session& session, Commands& commands, QWidget* parent)
    : SidePanel(commands, "graph.compare", tr("Compare"), parent), m_session(session) {
    setObjectName("comparePanel");
    setFixedWidth(270);
    setAcceptDrops(true);
    auto* title = new QLabel(tr("What differs from"));
    title->setFont(textFont(13, true));
    head()->addWidget(title, 1);
    m_against = new QComboBox;
    m_against->setObjectName("compareAgainst");
    m_against->setAccessibleName(tr("What the board is compared with"));
    m_against->setToolTip(tr("The file as it was saved, an earlier step, another board, or another project, which can be dropped here"));
    column()->addWidget(m_against);
    m_count = new QLabel;
    m_count->setProperty("second", true);
    m_count->setWordWrap(true);
    column()->addWidget(m_count);
    m_list = new QListWidget;
    m_list->setObjectName("differences");
    m_list->setWordWrap(true);
    m_list->setAccessibleName(tr("What differs"));
    m_list->setToolTip(tr("Enter shows the card. + came, \u2212 is gone, * changed; what is there is marked on the board."));
    column()->addWidget(m_list, 1);
    connect(m_against, &QComboBox::activated, this, [this] {
        if (m_against->currentData().toString() == kOpen) return chooseFile();
        compare();
    });
    const auto chosen = [this](QListWidgetItem* item) {
        if (const Id card = item->data(Qt::UserRole).toString().toStdString(); !card.empty()) Q_EMIT cardWanted(card);
    };
    connect(m_list, &QListWidget::itemActivated, this, chosen);
    connect(m_list, &QListWidget::itemClicked, this, chosen);
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (isVisible() && what.any(Change::Graph | Change::Board | Change::Names)) offer();
    });
    connect(&session, &Session::masterShown, this, [this] {
        if (isVisible()) offer();
    });
}

void ComparePanel::showEvent(QShowEvent*) { offer(); }
void ComparePanel::hideEvent(QHideEvent*) { Q_EMIT marked({}); }

void ComparePanel::offer() {
    // What was chosen stays, as far as it is still there.
    const QSignalBlocker block(m_against);
    m_against->clear();
    if (m_session.savedState()) m_against->addItem(tr("the saved file"), "file");
    const int now = m_session.undoStack()->index();
    for (int k = now - 1; k >= std::max(0, now - kSteps); --k)
        m_against->addItem(tr("before: %1").arg(m_session.undoStack()->text(k)), "step " + QString::number(k));
    for (const Master* board : m_session.project().boards())
        if (board->id != m_session.masterId()) m_against->addItem(tr("the board of %1").arg(text(board->name)), "board " + text(board->id));
    if (m_other)
        for (const Master* board : m_other->boards())
            m_against->addItem(tr("%1 in %2").arg(text(board->name), m_otherName), "other " + text(board->id));
    m_against->addItem(tr("another file\u2026"), kOpen);
    m_against->setCurrentIndex(std::max(0, m_against->findData(m_chosen)));
    compare();
}

void ComparePanel::chooseFile() {
    const QString file = QFileDialog::getOpenFileName(this, tr("Compare with another project"), QFileInfo(m_session.file()).path(),
                                                      tr("Projects (*.huestack)"));
    if (file.isEmpty()) m_against->setCurrentIndex(std::max(0, m_against->findData(m_chosen)));
    else compareWithFile(file);
}

void ComparePanel::compareWithFile(const QString& file) {
    m_count->setText(tr("Reading %1").arg(QFileInfo(file).fileName()));
    m_session.runner().run(
        {.owner = this, .kind = "other"}, [path = file.toStdString()](const Work&) { return loadProject(path); },
        [this, file](Result<Loaded> loaded) {
            if (!loaded) {
                m_against->setCurrentIndex(std::max(0, m_against->findData(m_chosen)));
                compare();
                return m_count->setText(QString::fromStdString(loaded.error().sentence));
            }
            m_other = std::make_shared<Project>(std::move(loaded->project));
            m_otherName = QFileInfo(file).completeBaseName();
            const auto boards = m_other->boards();
            const Master* mine = m_session.master();
            const Master* theirs = m_other->board(m_session.masterId());
            for (const Master* board : boards)
                if (!theirs && mine && board->name == mine->name) theirs = board;
            if (!theirs && !boards.empty()) theirs = boards[0];
            m_chosen = theirs ? "other " + text(theirs->id) : QString();
            offer();
        });
}

void ComparePanel::dragEnterEvent(QDragEnterEvent* e) {
    if (!projectIn(e->mimeData()).isEmpty()) e->acceptProposedAction();
}

void ComparePanel::dropEvent(QDropEvent* e) {
    compareWithFile(projectIn(e->mimeData()));
    e->acceptProposedAction();
}

void ComparePanel::compare() {
    m_list->clear();
    m_differences.clear();
    const Master* is = m_session.master();
    const QString against = m_chosen = m_against->currentData().toString();
    Snapshot before;
    Id board = m_session.masterId();
    if (against == "file") before = m_session.savedState();
    else if (against.startsWith("step ")) before = m_session.stateBefore(against.mid(5).toInt());
    else if (against.startsWith("board ")) before = m_session.snapshot(), board = against.mid(6).toStdString();
    else if (against.startsWith("other ")) before = m_other, board = against.mid(6).toStdString();
    const Master* was = before ? before->board(board) : nullptr;
    if (!is || !was) {
        m_count->setText(is && before ? tr("This board was not there then.")
                                      : tr("There is nothing to compare with yet. Save, change something, or choose another file."));
        return Q_EMIT marked({});
    }
    m_differences = boardDifferences(*before, *was, m_session.project(), *is);
    std::vector<Id> there;
    int counts[3] = {};
    for (const BoardDifference& d : m_differences) {
        ++counts[int(d.how)];
        const bool gone = d.how == BoardDifference::How::Removed;
        const ChannelDef* channel = d.card.empty() ? findChannel(d.channel) : nullptr;
        QString line = d.how == BoardDifference::How::Added ? "+ " : gone ? "\u2212 " : "* ";
        line += channel ? text(channel->name) : text(gone ? cardTitle(*before, *was, d.card) : cardTitle(m_session.project(), *is, d.card));
        for (const std::string& what : d.what) line += "\n    " + text(what);
        auto* item = new QListWidgetItem(line, m_list);
        if (!gone && !d.card.empty()) {
            item->setData(Qt::UserRole, text(d.card));
            there.push_back(d.card);
        }
    }
    m_count->setText(m_differences.empty() ? tr("Nothing differs but where cards lie.")
                                           : tr("%1 came, %2 gone, %3 changed").arg(counts[0]).arg(counts[1]).arg(counts[2]));
    Q_EMIT marked(there);
}

} // namespace hue
