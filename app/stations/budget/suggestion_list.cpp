#include "app/stations/budget/suggestion_list.h"

#include "app/parts/theme.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

/// "12 instructions on navi21", the most that any family saves; all of them in `each`.
QString measuredWords(const SeenSuggestion& s, QStringList& each) {
    size_t most = 0;
    for (size_t k = 0; k < s.saved.size() && k < families().size(); ++k) {
        const QString family = QString::fromUtf8(families()[k].key.data(), qsizetype(families()[k].key.size()));
        each << (std::isnan(s.saved[k]) ? QObject::tr("%1: could not be measured").arg(family)
                                        : QObject::tr("%1: %2 instructions fewer").arg(family).arg(s.saved[k]));
        if (!std::isnan(s.saved[k]) && (std::isnan(s.saved[most]) || s.saved[k] > s.saved[most])) most = k;
    }
    if (each.isEmpty() || std::isnan(s.saved[most])) return {};
    const std::string_view key = families()[most].key;
    return QObject::tr("measured: %1 instructions on %2").arg(s.saved[most]).arg(QString::fromUtf8(key.data(), qsizetype(key.size())));
}

} // namespace

SuggestionList::SuggestionList(Session& session, BudgetService& budget, QWidget* parent)
    : QWidget(parent), m_session(session), m_budget(budget), m_column(new QVBoxLayout(this)) {
    m_column->setContentsMargins(0, 0, 0, 0);
    m_column->setSpacing(8);
    m_column->addStretch();
    connect(&budget, &BudgetService::suggestionsChanged, this, &SuggestionList::refresh);
    refresh();
}

void SuggestionList::refresh() {
    while (m_column->count() > 1) {
        QLayoutItem* item = m_column->takeAt(0);
        if (item->widget()) item->widget()->hide(), item->widget()->deleteLater();
        delete item;
    }
    int at = 0;
    for (const SeenSuggestion& s : m_budget.suggestions()) m_column->insertWidget(at++, cardFor(s));
}

QWidget* SuggestionList::cardFor(const SeenSuggestion& s) {
    auto* card = new QWidget;
    card->setObjectName("suggestion");
    card->setAccessibleName(text(s.what.what.title));
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(3);
    auto* title = new QLabel(text(s.what.what.title));
    title->setFont(textFont(13, true));
    title->setWordWrap(true);
    title->setToolTip(text(s.what.what.why));
    column->addWidget(title);
    QStringList each;
    const QString measured = measuredWords(s, each);
    auto* words = new QLabel(tr("saves %1%2").arg(text(savingWords(s.what)), s.what.fitsMore ? tr("; nearer to the target") : QString()) +
                             (measured.isEmpty() ? QString() : "\n" + measured));
    words->setObjectName("suggestionWords");
    words->setWordWrap(true);
    words->setToolTip(each.join('\n'));
    column->addWidget(words);
    auto* row = new QHBoxLayout;
    for (const QImage& picture : {s.before, s.after}) {
        if (picture.isNull()) continue;
        auto* l = new QLabel;
        l->setPixmap(QPixmap::fromImage(picture).scaled(64, 64, Qt::KeepAspectRatio, Qt::SmoothTransformation));
        l->setToolTip(text(m_session.project().nameOf(s.on)));
        row->addWidget(l);
    }
    auto* buttons = new QVBoxLayout;
    buttons->setSpacing(2);
    auto* seen = new QLabel(s.after.isNull() ? tr("not drawn") : tr("seen %1").arg(s.seen, 0, 'f', 2));
    seen->setToolTip(s.after.isNull() ? text(s.problem)
                                      : tr("CIEDE2000 %1, FLIP %2; means over the picture of %3, on whom most is seen of it")
                                            .arg(s.seen, 0, 'f', 2)
                                            .arg(s.flip, 0, 'f', 3)
                                            .arg(text(m_session.project().nameOf(s.on))));
    buttons->addWidget(seen);
    auto* take = new QPushButton(tr("Apply"));
    take->setObjectName("suggestionApply");
    take->setToolTip(text(s.what.what.why));
    connect(take, &QPushButton::clicked, this, [this, what = s.what.what] { m_budget.take(what); });
    auto* never = new QPushButton(tr("Never"));
    never->setObjectName("suggestionNever");
    never->setToolTip(tr("Do not propose this for this master again; undo brings it back"));
    connect(never, &QPushButton::clicked, this, [this, code = s.what.what.code, master = m_budget.facts()->ledger.master] {
        m_session.apply(tr("silence a suggestion"), [&](const Project& p) { return edit::silenceAdvice(p, master, code, true); });
    });
    auto* both = new QHBoxLayout;
    both->addWidget(take);
    both->addWidget(never);
    buttons->addLayout(both);
    row->addLayout(buttons, 1);
    column->addLayout(row);
    return card;
}

} // namespace hue
