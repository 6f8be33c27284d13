#pragma once
// The station Dispatch: maps and GLB files of what is worn, written in the background.
#include "app/stations/station.h"

#include <QWidget>

class QComboBox;
class QLineEdit;
class QProgressBar;
class QPlainTextEdit;
class QPushButton;
class QTreeView;

namespace hue {

class DispatchPage : public Station {
    Q_OBJECT

  public:
    explicit DispatchPage(Workplace& place);
    bool busy() const;

  Q_SIGNALS:
    void finished(bool ok);

  protected:
    void projectChanged(Changes) override;
    /// What is being tuned is what one most likely wants to send out, on the mesh that wears it.
    void showEvent(QShowEvent*) override;

  private:
    void refresh();
    void run(bool glb);
    void done(bool ok, const QStringList& lines);

    Session& m_session;
    QComboBox *m_worn, *m_mesh, *m_uvSet, *m_size;
    QLineEdit* m_folder;
    QPushButton *m_bake, *m_glb, *m_cancel;
    QProgressBar* m_progress;
    QPlainTextEdit* m_report;
};

} // namespace hue
