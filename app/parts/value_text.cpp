#include "app/parts/value_text.h"

#include <QRegularExpression>
#include <QStringList>
#include <cmath>

namespace hue {

QString numberText(float x) {
    QString text = QString::number(double(x), 'f', std::fabs(x) >= 100 ? 1 : std::fabs(x) >= 10 ? 2 : 3);
    while (text.contains('.') && (text.endsWith('0') && !text.endsWith(".0"))) text.chop(1);
    if (text.endsWith(".0")) text.chop(2);
    return text == "-0" ? "0" : text;
}

QString valueText(const Value& value, bool color) {
    if (color && value.width == 3) return QString::fromStdString(hexFromColor(value));
    QStringList parts;
    for (int c = 0; c < value.width; ++c) parts << numberText(value[c]);
    return parts.join(' ');
}

bool valueFromText(const QString& text, int width, Value& value) {
    Value color;
    if (colorFromHex(text.trimmed().toStdString(), color)) {
        if (width != 3 && width != 0) return false;
        value = color;
        return true;
    }
    const QStringList parts = text.trimmed().split(QRegularExpression("[\\s;]+|,\\s+"), Qt::SkipEmptyParts);
    if (parts.isEmpty() || parts.size() > 4) return false;
    Value read{int(parts.size()), {}};
    for (int c = 0; c < read.width; ++c) {
        bool ok = false;
        read[c] = QString(parts[c]).replace(',', '.').toFloat(&ok);
        if (!ok || !std::isfinite(read[c])) return false;
    }
    if (width > 1 && read.width == 1)
        for (int c = read.width; c < width; ++c) read[c] = read[0];
    if (width > 1 && read.width == 1) read.width = width;
    if (width > 0 && read.width != width) return false;
    value = read;
    return true;
}

} // namespace hue
