#pragma once
// One parameter on the sheet.
#include "app/session/session.h"

#include <QWidget>

class QMenu;
class QPushButton;
class QToolButton;

namespace hue {

class DrawnField;
class ValueField;

/// Name, mark of an own value, value.
class ParameterRow : public QWidget {
    Q_OBJECT

  public:
    ParameterRow(Session& session, const Parameter& parameter, QWidget* parent);
    const Id& parameter() const { return m_id; }
    const std::string& group() const { return m_group; }
    /// `idle`: nothing of the build that is shown reads it.
    void refresh(bool idle, const QStringList& warnings = {});
    bool isIdle() const { return m_idle; }
    ValueField* field() const { return m_field; }
    /// Of colors: how strongly it glows, and how much it covers; hidden where the parameter has none.
    ValueField* strength() const { return m_strength; }
    ValueField* alpha() const { return m_alpha; }
    /// Of curves and gradients.
    DrawnField* drawn() const { return m_drawn; }
    /// Gives the value back to the parent; hidden where it is inherited.
    QToolButton* returnButton() const { return m_return; }

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    /// Another row that is dropped here comes to stand before this one, in its group.
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;

  private:
    void chooseMap();
    void chooseFinish();
    void chooseSet();
    void fillOfSet(QMenu* menu);
    void fillMerge(QMenu* menu);
    void setColor(Value color);
    void layOut();

    Session& m_session;
    Id m_id;
    std::string m_group; ///< under whose heading the row stands
    QString m_name;
    bool m_own = false, m_idle = false;
    QStringList m_warnings; ///< what its range may do to the graph
    QPoint m_press;
    Value m_hue = Value::vec3(1, 1, 1); ///< of a color without its strength; stays while that is 0
    ValueField* m_field;
    ValueField *m_strength, *m_alpha;
    DrawnField* m_drawn;
    QPushButton* m_map; ///< names a map or a finish
    QToolButton* m_return;
};

/// A new map set parameter that map parameters of a master are taken of.
void takeOfNewSet(Session& session, const Id& master, const std::vector<Id>& maps);

} // namespace hue
