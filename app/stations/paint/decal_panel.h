#pragma once
// The decals of the specimen: their order, and the values of the one in hand.
#include "app/parts/fields.h"
#include "app/stations/paint/decal_desk.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QListWidget;
class QToolButton;

namespace hue {

class DecalPanel : public QWidget {
    Q_OBJECT

  public:
    DecalPanel(Session& session, PaintDesk& paint, DecalDesk& desk, QWidget* parent = nullptr);

  Q_SIGNALS:
    /// A decal is to be put where the eye looks; `worn` empty: with a master made for it.
    void addWanted(const hue::Id& worn);
    void wordsWanted(const QString& words);

  private:
    void fillAddMenu();
    void fillMoreMenu();
    void askForWords();
    void askForOtherWords();
    void fillSlotMenu();
    void refresh();
    void rowEdited(const Id& decal, const std::string& name, bool hidden);

    struct Row {
        ValueField* field;
        std::function<float&(Decal&)> of;
    };
    Session& m_session;
    PaintDesk& m_paint;
    DecalDesk& m_desk;
    QListWidget* m_list;
    QComboBox* m_wears;
    std::vector<Row> m_rows;
    QToolButton *m_add, *m_more, *m_slots;
    QCheckBox *m_mirrored, *m_locked;
    QWidget* m_values;
    QLabel* m_cost;
    bool m_refreshing = false;
};

} // namespace hue
