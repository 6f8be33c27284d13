#pragma once
// Recipes with their four lanes, and the map that they make.
#include "app/stations/maps/lane_editor.h"
#include "app/stations/maps/lane_pictures.h"
#include "app/stations/maps/map_panes.h"

namespace hue {

class MapPackPane : public MapPane {
    Q_OBJECT

  public:
    MapPackPane(Session& session, MapService& service);
    void show(const Id& map) override;
    LaneEditor* lane(int index) const { return m_lanes[size_t(index)]; }
    QComboBox* recipeBox() const { return m_recipes; }

  private:
    void fillRecipes();
    void load(const Recipe& recipe, const std::map<std::string, Id>& sources, const Id& packing);
    Packing current() const;
    void edited();
    void changed();
    void showPictures(const std::shared_ptr<const Image>& packed, const QString& problem);
    void pack();
    void packAllSets();
    void useInMasters();
    void takeApart();
    void openRecipe();
    void saveRecipe();
    /// Maps for a recipe's roles: of the chosen map's set, else by role.
    std::map<std::string, Id> sourcesFor(const Recipe& recipe) const;

    Recipe m_recipe;
    std::map<std::string, Id> m_sources;
    Id m_packing;
    bool m_edited = false; ///< by hand, since it was loaded
    bool m_judged = false; ///< whether the recipe was chosen by what the map holds
    QComboBox *m_recipes, *m_samples;
    QSpinBox* m_size;
    QCheckBox *m_srgb, *m_raise;
    std::array<LaneEditor*, 4> m_lanes;
    LanePictures* m_pictures;
    QLabel* m_said;
    QString m_used;    ///< what using the packed map has brought
    Snapshot m_usedIn; ///< the state that this is said of
    QPushButton *m_pack, *m_use, *m_apart;
};

} // namespace hue
