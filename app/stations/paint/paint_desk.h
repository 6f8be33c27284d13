#pragma once
// What the station Paint works on: the specimen, its paintwork, the channel and the brush in hand, and the stroke that is being painted.
#include "app/session/session.h"
#include "core/paint/brush.h"
#include "core/paint/paint_names.h"
#include "core/paint/seeing_paint.h"

namespace hue {

class PaintDesk : public QObject {
    Q_OBJECT

  public:
    explicit PaintDesk(Session& session, QObject* parent = nullptr);

    /// Whether somebody looks: meshes are made ready only then.
    void setActive(bool active);

    // What is painted on
    size_t specimen() const { return m_specimen; }
    void setSpecimen(size_t index);
    /// The specimen by itself: its mesh once, at the origin, and nothing around it; null where there is no specimen.
    std::optional<Specimen> alone() const;
    const Paintwork* paintwork() const;
    /// The mesh that is painted; null until its surface is ready.
    std::shared_ptr<const PaintSurface> surface() const { return m_surface; }
    /// What is painted on that mesh now, the stroke in progress included; nothing painted where there is no paintwork. Null without a
    /// surface.
    PaintDataPtr paint() const;
    /// Channels that what the specimen wears reads.
    const std::vector<ReadChannel>& read() const;
    QString channelName(int channel) const;
    /// Why nothing that is painted would show, in a sentence; empty where it does.
    QString hint() const;

    // How
    int channel() const { return m_channel; }
    void setChannel(int channel);
    PaintShown shown() const { return m_shown; }
    void setShown(PaintShown shown);
    const Brush& brush() const { return m_brush; }
    void setBrush(const Brush& brush);
    /// The size is a share of the height of the view, and follows the camera.
    bool sizedByView() const { return m_sizedByView; }
    void setSizedByView(bool by);
    float viewShare() const { return m_viewShare; }
    void setViewShare(float share);
    enum class Pressure { Nothing, Size, Weight };
    Pressure pressure() const { return m_pressure; }
    void setPressure(Pressure pressure);

    // Strokes: one step of undo each
    /// `radius`: metres, at that place. `opposite`: takes away instead of adding, and the other way around. False where nothing can be
    /// painted, which is then said.
    bool begin(const Ray& sight, float radius, float pressure, bool opposite);
    void moveTo(const Ray& sight, float pressure);
    void end();
    bool painting() const { return m_stroke != nullptr; }

    /// Fills the channel by a rule as it is typed, in the background, as one step of undo.
    void fill(const QString& rule);
    bool filling() const { return m_session.runner().running(this, "fill"); }
    void cancelFill();
    /// The channel's rules that stay below the hand's paint, the first below the others.
    std::vector<std::string> live() const;
    /// Other ones, or none; in the background, as one step of undo.
    void setLive(const std::vector<std::string>& rules);

    // The paintwork
    void begin();
    void wear(const Id& paintwork);
    /// Four triangles for each, with the paint carried over; in the background.
    void makeFiner();
    /// Puts a Painted channel card for the channel on the board of the first master that the specimen wears.
    void placeCard();

  Q_SIGNALS:
    void changed(); ///< anything of the above but brush and paint; only while somebody looks
    void brushChanged();
    void surfaceChanged(); ///< there is one, or another
    void painted();
    void fillProgress(bool running);

  private:
    void follow(Changes what);
    void prepare();
    /// One more state of the stroke, or of what was filled.
    bool keep(const QString& name, const PaintDataPtr& paint, const QString& key);
    void strokeTo(const Ray& sight, float pressure);

    Session& m_session;
    size_t m_specimen = 0;
    int m_channel = 0;
    PaintShown m_shown = PaintShown::Drawn;
    Brush m_brush;
    bool m_sizedByView = false;
    float m_viewShare = 0.1f;
    Pressure m_pressure = Pressure::Nothing;
    bool m_active = false;
    Id m_meshId;    ///< of the specimen, as it was made ready last
    MeshPtr m_mesh; ///< that the surface is of
    std::shared_ptr<const PaintSurface> m_surface;
    mutable PaintDataPtr m_paint, m_paintFrom;              ///< on the surface, and what it was made from
    mutable std::optional<std::vector<ReadChannel>> m_read; ///< until something of the graph or the lineup changes
    PaintDataPtr m_before;                                  ///< the stroke
    std::unique_ptr<PaintStroke> m_stroke;
    float m_strokeRadius = 0, m_strokeWeight = 0;
    Id m_newPaintwork; ///< that the stroke begins, where the specimen wears none
    int m_strokes = 0;
    bool m_sizeChosen = false; ///< by a person, and no more by the mesh
};

} // namespace hue
