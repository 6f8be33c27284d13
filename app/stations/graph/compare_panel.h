#pragma once
// The shown board against another state of it: what came, went and changed, marked on the board as well.
#include "app/session/session.h"
#include "app/stations/graph/side_panel.h"
#include "core/nodes/board_differences.h"

class QComboBox;
class QLabel;
class QListWidget;

namespace hue {

class ComparePanel : public SidePanel {
    Q_OBJECT

  public:
    ComparePanel(Session& session, Commands& commands, QWidget* parent = nullptr);
    const std::vector<BoardDifference>& differences() const { return m_differences; }
    QComboBox* against() const { return m_against; }
    QListWidget* list() const { return m_list; }
    /// Reads another project in the background and compares with its board: the one of the same master, else its first.
    void compareWithFile(const QString& file);

  Q_SIGNALS:
    /// Cards that came or changed should be marked; none any more once it is closed.
    void marked(const std::vector<hue::Id>& cards);
    void cardWanted(const hue::Id& card);

  protected:
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;
    void showEvent(QShowEvent*) override;
    void hideEvent(QHideEvent*) override;

  private:
    /// Fills the box with states to compare against: the saved file, earlier steps, other masters, another file and its boards.
    void offer();
    void chooseFile();
    void compare();

    Session& m_session;
    QComboBox* m_against;
    QLabel* m_count;
    QListWidget* m_list;
    QString m_chosen; ///< what is compared with, by the data of its entry
    Snapshot m_other; ///< another file
    QString m_otherName;
    std::vector<BoardDifference> m_differences;
};

} // namespace hue
