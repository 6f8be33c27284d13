#include "app/window/saved_elsewhere.h"

#include "app/parts/theme.h"
#include "app/session/runner.h"
#include "core/project/merge.h"

#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QVBoxLayout>

namespace hue {
namespace {

constexpr size_t kMostLines = 200;

/// What each changed since, and what both changed.
struct Compared {
    std::vector<Difference> theirs, ours;
    Result<std::vector<std::string>> conflicts;
};

QString listOf(const std::vector<Difference>& list) {
    QString out;
    for (size_t i = 0; i < list.size() && i < kMostLines; ++i) out += "  " + QString::fromStdString(list[i].sentence()) + '\n';
    if (list.size() > kMostLines) out += QObject::tr("  and %1 more\n").arg(list.size() - kMostLines);
    return out.isEmpty() ? QObject::tr("  nothing\n") : out;
}

} // namespace

SavedElsewhere::SavedElsewhere(Session& session, QWidget* parent) : QDialog(parent), m_session(session) {
    setObjectName("savedElsewhere");
    setWindowTitle(tr("Saved by somebody else"));
    resize(620, 420);
    auto* column = new QVBoxLayout(this);
    column->setSpacing(8);
    m_question = new QLabel;
    m_question->setWordWrap(true);
    column->addWidget(m_question);
    m_what = new QPlainTextEdit;
    m_what->setObjectName("savedElsewhereWhat");
    m_what->setReadOnly(true);
    m_what->setFont(codeFont(12));
    m_what->setAccessibleName(tr("What differs"));
    m_what->setTabChangesFocus(true);
    column->addWidget(m_what, 1);
    auto* row = new QHBoxLayout;
    const auto button = [&](const char* name, const QString& text, const QString& help, bool (Session::*how)()) {
        auto* b = new QPushButton(text);
        b->setObjectName(name);
        b->setToolTip(help);
        b->setAutoDefault(false);
        connect(b, &QPushButton::clicked, this, [this, how] { answer(how); });
        row->addWidget(b);
        return b;
    };
    auto* both = button("takeBoth", tr("Bring both together"),
                        tr("Both changes; where both changed the same, yours stays. One step of undo"), &Session::takeBoth);
    button("takeTheirs", tr("Take theirs"), tr("The project as it is on the disk; undo brings yours back"), &Session::takeTheirs);
    button("keepOurs", tr("Keep mine"), tr("Your next save goes over theirs"), &Session::keepOurs);
    both->setDefault(true);
    row->addStretch();
    auto* later = new QPushButton(tr("Decide later"));
    later->setAutoDefault(false);
    later->setToolTip(tr("Saving asks again"));
    connect(later, &QPushButton::clicked, this, &QDialog::reject);
    row->addWidget(later);
    column->addLayout(row);
    connect(&session.projectFile(), &ProjectFile::savedElsewhere, this, &SavedElsewhere::refresh);
    connect(&session, &Session::projectOpened, this, &QDialog::reject);
    refresh();
}

void SavedElsewhere::refresh() {
    const ProjectFile& file = m_session.projectFile();
    if (!file.theirs()) return;
    m_question->setText(tr("%1 was saved by another program since you opened or saved it.").arg(QFileInfo(m_session.file()).fileName()));
    m_what->setPlainText(tr("Comparing…"));
    m_session.runner().run(
        {.owner = this, .kind = "compare"},
        [base = file.state(), ours = m_session.snapshot(), loaded = file.theirs()](const Work&) -> Compared {
            const Project& theirs = loaded->project;
            auto both = merged(*base, *ours, theirs);
            return {differences(*base, theirs), differences(*base, *ours),
                    both ? Result(std::move(both->conflicts)) : Result<std::vector<std::string>>(both.error())};
        },
        [this](const Compared& c) {
            QString text = tr("They changed:\n") + listOf(c.theirs) + tr("\nYou changed since:\n") + listOf(c.ours);
            if (!c.conflicts) {
                text += "\n" + QString::fromStdString(c.conflicts.error().sentence);
            } else if (!c.conflicts->empty()) {
                text += tr("\nBoth changed, so yours stays when they are brought together:\n");
                for (const std::string& place : *c.conflicts) text += "  " + QString::fromStdString(place) + '\n';
            }
            m_what->setPlainText(text);
        });
}

void SavedElsewhere::answer(bool (Session::*how)()) {
    if ((m_session.*how)()) accept();
}

} // namespace hue
