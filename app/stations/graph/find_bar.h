#pragma once
// Finds cards on the board by what people remember of them, and steps through what was found.
#include "app/session/session.h"

#include <QFrame>

class QLabel;
class QLineEdit;

namespace hue {

class Board;

class FindBar : public QFrame {
    Q_OBJECT

  public:
    FindBar(Session& session, Board& board);
    void open();
    QLineEdit* line() const { return m_line; }
    /// "2 of 5", or what to do where nothing was found.
    QString told() const;
    const std::vector<Id>& hits() const { return m_hits; }

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void search();
    /// To the next hit, or the one before.
    void step(int by);
    void close();

    Session& m_session;
    Board& m_board;
    QLineEdit* m_line;
    QLabel* m_count;
    std::vector<Id> m_hits;
    int m_at = -1; ///< which of them is shown
};

} // namespace hue
