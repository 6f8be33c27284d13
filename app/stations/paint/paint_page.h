#pragma once
// The station Paint: what is painted on the vertices of a specimen's mesh, by hand and by rule, and the decals that lie on it.
#include "app/stations/station.h"

namespace hue {

class BrushPanel;
class ChannelPanel;
class DecalDesk;
class PaintCanvas;
class PaintDesk;

class PaintPage : public Station {
    Q_OBJECT

  public:
    explicit PaintPage(Workplace& place);

    void arrive() override;
    void addCommands() override;
    bool showPlace(const Place& place) override;
    int stripHeight() const override { return 124; }

    PaintDesk& desk() { return *m_desk; }
    DecalDesk& decals() { return *m_decals; }
    PaintCanvas& canvas() { return *m_canvas; }

  protected:
    void showEvent(QShowEvent*) override;
    void hideEvent(QHideEvent*) override;

  private:
    PaintDesk* m_desk;
    DecalDesk* m_decals;
    PaintCanvas* m_canvas;
    ChannelPanel* m_channels;
    BrushPanel* m_brush;
};

} // namespace hue
