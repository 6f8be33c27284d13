#pragma once
// Many instances at once: which values vary, between what, how many.
#include "app/session/session.h"
#include "core/instances/variations.h"

#include <QDialog>
#include <QTimer>

class QCheckBox;
class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;
class QSpinBox;

namespace hue {

class VariationsDialog : public QDialog {
    Q_OBJECT

  public:
    /// `parent`: what the instances derive from, a master or an instance.
    VariationsDialog(Session& session, const Id& of, QWidget* parent);
    /// As the fields stand; the first that is wrong as an error.
    Result<Variations> variations() const;

    QListWidget* pictures() const { return m_pictures; }

  private:
    void tell();
    /// Draws those that would be made, a while after the last change.
    void draw();

    Session& m_session;
    const Id m_of;
    struct Row {
        Id parameter;
        QCheckBox* varies;
        QLineEdit *low, *high; ///< of a map, the first holds names, and there is no second
    };
    std::vector<Row> m_rows;
    QLineEdit* m_name;
    QSpinBox *m_count, *m_seed;
    QCheckBox* m_gradual;
    QLabel* m_said;
    QPushButton* m_make;
    QListWidget* m_pictures; ///< each as it would look, ticked where it is made
    QTimer m_soon;
};

} // namespace hue
