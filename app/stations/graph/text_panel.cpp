#include "app/stations/graph/text_panel.h"

#include "app/parts/theme.h"
#include "core/edits/edits.h"
#include "core/project/cards_text.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMimeData>
#include <QPlainTextEdit>
#include <QRegularExpression>
#include <QSyntaxHighlighter>
#include <QTextBlock>
#include <QVBoxLayout>
#include <algorithm>

namespace hue {
namespace {

/// Without hue: the name of a line heavy, remarks in second ink.
class LinesHighlighter : public QSyntaxHighlighter {
  public:
    using QSyntaxHighlighter::QSyntaxHighlighter;

  protected:
    void highlightBlock(const QString& line) override {
        static const QRegularExpression name("^(?:(?:muted|number|vector2|vector3|color|map)\\s+)?(\\w+)\\s*=");
        QTextCharFormat heavy, remark;
        heavy.setFontWeight(QFont::Bold);
        remark.setForeground(theme().ink2);
        if (const auto match = name.match(line); match.hasMatch())
            setFormat(int(match.capturedStart(1)), int(match.capturedLength(1)), heavy);
        if (const auto at = line.indexOf("//"); at >= 0) setFormat(int(at), int(line.size() - at), remark);
    }
};

/// Cards that were copied on a board come as their lines.
class LinesEdit : public QPlainTextEdit {
  public:
    /// `stands`: the text as it is right.
    LinesEdit(Session& session, const BoardText& stands) : m_session(session), m_stands(stands) {}

  protected:
    void insertFromMimeData(const QMimeData* mime) override {
        const Result<CopiedCards> cards = parseCards(mime->text().toStdString());
        if (!cards) return QPlainTextEdit::insertFromMimeData(mime);
        std::map<Id, Id> made;
        const Result<Project> pasted = edit::pasteCards(m_session.project(), m_session.masterId(), *cards, {}, &made);
        if (!pasted) return m_session.say(QString::fromStdString(pasted.error().sentence));
        std::vector<Id> ids;
        for (const auto& [old, id] : made) ids.push_back(id);
        std::string lines = linesOf(*pasted, *pasted->board(m_session.masterId()), ids, m_stands.cards);
        QTextCursor cursor = textCursor();
        // A line of its own.
        if (cursor.positionInBlock() > 0) lines.insert(0, "\n");
        cursor.insertText(QString::fromStdString(lines));
    }

  private:
    Session& m_session;
    const BoardText& m_stands;
};

} // namespace

TextPanel::TextPanel(Session& session, Commands& commands, QWidget* parent)
    : SidePanel(commands, "graph.text", tr("The board as text"), parent), m_session(session) {
    setObjectName("textPanel");
    setMinimumWidth(320);
    setMaximumWidth(620);
    auto* title = new QLabel(tr("Lines"));
    title->setFont(textFont(13, true));
    head()->addWidget(title);
    head()->addStretch();
    m_text = new LinesEdit(session, m_right);
    m_text->setObjectName("boardText");
    m_text->setAccessibleName(tr("Lines of the board"));
    m_text->setAccessibleDescription(tr("Each line is a card. Escape takes back what is not right."));
    m_text->setFont(codeFont(12));
    m_text->setLineWrapMode(QPlainTextEdit::NoWrap);
    m_text->setTabStopDistance(m_text->fontMetrics().horizontalAdvance("    "));
    // Steps back are the project's, so that text and board go together.
    m_text->setUndoRedoEnabled(false);
    new LinesHighlighter(m_text->document());
    m_about = new QLabel;
    m_about->setObjectName("textAbout");
    m_about->setWordWrap(true);
    column()->addWidget(m_text, 1);
    column()->addWidget(m_about);
    m_text->installEventFilter(this);
    m_soon.setSingleShot(true);
    m_soon.setInterval(250);
    connect(&m_soon, &QTimer::timeout, this, &TextPanel::take);
    connect(m_text, &QPlainTextEdit::textChanged, this, [this] {
        if (!m_setting) m_soon.start();
    });
    connect(m_text, &QPlainTextEdit::cursorPositionChanged, this, [this] {
        if (!m_setting && m_text->hasFocus()) enterLine();
    });
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (!m_taking && what.any(Change::Graph | Change::Board | Change::Values | Change::Maps | Change::Names)) follow();
    });
    connect(&session, &Session::masterShown, this, [this] {
        // What was typed on the board before belongs there.
        if (m_soon.isActive()) take();
        m_problems.clear();
        follow();
    });
    connect(&session, &Session::projectOpened, this, [this] {
        m_soon.stop();
        m_problems.clear();
        m_board.clear();
        follow();
    });
}

QString TextPanel::about() const { return m_about->text(); }

std::vector<int> TextPanel::wrongLines() const {
    std::vector<int> out;
    for (const FormulaProblem& p : m_problems)
        if (out.empty() || out.back() != p.at.line) out.push_back(p.at.line);
    return out;
}

void TextPanel::hideEvent(QHideEvent*) {
    if (m_soon.isActive()) take();
    m_session.endRow();
}

void TextPanel::follow() {
    const Master* board = m_session.master();
    if (!isVisible() || !board || !m_problems.empty() || m_soon.isActive()) return;
    const BoardText& written = board->graph.lines;
    const BoardText start = !written.text.empty() ? written : board->id == m_board ? m_right : BoardText{};
    m_session.runner().run(
        {.owner = this, .kind = "text"},
        [snapshot = m_session.snapshot(), id = board->id, start](const Work&) { return followed(start, *snapshot, id); },
        [this, id = board->id](const BoardText& text) {
            // Meanwhile somebody may have typed, or gone elsewhere.
            if (m_session.masterId() != id || m_soon.isActive() || !m_problems.empty()) return;
            m_board = id;
            show(text);
        });
}

