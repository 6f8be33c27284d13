#pragma once
// The source of the shown master: each line knows its card, and each card its lines.
#include "app/session/session.h"
#include "app/stations/graph/side_panel.h"
#include "core/emit/source_lines.h"

#include <set>

class QComboBox;
class QLabel;
class QPlainTextEdit;

namespace hue {

class SourcePanel : public SidePanel {
    Q_OBJECT

  public:
    SourcePanel(Session& session, Commands& commands, QWidget* parent = nullptr);
    /// Lights the lines of these cards and shows the first.
    void light(const std::set<Id>& cards);
    /// Numbers of the lines that are lit, from 0.
    std::vector<int> litLines() const;
    const std::vector<SourceLine>& lines() const { return m_lines; }
    QComboBox* stageBox() const { return m_stage; }
    QComboBox* languageBox() const { return m_language; }
    QPlainTextEdit* text() const { return m_text; }
    bool upToDate() const;

  Q_SIGNALS:
    /// A line was clicked that comes from this card.
    void cardWanted(const hue::Id& card);

  protected:
    void showEvent(QShowEvent*) override { ask(); }
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    struct Made {
        std::vector<SourceLine> lines;
        QString problem; ///< why there are none
    };
    void ask();
    void receive(Made made);
    void paintLit(bool follow);
    void chooseLine(int line);

    Session& m_session;
    QComboBox *m_stage, *m_language;
    QPlainTextEdit* m_text;
    QLabel* m_about;
    std::vector<SourceLine> m_lines;
    std::set<Id> m_cards;
};

} // namespace hue
