#pragma once
// What the station Maps shows of the chosen map, each in a pane of its own.
#include "app/parts/map_canvas.h"
#include "app/session/map_service.h"
#include "core/compare/format_report.h"

class QButtonGroup;
class QCheckBox;
class QComboBox;
class QDoubleSpinBox;
class QFormLayout;
class QHBoxLayout;
class QLabel;
class QLineEdit;
class QPushButton;
class QSlider;
class QSpinBox;
class QStandardItemModel;
class QTableView;
class QVBoxLayout;

namespace hue {

class MapPane : public QWidget {
    Q_OBJECT

  public:
    MapPane(Session& session, MapService& service) : m_session(session), m_service(service) {}
    /// Shows a map; empty for none. Called again when its pixels or facts have arrived.
    virtual void show(const Id& map) = 0;

  protected:
    const MapFile* map() const { return m_session.project().map(m_map); }
    Session& m_session;
    MapService& m_service;
    Id m_map;
};

/// The column of controls beside a pane's picture; `form` receives its rows.
QWidget* controlColumn(int width, QFormLayout*& form);

/// A histogram with range and levels in words.
class HistogramStrip : public QWidget {
    Q_OBJECT

  public:
    explicit HistogramStrip(QWidget* parent = nullptr);
    void show(const ChannelFacts& facts, SampleType type);
    void clear();
    QString words() const { return m_words; }
    QSize sizeHint() const override { return {160, 74}; }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    ChannelFacts m_facts;
    QString m_words;
    bool m_has = false;
};

/// Red, green, blue and alpha side by side.
class MapLookPane : public MapPane {
    Q_OBJECT

  public:
    MapLookPane(Session& session, MapService& service);
    void show(const Id& map) override;
    MapCanvas* canvas(int channel) const { return m_canvas[size_t(channel)]; }
    HistogramStrip* histogram(int channel) const { return m_strip[size_t(channel)]; }

  private:
    ImagePtr m_image;
    std::array<MapCanvas*, 4> m_canvas;
    std::array<HistogramStrip*, 4> m_strip;
};

/// Repeated, with its seams and what makes it seamless.
class MapTilePane : public MapPane {
    Q_OBJECT

  public:
    MapTilePane(Session& session, MapService& service);
    void show(const Id& map) override;
    MapCanvas* canvas() const { return m_canvas; }
    QString numbers() const;

  private:
    void refresh();
    void measure();
    void attempt();
    void keep();
    std::vector<Id> together() const;
    ImagePtr m_image;
    std::vector<Image> m_made; ///< of the set, in the order of together()
    ImagePtr m_madeShown;      ///< the first of them, for the screen
    MapCanvas* m_canvas;
    QComboBox *m_how, *m_method;
    QSlider* m_band;
    QCheckBox *m_set, *m_after;
    QLabel* m_numbers;
    QPushButton *m_try, *m_keep;
};

/// Normals, heights and gloss: one map made of another, seen before it is kept.
class MapConvertPane : public MapPane {
    Q_OBJECT

  public:
    MapConvertPane(Session& session, MapService& service);
    void show(const Id& map) override;

  private:
    void refresh();
    void keep();
    /// The conversion that is set, of a map that was read.
    std::function<Result<Image>(const Image&)> conversion() const;
    /// Of the map's set: base color (diffuse), specular, gloss; empty where there is none.
    std::array<std::filesystem::path, 3> glossFiles() const;
    ImagePtr m_image;
    QImage m_result;
    MapCanvas *m_before, *m_after;
    QComboBox *m_what, *m_other;
    QDoubleSpinBox *m_strength, *m_width, *m_depth;
    QLabel *m_strengthName, *m_widthName, *m_depthName, *m_otherName, *m_said;
    QPushButton* m_keep;
};

/// Block formats: what each costs and does.
class MapCompressPane : public MapPane {
    Q_OBJECT

  public:
    MapCompressPane(Session& session, MapService& service);
    void show(const Id& map) override;
    QTableView* table() const { return m_table; }
    /// Shows the original instead of the compressed map, and back.
    void toggleOriginal();

  private:
    void attemptAll();
    void propose();
    void use();
    void write();
    void refresh();
    BlockFormat chosen() const;
    ImagePtr m_image;
    std::map<BlockFormat, FormatReport> m_reports;
    ImagePtr m_part; ///< of the map, that the reports are of
    MapCanvas* m_canvas;
    QStandardItemModel* m_model;
    QTableView* m_table;
    QComboBox *m_show, *m_family;
    QDoubleSpinBox *m_least, *m_most;
    QLabel* m_said;
};

} // namespace hue
