#include "app/parts/known_values.h"

#include "core/check/advice.h"

#include <QObject>

namespace hue {

static QString text(std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); }

KnownValues knownColors() {
    KnownValues out;
    for (const KnownMetal& k : knownMetals()) out.emplace_back(QObject::tr("%1 (metal)").arg(text(k.name)), k.baseColor);
    auto grey = [&](const QString& name, float v) { out.emplace_back(name, Value::vec3(v, v, v)); };
    grey(QObject::tr("Darkest dielectric, charcoal"), kDarkestDielectric);
    grey(QObject::tr("Middle grey"), 0.18f);
    grey(QObject::tr("Brightest dielectric, fresh snow"), kBrightestDielectric);
    return out;
}

KnownValues knownRefraction() {
    KnownValues out;
    for (const KnownIndex& k : knownIndices())
        out.emplace_back(QString("%1  %2").arg(text(k.name)).arg(double(k.index)), Value::number(k.index));
    return out;
}

} // namespace hue
