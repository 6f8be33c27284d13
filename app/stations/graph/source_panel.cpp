#include "app/stations/graph/source_panel.h"

#include "app/parts/theme.h"
#include "core/compile/compile.h"
#include "core/languages/languages.h"

#include <QComboBox>
#include <QEvent>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPlainTextEdit>
#include <QRegularExpression>
#include <QSyntaxHighlighter>
#include <QTextBlock>
#include <QVBoxLayout>

namespace hue {
namespace {

/// Without hue: types and words of the language heavy, remarks in second ink.
class Highlighter : public QSyntaxHighlighter {
  public:
    using QSyntaxHighlighter::QSyntaxHighlighter;

  protected:
    void highlightBlock(const QString& line) override {
        static const QRegularExpression words(
            "\\b(float[234]?|vec[234]|int|uint[234]?|uvec[234]|bool|void|struct|uniform|in|out|inout|const|layout|return|if|else|for|"
            "sampler2D|samplerCube|Texture2D|SamplerState|static|cbuffer|register|fragment|constant|thread|using|namespace|precision|"
            "highp|mediump)\\b");
        QTextCharFormat heavy, remark;
        heavy.setFontWeight(QFont::Bold);
        remark.setForeground(theme().ink2);
        for (auto it = words.globalMatch(line); it.hasNext();) {
            const auto match = it.next();
            setFormat(int(match.capturedStart()), int(match.capturedLength()), heavy);
        }
        if (const auto at = line.indexOf("//"); at >= 0) setFormat(int(at), int(line.size() - at), remark);
        if (line.startsWith('#')) setFormat(0, int(line.size()), remark);
    }
};

} // namespace

SourcePanel::SourcePanel(Session& session, Commands& commands, QWidget* parent)
    : SidePanel(commands, "graph.source", tr("Source"), parent), m_session(session) {
    setObjectName("sourcePanel");
    setMinimumWidth(320);
    setMaximumWidth(520);
    m_stage = new QComboBox;
    m_stage->setAccessibleName(tr("Stage"));
    m_stage->setToolTip(tr("What is computed per pixel, or what is computed at the vertices: what moves them, and what triangles carry"));
    m_stage->addItem(tr("Surface"));
    m_stage->addItem(tr("Vertices"));
    m_language = new QComboBox;
    m_language->setAccessibleName(tr("Language"));
    m_language->setToolTip(tr("The same function in another language; hsk shader writes it to a file"));
    for (const LanguageDef& l : languages())
        if (l.text) m_language->addItem(QString::fromUtf8(l.name.data(), qsizetype(l.name.size())), int(l.language));
    head()->addWidget(m_stage);
    head()->addWidget(m_language);
    head()->addStretch();
    m_text = new QPlainTextEdit;
    m_text->setReadOnly(true);
    m_text->setFont(codeFont(11));
    m_text->setLineWrapMode(QPlainTextEdit::NoWrap);
    m_text->setAccessibleName(tr("Source of the surface"));
    m_text->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    new Highlighter(m_text->document());
    m_about = new QLabel;
    m_about->setWordWrap(true);
    column()->addWidget(m_text, 1);
    column()->addWidget(m_about);
    m_text->viewport()->installEventFilter(this);
    m_text->installEventFilter(this);
    connect(m_stage, &QComboBox::currentIndexChanged, this, &SourcePanel::ask);
    connect(m_language, &QComboBox::currentIndexChanged, this, &SourcePanel::ask);
    connect(&session, &Session::changed, this, [this](Changes what) {
        if (what.any(Change::Graph | Change::Surface | Change::Maps)) ask();
    });
    connect(&session, &Session::masterShown, this, &SourcePanel::ask);
}

bool SourcePanel::upToDate() const { return !m_session.runner().running(this, "source"); }

void SourcePanel::ask() {
    if (!isVisible() || !m_session.master()) return;
    const bool vertices = m_stage->currentIndex() == 1;
    const auto language = Language(m_language->currentData().toInt());
    m_session.runner().run(
        {.owner = this, .kind = "source"},
        [snapshot = m_session.snapshot(), id = m_session.rootId(), path = m_session.pathText(), vertices, language](const Work&) {
            Made made;
            const Master* master = snapshot->master(id);
            if (!master) return made;
            const Compilation compiled = compileSurface(*snapshot, *master, Constants::Folded, {}, path);
            if (!compiled.ok) {
                made.problem = tr("The graph has errors; the source comes back when they are mended.");
                return made;
            }
            const Stages stages = stagesOf(compiled, Carry::Asked); // the function stands alone
            if (vertices && !stages.vertices) {
                made.problem = tr("Nothing of this master is computed at the vertices. Wire something to Vertex offset, or have a wire "
                                  "computed per vertex.");
                return made;
            }
            const Program& program = vertices ? *stages.vertices : *stages.pixels;
            const Result<std::string> text = surfaceFunction(program, *snapshot, *master, language);
            if (!text) made.problem = QString::fromStdString(text.error().sentence);
            else made.lines = sourceLines(program, *text);
            return made;
        },
        [this](Made made) { receive(std::move(made)); });
}

void SourcePanel::receive(Made made) {
    m_lines = std::move(made.lines);
    QStringList lines;
    for (const SourceLine& line : m_lines) lines << QString::fromStdString(line.text);
    m_text->setPlainText(lines.join('\n'));
    m_about->setText(made.problem);
    paintLit(true);
}

void SourcePanel::light(const std::set<Id>& cards) {
    if (m_cards == cards) return;
    m_cards = cards;
    paintLit(true);
}

std::vector<int> SourcePanel::litLines() const {
    std::vector<int> out;
    for (size_t k = 0; k < m_lines.size(); ++k)
        if (m_cards.contains(m_lines[k].card)) out.push_back(int(k));
    return out;
}

void SourcePanel::paintLit(bool follow) {
    const std::vector<int> lit = litLines();
    QList<QTextEdit::ExtraSelection> marks;
    for (const int k : lit) {
        QTextEdit::ExtraSelection mark;
        mark.cursor = QTextCursor(m_text->document()->findBlockByNumber(k));
        mark.format.setBackground(theme().ink);
        mark.format.setForeground(theme().card);
        mark.format.setProperty(QTextFormat::FullWidthSelection, true);
        mark.cursor.movePosition(QTextCursor::EndOfBlock, QTextCursor::KeepAnchor);
        marks << mark;
    }
    m_text->setExtraSelections(marks);
    if (!m_lines.empty())
        m_about->setText(m_cards.empty() ? tr("Select a card to light its lines; click on a line to select its card.")
                         : lit.empty()   ? tr("What is selected leaves no line: it is folded in, or does not reach the surface.")
                                         : tr("%1 of %2").arg(counted(int(lit.size()), tr("line"), tr("lines"))).arg(m_lines.size()));
    if (!follow || lit.empty()) return;
    m_text->setTextCursor(QTextCursor(m_text->document()->findBlockByNumber(lit.front())));
    m_text->centerCursor();
}

void SourcePanel::chooseLine(int line) {
    if (line < 0 || size_t(line) >= m_lines.size() || m_lines[size_t(line)].card.empty()) return;
    // The line stays where it is while its card is shown.
    m_cards = {m_lines[size_t(line)].card};
    paintLit(false);
    Q_EMIT cardWanted(m_lines[size_t(line)].card);
}

bool SourcePanel::eventFilter(QObject* watched, QEvent* event) {
    if (watched == m_text->viewport() && event->type() == QEvent::MouseButtonRelease && !m_text->textCursor().hasSelection())
        chooseLine(m_text->cursorForPosition(static_cast<QMouseEvent*>(event)->pos()).blockNumber());
    if (watched == m_text && event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (key == Qt::Key_Return || key == Qt::Key_Enter) return chooseLine(m_text->textCursor().blockNumber()), true;
    }
    return QWidget::eventFilter(watched, event);
}

} // namespace hue
