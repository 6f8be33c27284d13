#pragma once
// The station Instances: all instances as a tree under their masters, their values in a table.
#include "app/lineup/picture_service.h"
#include "app/stations/instances/instance_table.h"
#include "app/stations/station.h"

#include <QTimer>
#include <QWidget>

class QLabel;
class QLineEdit;
class QMenu;
class QPushButton;

namespace hue {

class AffectedPanel;

class InstancesPage : public Station {
    Q_OBJECT

  public:
    explicit InstancesPage(Workplace& place);
    void arrive() override;
    void addCommands() override;
    InstanceTable* table() const { return m_table; }
    InstanceModel* model() const { return m_model; }
    /// Pictures of these with their names, as a PNG; Esc stops it.
    void writeSheet(const std::vector<Id>& worn, const QString& file);

  protected:
    void projectChanged(Changes) override;
    void showEvent(QShowEvent*) override;
    void resizeEvent(QResizeEvent*) override;

  private:
    void select(const Id& id);
    void requestPictures();
    void fillMore(QMenu* menu);
    void fillColumns(QMenu* menu);
    void askTags();
    void askNote();
    void chooseParent();
    void makeVariations();
    void askSheet();
    void makeForSets();
    void showInLineup();
    void bringTable();
    void writeTable();
    Session& m_session;
    PictureService& m_pictures;
    std::vector<Id> m_pictured; ///< by place of the picture service
    QTimer m_soon;              ///< pictures of rows that have come into view
    InstanceModel* m_model;
    InstanceTable* m_table;
    AffectedPanel* m_affected;
    QPushButton* m_affectedButton;
    QLineEdit *m_filter, *m_words;
    QString m_hintWords; ///< while nothing is at work
    QLabel* m_hint;
};

} // namespace hue
