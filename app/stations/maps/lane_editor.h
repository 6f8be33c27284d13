#pragma once
// One lane of a recipe.
#include "app/session/session.h"

class QComboBox;
class QDoubleSpinBox;
class QLineEdit;
class QToolButton;
class QVBoxLayout;

namespace hue {

class MapCanvas;

/// One lane: source, what is taken of it, and operations.
class LaneEditor : public QWidget {
    Q_OBJECT

  public:
    LaneEditor(int lane, Session& session, QWidget* parent = nullptr);
    void set(const Lane& lane, const Id& source);
    const Lane& lane() const { return m_lane; }
    Id source() const;
    /// What the lane would hold, as grey.
    MapCanvas* picture() const { return m_picture; }
    QComboBox* mapBox() const { return m_map; }
    QComboBox* fromBox() const { return m_from; }

  Q_SIGNALS:
    void changed();
    /// Another map stands for the lane's source.
    void sourceChosen(const QString& role, const QString& map);

  private:
    void refresh();
    void addOp(LaneOp::Kind kind);
    void editOp(size_t index);

    Session& m_session;
    Lane m_lane;
    Id m_source;
    QComboBox *m_from, *m_map, *m_take;
    QDoubleSpinBox* m_constant;
    QLineEdit* m_wire;
    QVBoxLayout* m_ops;
    QToolButton* m_add;
    MapCanvas* m_picture;
};

} // namespace hue
