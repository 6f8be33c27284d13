#include "app/stations/graph/find_bar.h"

#include "app/parts/theme.h"
#include "app/stations/graph/board.h"
#include "core/nodes/find_cards.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QToolButton>

namespace hue {

FindBar::FindBar(Session& session, Board& board) : QFrame(&board), m_session(session), m_board(board) {
    setObjectName("findBar");
    setAccessibleName(tr("Find cards"));
    setAutoFillBackground(true);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(6, 5, 6, 5);
    m_line = new QLineEdit;
    m_line->setPlaceholderText(tr("a name, a kind, a parameter, a map, a note"));
    m_line->setAccessibleName(tr("Find"));
    m_line->setMinimumWidth(250);
    m_count = new QLabel;
    m_count->setMinimumWidth(74);
    row->addWidget(m_line);
    row->addWidget(m_count);
    const auto button = [&](const QString& text, const QString& name, const QString& help, auto act) {
        auto* b = new QToolButton;
        b->setText(text);
        b->setAccessibleName(name);
        b->setToolTip(help);
        connect(b, &QToolButton::clicked, this, act);
        row->addWidget(b);
    };
    button("\u2191", tr("The one before"), tr("The one before (Shift+Enter)"), [this] { step(-1); });
    button("\u2193", tr("Next"), tr("Next (Enter)"), [this] { step(1); });
    button("\u00D7", tr("Close"), tr("Close (Esc)"), [this] { close(); });
    m_line->installEventFilter(this);
    connect(m_line, &QLineEdit::textChanged, this, &FindBar::search);
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (isVisible() && what.any(Change::Graph | Change::Board | Change::Maps | Change::Names)) search();
    });
    connect(&session, &Session::masterShown, this, [this] {
        if (isVisible()) search();
    });
}

void FindBar::open() {
    setStyleSheet(
        QString("#findBar { border: 2px solid %1; border-radius: 3px; background: %2; }").arg(theme().ink.name(), theme().panel.name()));
    adjustSize();
    show();
    raise();
    m_line->setFocus();
    m_line->selectAll();
    search();
}

QString FindBar::told() const { return m_count->text(); }

void FindBar::search() {
    const Master* master = m_session.master();
    const Id shown = m_at >= 0 && m_at < int(m_hits.size()) ? m_hits[size_t(m_at)] : Id{};
    m_hits = master ? findCards(m_session.project(), *master, m_line->text().toStdString()) : std::vector<Id>{};
    const auto still = std::find(m_hits.begin(), m_hits.end(), shown);
    m_at = still == m_hits.end() ? -1 : int(still - m_hits.begin());
    m_count->setText(m_line->text().trimmed().isEmpty() ? QString()
                     : m_hits.empty()                   ? tr("nothing")
                     : m_at < 0                         ? counted(int(m_hits.size()), tr("card"), tr("cards"))
                                                        : tr("%1 of %2").arg(m_at + 1).arg(m_hits.size()));
    m_board.mark({m_hits.begin(), m_hits.end()});
}

void FindBar::step(int by) {
    if (m_hits.empty()) return;
    const int n = int(m_hits.size());
    m_at = m_at < 0 ? (by > 0 ? 0 : n - 1) : (m_at + by + n) % n;
    // Showing it may unfold a bay, and so search again.
    const int at = m_at;
    m_board.showCard(m_hits[size_t(at)]);
    m_count->setText(tr("%1 of %2").arg(at + 1).arg(n));
}

void FindBar::close() {
    hide();
    m_board.mark({});
    m_board.setFocus();
}

bool FindBar::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const auto* key = static_cast<QKeyEvent*>(event);
        if (key->key() == Qt::Key_Escape) return close(), true;
        if (key->key() == Qt::Key_Return || key->key() == Qt::Key_Enter) return step(key->modifiers() & Qt::ShiftModifier ? -1 : 1), true;
        if (key->key() == Qt::Key_Down) return step(1), true;
        if (key->key() == Qt::Key_Up) return step(-1), true;
    }
    return QFrame::eventFilter(watched, event);
}

} // namespace hue
