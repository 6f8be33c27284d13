#include "app/parts/theme.h"

#include <QApplication>
#include <QFontDatabase>
#include <QPainter>
#include <QPixmap>
#include <QStyleFactory>
#include <QWidget>

static void loadResources() { Q_INIT_RESOURCE(resources); }

namespace hue {
namespace {

QColor grey(int level) { return QColor(level, level, level); }

const Theme kPlaster{"Plaster",
                     grey(0xC6),
                     grey(0xD6),
                     grey(0xCD),
                     grey(0xC6),
                     grey(0xF0),
                     grey(0x1C),
                     grey(0x50),
                     grey(0xA6),
                     grey(0x77),
                     QColor(0x6E, 0x47, 0x00),
                     QColor(0xA0, 0x14, 0x0C)};
const Theme kGraphite{"Graphite",
                      grey(0x2B),
                      grey(0x35),
                      grey(0x2F),
                      grey(0x34),
                      grey(0x45),
                      grey(0xED),
                      grey(0xBE),
                      grey(0x60),
                      grey(0x77),
                      QColor(0xF0, 0xB8, 0x4A),
                      QColor(0xFF, 0x9C, 0x94)};

Theme current = kPlaster;

QString styleSheetFor(const Theme& t) {
    const QString text = QStringLiteral(R"(
QWidget { color: @ink; font-size: 13px; }
QMainWindow, QDialog, #page { background: @window; }
QToolTip { background: @card; color: @ink; border: 1px solid @ink; padding: 4px; }
#panel, #panel QScrollArea, #panel QScrollArea > QWidget > QWidget { background: @panel; }
QScrollArea { border: none; }
QLabel[second="true"] { color: @ink2; font-size: 12px; }
QLabel[title="true"] { font-weight: bold; }
QPushButton { background: @card; border: 1px solid @ink2; border-radius: 3px; padding: 4px 12px; }
QPushButton:hover { border: 1px solid @ink; }
QPushButton:focus { border: 1px dotted @ink; }
QPushButton:pressed, QPushButton:checked { background: @ink; color: @card; }
QPushButton:disabled { color: @ink2; border-color: @hairline; background: @panel; }
QToolButton { background: transparent; border: 1px solid transparent; border-radius: 3px; padding: 3px 6px; }
QToolButton:hover { border-color: @ink2; }
QToolButton:focus { border: 1px dotted @ink; }
QToolButton:checked, QToolButton:pressed { background: @ink; color: @card; }
QToolButton::menu-indicator { image: none; }
QLineEdit, QSpinBox, QDoubleSpinBox, QComboBox, QPlainTextEdit { background: @card; border: 1px solid @hairline; border-radius: 3px; padding: 2px 6px; selection-background-color: @ink; selection-color: @card; }
QLineEdit:focus, QSpinBox:focus, QComboBox:focus { border: 1px dotted @ink; }
QComboBox:disabled { color: @ink2; background: @panel; }
QComboBox QAbstractItemView { background: @card; border: 1px solid @ink; selection-background-color: @ink; selection-color: @card; }
QComboBox::drop-down { border: none; width: 18px; }
QComboBox::down-arrow { image: url(:/icons/down.svg); width: 12px; height: 12px; }
QMenu { background: @card; border: 1px solid @ink2; padding: 4px; }
QMenu::item { padding: 4px 24px 4px 12px; border-radius: 3px; }
QMenu::item:selected { background: @ink; color: @card; }
QMenu::item:disabled { color: @ink2; }
QMenu::separator { height: 1px; background: @hairline; margin: 4px 8px; }
QListView, QTreeView, QTableView { background: @card; border: 1px solid @hairline; border-radius: 3px; alternate-background-color: @panel; selection-background-color: @ink; selection-color: @card; outline: none; }
QHeaderView::section { background: @panel; border: none; border-bottom: 1px solid @hairline; border-right: 1px solid @hairline; padding: 3px 6px; }
QScrollBar { background: @panel; border: none; }
QScrollBar:vertical { width: 10px; } QScrollBar:horizontal { height: 10px; }
QScrollBar::handle { background: @hairline; border-radius: 3px; min-height: 24px; min-width: 24px; }
QScrollBar::handle:hover { background: @ink2; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
QProgressBar { background: @card; border: 1px solid @ink2; border-radius: 3px; text-align: center; }
QProgressBar::chunk { background: @hairline; }
QSplitter::handle { background: @hairline; }
)");
    QString out = text;
    const std::pair<const char*, QColor> names[] = {{"@ink2", t.ink2},   {"@ink", t.ink},   {"@window", t.window},
                                                    {"@panel", t.panel}, {"@card", t.card}, {"@hairline", t.hairline}};
    for (const auto& [name, color] : names) out.replace(QLatin1String(name), color.name());
    return out;
}

void apply() {
    QPalette p;
    p.setColor(QPalette::Window, current.window);
    p.setColor(QPalette::Base, current.card);
    p.setColor(QPalette::AlternateBase, current.panel);
    p.setColor(QPalette::Button, current.panel);
    for (auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText, QPalette::ToolTipText}) p.setColor(role, current.ink);
    p.setColor(QPalette::ToolTipBase, current.card);
    p.setColor(QPalette::PlaceholderText, current.ink2);
    p.setColor(QPalette::Highlight, current.ink);
    p.setColor(QPalette::HighlightedText, current.card);
    p.setColor(QPalette::Link, current.ink);
    QApplication::setPalette(p);
    qApp->setStyleSheet(styleSheetFor(current));
    for (QWidget* w : QApplication::allWidgets()) w->update();
}

} // namespace

const Theme& theme() { return current; }

void setTheme(const QString& name) {
    current = name == kGraphite.name ? kGraphite : kPlaster;
    apply();
}

void initTheme() {
    loadResources();
    for (const char* file : {"Lato-Regular.ttf", "Lato-Bold.ttf", "JetBrainsMono-Regular.ttf"})
        QFontDatabase::addApplicationFont(QStringLiteral(":/fonts/") + file);
    QApplication::setStyle(QStyleFactory::create("Fusion"));
    QApplication::setFont(textFont());
    apply();
}

QFont textFont(int pixels, bool bold) {
    QFont f("Lato");
    f.setPixelSize(pixels);
    f.setBold(bold);
    return f;
}

QFont codeFont(int pixels) {
    QFont f("JetBrains Mono");
    f.setPixelSize(pixels);
    return f;
}

QString counted(int n, const QString& one, const QString& many) { return QString("%1 %2").arg(n).arg(n == 1 ? one : many); }

QBrush hatch(const QColor& ink) {
    QPixmap tile(6, 6);
    tile.fill(Qt::transparent);
    QPainter p(&tile);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(ink, 1.4));
    for (int k = -6; k <= 12; k += 6) p.drawLine(k, 6, k + 6, 0);
    return QBrush(tile);
}

} // namespace hue