void TextPanel::show(const BoardText& text) {
    m_right = text;
    const QString now = QString::fromStdString(text.text), was = m_text->toPlainText();
    if (now != was) {
        // Only what differs is written, so that cursor and scroll stay where they are.
        qsizetype front = 0, back = 0;
        const qsizetype least = std::min(now.size(), was.size());
        while (front < least && now[front] == was[front]) ++front;
        while (back < least - front && now[now.size() - 1 - back] == was[was.size() - 1 - back]) ++back;
        m_setting = true;
        QTextCursor cursor(m_text->document());
        cursor.setPosition(int(front));
        cursor.setPosition(int(was.size() - back), QTextCursor::KeepAnchor);
        cursor.insertText(now.mid(front, now.size() - back - front));
        m_setting = false;
    }
    mark();
}

void TextPanel::take() {
    m_soon.stop();
    const Master* board = m_session.project().board(m_board);
    if (!board) return;
    const std::string text = m_text->toPlainText().toStdString();
    if (text == m_right.text && m_problems.empty()) return;
    const ReadText read = readText(m_session.project(), m_board, text, m_right);
    m_problems = read.problems;
    if (m_problems.empty() && text != m_right.text) {
        m_taking = true;
        const bool good = m_session.apply(
            tr("edit the text"), [&](const Project&) { return applyText(read, m_board, text); }, "text " + QString::fromStdString(m_board));
        m_taking = false;
        if (good) m_right = {text, read.cards};
    }
    mark();
    if (m_text->hasFocus()) enterLine();
}

void TextPanel::takeBack() {
    m_soon.stop();
    m_problems.clear();
    show(m_right);
    follow();
}

void TextPanel::mark() {
    QList<QTextEdit::ExtraSelection> marks;
    const auto whole = [&](int line) {
        QTextEdit::ExtraSelection mark;
        mark.cursor = QTextCursor(m_text->document()->findBlockByNumber(line - 1));
        mark.cursor.movePosition(QTextCursor::EndOfBlock, QTextCursor::KeepAnchor);
        return mark;
    };
    const std::map<Id, int> lines = m_problems.empty() && !m_cards.empty() ? linesOfCards(m_right) : std::map<Id, int>();
    for (const Id& card : m_cards)
        if (const auto line = lines.find(card); line != lines.end()) {
            QTextEdit::ExtraSelection mark = whole(line->second);
            mark.format.setBackground(theme().hairline);
            mark.format.setProperty(QTextFormat::FullWidthSelection, true);
            marks << mark;
        }
    for (const int line : wrongLines()) {
        QTextEdit::ExtraSelection mark = whole(line);
        mark.format.setUnderlineStyle(QTextCharFormat::WaveUnderline);
        mark.format.setUnderlineColor(theme().broken);
        marks << mark;
    }
    m_text->setExtraSelections(marks);
    if (m_problems.empty()) {
        m_about->setText(tr("A line is a card: name = node(input: value). The cursor selects the card of its line."));
    } else {
        QString words = QString::fromStdString(describe(m_problems[0]));
        if (const auto more = wrongLines().size() - 1) words += tr("\nand %1").arg(counted(int(more), tr("more line"), tr("more lines")));
        m_about->setText(words + tr("\nThe board stays as it was. Escape takes the text back."));
    }
    m_about->setStyleSheet(QString("color: %1").arg((m_problems.empty() ? theme().ink2 : theme().broken).name()));
}

void TextPanel::light(const std::set<Id>& cards) {
    if (m_cards == cards) return;
    m_cards = cards;
    mark();
    if (m_text->hasFocus() || !m_problems.empty()) return;
    const std::map<Id, int> lines = linesOfCards(m_right);
    const auto first = std::find_if(cards.begin(), cards.end(), [&](const Id& card) { return lines.contains(card); });
    if (first == cards.end()) return;
    m_setting = true;
    m_text->setTextCursor(QTextCursor(m_text->document()->findBlockByNumber(lines.at(*first) - 1)));
    m_text->centerCursor();
    m_setting = false;
}

void TextPanel::enterLine() {
    if (!m_problems.empty() || m_soon.isActive()) return;
    const Id card = cardOnLine(m_right, m_text->textCursor().blockNumber() + 1);
    if (card.empty() || m_cards == std::set<Id>{card}) return;
    m_cards = {card};
    mark();
    Q_EMIT cardEntered(card);
}

bool TextPanel::eventFilter(QObject* watched, QEvent* event) {
    if (watched != m_text || (event->type() != QEvent::KeyPress && event->type() != QEvent::ShortcutOverride)) return false;
    const auto* key = static_cast<QKeyEvent*>(event);
    const bool undo = key->matches(QKeySequence::Undo), redo = key->matches(QKeySequence::Redo), escape = key->key() == Qt::Key_Escape;
    if (!undo && !redo && !escape) return false;
    event->accept();
    if (event->type() == QEvent::ShortcutOverride) return true;
    if (m_soon.isActive()) take();
    // What is not right is no step yet: it goes first.
    if (!m_problems.empty()) takeBack();
    else if (undo) m_session.undoStack()->undo();
    else if (redo) m_session.undoStack()->redo();
    return true;
}

} // namespace hue
