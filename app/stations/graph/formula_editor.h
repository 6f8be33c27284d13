#pragma once
// The text of a formula card, edited beside it. What can be read is taken at once, so that the picture follows; the whole session at the
// text is one step of undo.
#include "core/document/project.h"

#include <QFrame>
#include <QTimer>

class QLabel;
class QPlainTextEdit;

namespace hue {

class Session;

class FormulaEditor : public QFrame {
    Q_OBJECT

  public:
    FormulaEditor(Session& session, QWidget* parent);

    /// Opens on a card of the shown master; `below` is the place in the parent where it should hang.
    void open(const Id& card, QPoint below);
    /// What is wrong with the text; empty while nothing is.
    QString problem() const;

  Q_SIGNALS:
    void closed();

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void take();
    void take(const QString& text);
    void finish();
    void showProblem();

    Session& m_session;
    Id m_master, m_card;
    QString m_before; ///< the text as it was, for Escape
    QPlainTextEdit* m_text;
    QLabel* m_problem;
    QTimer m_soon;
};

} // namespace hue
