#pragma once
// Ink and paper: exact neutral greys; hue belongs to the work.
#include <QColor>
#include <QFont>
#include <QString>
#include <QWidget>

namespace hue {

struct Theme {
    QString name;
    QColor window, panel, board, boardRule, card, ink, ink2, hairline, surround;
    QColor caution{0x9A, 0x66, 0x00}, broken{0xB3, 0x1B, 0x12};
};

const Theme& theme();
/// "Plaster" or "Graphite"; repaints every window.
void setTheme(const QString& name);
/// Registers the fonts that travel with the program and sets style and palette. Once, after QApplication.
void initTheme();

QFont textFont(int pixels = 13, bool bold = false);
QFont codeFont(int pixels = 12);

/// "1 card", "3 cards".
QString counted(int n, const QString& one, const QString& many);

/// Diagonal ink lines: over a limit, or a wire that is a band.
QBrush hatch(const QColor& ink);

} // namespace hue
