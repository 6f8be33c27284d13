#pragma once
// The station Dispatch: maps and GLB files of what is worn, written in the background.
#include "app/session/session.h"

#include <QWidget>

class QComboBox;
class QLineEdit;
class QProgressBar;
class QPlainTextEdit;
class QPushButton;
class QTreeView;

namespace hue {

class DispatchPage : public QWidget {
    Q_OBJECT

  public:
    explicit DispatchPage(Session& session, QWidget* parent = nullptr);
    ~DispatchPage() override;
    bool busy() const { return m_busy; }

  Q_SIGNALS:
    void finished(bool ok);

  protected:
    /// What is being tuned is what one most likely wants to send out, on the mesh that wears it.
    void showEvent(QShowEvent*) override;

  private:
    void refresh();
    void run(bool glb);
    void done(bool ok, const QStringList& lines);

    Session& m_session;
    QComboBox *m_worn, *m_mesh, *m_size;
    QLineEdit* m_folder;
    QPushButton *m_bake, *m_glb, *m_cancel;
    QProgressBar* m_progress;
    QPlainTextEdit* m_report;
    bool m_busy = false;
    std::shared_ptr<std::atomic<bool>> m_cancelled;
};

} // namespace hue
