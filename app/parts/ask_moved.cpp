#include "app/parts/ask_moved.h"

#include <QMessageBox>
#include <QPushButton>

namespace hue {

bool agreedToMove(QWidget* parent, const QString& title, const QString& heading, const std::vector<std::string>& moved, const QString& go) {
    if (moved.empty()) return true;
    constexpr size_t kMost = 12;
    QString words = heading + "\n";
    for (size_t k = 0; k < moved.size() && k < kMost; ++k) words += "\n" + QString::fromStdString(moved[k]);
    if (moved.size() > kMost) words += QObject::tr("\nand %1 more").arg(moved.size() - kMost);
    QMessageBox ask(parent);
    ask.setObjectName("parameterMoved");
    ask.setWindowTitle(title);
    ask.setText(words);
    const QPushButton* yes = ask.addButton(go, QMessageBox::AcceptRole);
    ask.addButton(QObject::tr("Go back"), QMessageBox::RejectRole);
    ask.exec();
    return ask.clickedButton() == yes;
}

} // namespace hue
