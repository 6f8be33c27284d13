#pragma once
// The shown board as lines of text beside it: either side is edited, the other follows.
#include "app/session/session.h"
#include "app/stations/graph/side_panel.h"
#include "core/master_text/master_text.h"

#include <QTimer>
#include <set>

class QLabel;
class QPlainTextEdit;

namespace hue {

class TextPanel : public SidePanel {
    Q_OBJECT

  public:
    TextPanel(Session& session, Commands& commands, QWidget* parent = nullptr);
    /// Marks the lines of these cards and shows the first, unless one is writing.
    void light(const std::set<Id>& cards);
    QPlainTextEdit* text() const { return m_text; }
    /// What stands beneath the text: the first mistake, or how it is used.
    QString about() const;
    /// Numbers of the lines with mistakes, from 1.
    std::vector<int> wrongLines() const;

  Q_SIGNALS:
    /// The cursor came to the line of this card.
    void cardEntered(const hue::Id& card);

  protected:
    void showEvent(QShowEvent*) override { follow(); }
    void hideEvent(QHideEvent*) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    /// The text as the board is by now; one with a mistake stays as it was typed.
    void follow();
    /// Takes what was typed, where it is right.
    void take();
    /// What was typed and is not right goes.
    void takeBack();
    void show(const BoardText& text);
    void mark();
    void enterLine();

    Session& m_session;
    QPlainTextEdit* m_text;
    QLabel* m_about;
    QTimer m_soon;
    Id m_board;        ///< whose text stands here
    BoardText m_right; ///< the last text that was right
    std::vector<FormulaProblem> m_problems;
    std::set<Id> m_cards; ///< that are lit
    bool m_setting = false, m_taking = false;
};

} // namespace hue
