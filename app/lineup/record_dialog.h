#pragma once
// Records the loop: what, how large, how many frames, where to; with progress and cancel.
#include "app/session/session.h"
#include "preview/recorder.h"

#include <QDialog>

class QComboBox;
class QDoubleSpinBox;
class QLabel;
class QProgressBar;
class QPushButton;
class QSpinBox;

namespace hue {

class RecordDialog : public QDialog {
    Q_OBJECT

  public:
    RecordDialog(Session& session, size_t specimen, QSize size, QWidget* parent);
    /// Starts into a file or folder, without asking for it.
    void start(const QString& path);
    bool running() const;
    QComboBox* kindBox() const { return m_kind; }
    QComboBox* whatBox() const { return m_what; }
    QDoubleSpinBox* rate() const { return m_rate; }
    QSpinBox* widthBox() const { return m_width; }

  Q_SIGNALS:
    void finished(bool good, const QString& words);

  private:
    RecordRequest request() const;
    void choosePath();
    void refresh();

    Session& m_session;
    size_t m_specimen;
    QSize m_size;
    QComboBox *m_kind, *m_what;
    QSpinBox* m_width;
    QDoubleSpinBox *m_rate, *m_from, *m_to;
    QLabel* m_summary;
    QProgressBar* m_progress;
    QPushButton* m_button;
};

} // namespace hue
