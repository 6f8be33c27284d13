#pragma once
// What unsaved changes do to what is worn: pictures before and after, those first that differ most.
#include "app/lineup/picture_service.h"
#include "app/session/session.h"

#include <QWidget>

class QLabel;
class QTreeWidget;
class QTreeWidgetItem;

namespace hue {

class AffectedPanel : public QWidget {
    Q_OBJECT

  public:
    AffectedPanel(Session& session, PictureService& pictures, QWidget* parent = nullptr);
    /// Pictures have come and are compared.
    bool settled() const;

  Q_SIGNALS:
    void chosen(const hue::Id& worn);
    /// How many may look different.
    void counted(int affected);

  protected:
    void showEvent(QShowEvent*) override;

  private:
    struct Row {
        Id worn;
        QImage before, after;
        QTreeWidgetItem* item = nullptr;
        bool compared = false;
    };
    void refresh();
    void take(const std::vector<Id>& affected);
    void take(int place, const FinishedPicture& picture);
    void compareRow(size_t row);
    void sayHead();

    Session& m_session;
    PictureService& m_pictures;
    Snapshot m_before, m_after; ///< that the rows compare
    std::vector<Row> m_rows;
    size_t m_more = 0; ///< affected, and not drawn
    QLabel* m_head;
    QTreeWidget* m_list;
};

} // namespace hue
