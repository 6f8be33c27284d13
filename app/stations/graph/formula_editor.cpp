#include "app/stations/graph/formula_editor.h"

#include "app/parts/theme.h"
#include "app/session/session.h"
#include "core/edits/edits.h"
#include "core/formula/formula.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/catalogue.h"

#include <QKeyEvent>
#include <QLabel>
#include <QPlainTextEdit>
#include <QTextBlock>
#include <QVBoxLayout>

namespace hue {

FormulaEditor::FormulaEditor(Session& session, QWidget* parent) : QFrame(parent), m_session(session) {
    setObjectName("formulaEditor");
    setAccessibleName(tr("Formula"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(6, 6, 6, 6);
    column->setSpacing(4);
    m_text = new QPlainTextEdit;
    m_text->setObjectName("formulaText");
    m_text->setAccessibleName(tr("Text of the formula"));
    m_text->setAccessibleDescription(tr("Control and Enter closes it, Escape brings back what was there."));
    m_text->setToolTip(
        tr("a, b, c and d are the card's inputs. Ctrl+Enter: done; Esc: as it was. The page of Formula lists its functions."));
    m_text->setFont(codeFont(13));
    m_text->setLineWrapMode(QPlainTextEdit::NoWrap);
    m_text->installEventFilter(this);
    column->addWidget(m_text, 1);
    m_problem = new QLabel;
    m_problem->setObjectName("formulaProblem");
    m_problem->setFont(textFont(12));
    m_problem->setWordWrap(true);
    column->addWidget(m_problem);
    m_soon.setSingleShot(true);
    m_soon.setInterval(150);
    connect(&m_soon, &QTimer::timeout, this, qOverload<>(&FormulaEditor::take));
    connect(m_text, &QPlainTextEdit::textChanged, this, [this] {
        if (!isVisible()) return;
        showProblem();
        m_soon.start();
    });
    connect(&session, &Session::problemsChanged, this, &FormulaEditor::showProblem);
    connect(&session, &Session::projectOpened, this, [this] { m_card.clear(), hide(); });
    connect(&session, &Session::masterShown, this, &FormulaEditor::finish);
    hide();
}

void FormulaEditor::open(const Id& card, QPoint below) {
    finish();
    const Node* node = m_session.master() ? m_session.master()->graph.find(card) : nullptr;
    const NodeDef* def = node ? nodeDefOf(m_session.project(), *node) : nullptr;
    if (!def || !def->setting("formula")) return;
    m_master = m_session.masterId();
    m_card = card;
    m_before = QString::fromStdString(std::string(settingOf(*node, *def, "formula")));
    m_text->setPlainText(m_before);
    m_text->selectAll();
    setStyleSheet(QString("#formulaEditor { border: 2px solid %1; border-radius: 3px; background: %2; }")
                      .arg(theme().ink.name(), theme().panel.name()));
    const int lines = std::clamp(m_text->document()->blockCount() + 1, 5, 14);
    resize(520, 64 + lines * m_text->fontMetrics().lineSpacing());
    const QWidget* board = parentWidget();
    move(std::clamp(below.x(), 4, std::max(4, board->width() - width() - 4)),
         std::clamp(below.y(), 4, std::max(4, board->height() - height() - 4)));
    show();
    raise();
    showProblem();
    m_text->setFocus();
}

QString FormulaEditor::problem() const {
    const ParsedFormula parsed = parseFormula(m_text->toPlainText().toStdString());
    if (parsed.problem) return QString::fromStdString(describe(*parsed.problem));
    // What only the wires tell was found when the graph was compiled.
    for (const Diagnostic& d : m_session.problems())
        if (d.place.node == m_card && d.code == "formula.problem") return QString::fromStdString(d.sentence);
    return {};
}

void FormulaEditor::showProblem() {
    if (!isVisible()) return;
    const QString text = problem();
    m_problem->setText(text.isEmpty() ? tr("Ctrl+Enter: done   Esc: as it was") : text);
    m_problem->setStyleSheet(QString("color: %1").arg((text.isEmpty() ? theme().ink2 : theme().broken).name()));
    // The line of a mistake is marked.
    QList<QTextEdit::ExtraSelection> marks;
    if (const ParsedFormula parsed = parseFormula(m_text->toPlainText().toStdString()); parsed.problem) {
        QTextEdit::ExtraSelection mark;
        mark.cursor = QTextCursor(m_text->document()->findBlockByNumber(parsed.problem->at.line - 1));
        mark.format.setProperty(QTextFormat::FullWidthSelection, true);
        mark.format.setUnderlineStyle(QTextCharFormat::WaveUnderline);
        mark.format.setUnderlineColor(theme().broken);
        mark.cursor.select(QTextCursor::LineUnderCursor);
        marks << mark;
    }
    m_text->setExtraSelections(marks);
}

void FormulaEditor::take() {
    // A text that cannot be read leaves the last picture as it is.
    if (!parseFormula(m_text->toPlainText().toStdString()).problem) take(m_text->toPlainText());
}

void FormulaEditor::take(const QString& text) {
    m_soon.stop();
    // Another master may be on the board by now.
    const Master* master = m_session.project().master(m_master);
    const Node* node = master ? master->graph.find(m_card) : nullptr;
    const NodeDef* def = node ? nodeDefOf(m_session.project(), *node) : nullptr;
    if (!def || settingOf(*node, *def, "formula") == text.toStdString()) return;
    m_session.apply(
        tr("change formula"), [&](const Project& p) { return edit::setSetting(p, m_master, m_card, "formula", text.toStdString()); },
        "formula " + QString::fromStdString(m_card));
}

void FormulaEditor::finish() {
    if (m_card.empty()) return;
    // A text with a mistake is kept as well: the card says what is wrong, and nothing that was typed is lost.
    take(m_text->toPlainText());
    m_session.endRow();
    m_card.clear();
    hide();
    Q_EMIT closed();
}

bool FormulaEditor::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const auto* key = static_cast<QKeyEvent*>(event);
        const bool enter = key->key() == Qt::Key_Return || key->key() == Qt::Key_Enter;
        if (key->key() == Qt::Key_Escape) {
            m_text->setPlainText(m_before);
            finish();
            return true;
        }
        if (enter && key->modifiers() & Qt::ControlModifier) {
            finish();
            return true;
        }
    }
    if (event->type() == QEvent::FocusOut) {
        // Not for a menu of its own, nor while another window is in front.
        const Qt::FocusReason reason = static_cast<QFocusEvent*>(event)->reason();
        if (reason != Qt::PopupFocusReason && reason != Qt::ActiveWindowFocusReason) finish();
    }
    return QFrame::eventFilter(watched, event);
}

} // namespace hue
