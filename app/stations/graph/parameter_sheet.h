#pragma once
// The parameters of the shown master, for itself or for one of its instances.
#include "app/session/session.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QScrollArea;
class QVBoxLayout;
class QPushButton;
class QToolButton;

namespace hue {

class ValueField;
class ParameterRow;

class ParameterSheet : public QWidget {
    Q_OBJECT

  public:
    explicit ParameterSheet(Session& session, QWidget* parent = nullptr);
    ParameterRow* row(const Id& parameter) const;
    void newInstance();

  private:
    void rebuild();
    void refresh();
    std::string structure() const;

    Session& m_session;
    QComboBox* m_target;
    QLabel* m_worn;
    QWidget* m_body;
    QVBoxLayout* m_column;
    std::vector<ParameterRow*> m_rows;
    std::string m_built;
    QWidget* m_ownSurface;
    QToolButton *m_alphaMode, *m_sides;
    ValueField* m_cutoff;
};

/// Name, mark of an own value, value.
class ParameterRow : public QWidget {
    Q_OBJECT

  public:
    ParameterRow(Session& session, const Id& parameter, QWidget* parent);
    const Id& parameter() const { return m_id; }
    void refresh();
    ValueField* field() const { return m_field; }
    /// Gives the value back to the parent; hidden where it is inherited.
    QToolButton* returnButton() const { return m_return; }

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    /// Another row that is dropped here comes to stand before this one, in its group.
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;

  private:
    void chooseMap();

    Session& m_session;
    Id m_id;
    QString m_name;
    bool m_own = false;
    QPoint m_press;
    ValueField* m_field;
    QPushButton* m_map;
    QToolButton* m_return;
};

/// Asks for all that a parameter has; null when dismissed.
void editParameter(Session& session, const Id& parameter, QWidget* parent);

} // namespace hue
