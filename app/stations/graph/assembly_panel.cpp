#include "app/stations/graph/assembly_panel.h"

#include "app/parts/commands.h"
#include "app/parts/theme.h"
#include "core/assemblies/breaks.h"
#include "core/edits/edits.h"
#include "core/nodes/assembly_card.h"

#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

QLabel* heading(const QString& words) {
    auto* label = new QLabel(words.toUpper());
    label->setFont(textFont(11));
    label->setProperty("second", true);
    label->setContentsMargins(0, 8, 0, 0);
    return label;
}

} // namespace

AssemblyPanel::AssemblyPanel(Session& session, Commands& commands, QWidget* parent) : QWidget(parent), m_session(session) {
    setFixedWidth(232);
    setObjectName("assemblyPanel");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(12, 8, 12, 8);
    column->setSpacing(4);
    column->addWidget(heading(tr("Assembly")));
    m_name = new QLineEdit;
    m_name->setObjectName("assemblyName");
    m_name->setAccessibleName(tr("Name of the assembly"));
    m_name->setToolTip(tr("All cards that stand for it bear this name"));
    m_about = new QLineEdit;
    m_about->setObjectName("assemblyAbout");
    m_about->setPlaceholderText(tr("What it is for, in a sentence"));
    m_about->setAccessibleName(tr("What the assembly is for"));
    m_about->setToolTip(tr("The add line shows it, and the tooltip of its cards"));
    m_version = new QLabel;
    m_version->setProperty("second", true);
    column->addWidget(m_name);
    column->addWidget(m_about);
    column->addWidget(m_version);
    column->addWidget(heading(tr("Outputs")));
    m_outputs = new QListWidget;
    m_outputs->setObjectName("assemblyOutputs");
    m_outputs->setAccessibleName(tr("Outputs of the assembly"));
    m_outputs->setToolTip(tr("In the order of the Output cards on the board, from the top. Enter shows the card; its title is the name."));
    m_outputs->setFixedHeight(110);
    column->addWidget(m_outputs);
    auto* add = new QPushButton(tr("New output"));
    add->setObjectName("newOutput");
    add->setToolTip(tr("Puts an Output card on the board, wired to the chosen output of a card"));
    column->addWidget(add);
    m_useCount = heading({});
    column->addWidget(m_useCount);
    m_uses = new QListWidget;
    m_uses->setObjectName("assemblyUses");
    m_uses->setAccessibleName(tr("Where the assembly stands"));
    m_uses->setToolTip(tr("Every card that stands for it; what does not fit any more is marked. Enter shows the card."));
    m_uses->setWordWrap(true);
    column->addWidget(m_uses, 1);
    auto* share = new QPushButton(tr("Share as a file"));
    commands.explain(share, "assembly.share", tr("A file that another project can bring in; its version is raised"));
    share->setObjectName("shareAssembly");
    column->addWidget(share);
    connect(share, &QPushButton::clicked, this, [&commands] {
        if (QAction* action = commands.action("assembly.share")) action->trigger();
    });
    connect(add, &QPushButton::clicked, this, &AssemblyPanel::outputWanted);
    connect(m_name, &QLineEdit::editingFinished, this, [this] {
        const Assembly* a = m_session.assembly();
        const std::string name = m_name->text().trimmed().toStdString();
        if (!a || name == a->name) return;
        if (!m_session.apply(tr("rename assembly"), [&, id = a->id](const Project& p) { return edit::renameAssembly(p, id, name); }))
            refresh();
    });
    connect(m_about, &QLineEdit::editingFinished, this, [this] {
        const Assembly* a = m_session.assembly();
        const std::string about = m_about->text().trimmed().toStdString();
        if (!a || about == a->description) return;
        m_session.apply(tr("describe assembly"), [&, id = a->id](const Project& p) { return edit::describeAssembly(p, id, about); });
    });
    const auto wanted = [this](QListWidgetItem* item) {
        Place place;
        place.master = item->data(Qt::UserRole).toString().toStdString();
        place.node = item->data(Qt::UserRole + 1).toString().toStdString();
        Q_EMIT cardWanted(place);
    };
    connect(m_outputs, &QListWidget::itemActivated, this, wanted);
    connect(m_uses, &QListWidget::itemActivated, this, wanted);
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (what.any(Change::Graph | Change::Board | Change::Names)) refresh();
    });
    connect(&session, &Session::masterShown, this, &AssemblyPanel::refresh);
    refresh();
}

void AssemblyPanel::refresh() {
    const Assembly* a = m_session.assembly();
    if (!a) return;
    const Project& p = m_session.project();
    if (!m_name->hasFocus() || !m_name->isModified()) m_name->setText(text(a->name));
    if (!m_about->hasFocus() || !m_about->isModified()) m_about->setText(text(a->description)), m_about->setCursorPosition(0);
    m_version->setText(tr("Version %1").arg(a->version));
    const auto add = [](QListWidget* list, const QString& words, const Id& board, const Id& card) {
        auto* item = new QListWidgetItem(words, list);
        item->setData(Qt::UserRole, text(board));
        item->setData(Qt::UserRole + 1, text(card));
        return item;
    };
    m_outputs->clear();
    for (const AssemblyOutput& o : cardOf(*a).outputs) add(m_outputs, text(o.name), a->id, o.card);
    std::map<std::pair<Id, Id>, QString> broken;
    for (const Break& b : whatBreaks(p, *a)) {
        QString& all = broken[{b.board, b.card}];
        all += (all.isEmpty() ? "" : "\n") + text(b.sentence);
    }
    m_uses->clear();
    const std::vector<AssemblyUse> uses = usesOf(p, a->id);
    for (const AssemblyUse& use : uses) {
        const auto fault = broken.find({use.board, use.card});
        const Master& board = *p.board(use.board);
        auto* item = add(m_uses, fault == broken.end() ? text(board.name + ": " + cardTitle(p, board, use.card)) : "! " + fault->second,
                         use.board, use.card);
        if (fault != broken.end()) item->setForeground(theme().broken);
    }
    m_useCount->setText((uses.empty()       ? tr("Stands nowhere yet")
                         : uses.size() == 1 ? tr("Stands in one place")
                                            : tr("Stands in %1 places").arg(uses.size()))
                            .toUpper());
}

} // namespace hue
