#include "app/stations/station.h"

namespace hue {

Station::Station(Workplace& place, Changes hears) : m_place(place) {
    setObjectName("page");
    setAttribute(Qt::WA_StyledBackground);
    connect(&place.session, &Session::changed, this, [this, hears](Changes what) {
        if (what.any(hears)) projectChanged(what);
    });
}

} // namespace hue
