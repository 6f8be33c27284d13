#pragma once
// One of several that exclude each other.
#include <QToolButton>

namespace hue {

inline QToolButton* choiceButton(const QString& name, const char* object, const QString& tip) {
    auto* b = new QToolButton;
    b->setText(name);
    b->setObjectName(object);
    b->setAccessibleName(name);
    b->setToolTip(tip);
    b->setCheckable(true);
    b->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    return b;
}

} // namespace hue
