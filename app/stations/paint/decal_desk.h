#pragma once
// Decals in hand: which one is chosen, and what is done to it.
#include "app/stations/paint/paint_desk.h"
#include "core/decals/decal_box.h"
#include "core/decals/decalled.h"

namespace hue {

class DecalDesk : public QObject {
    Q_OBJECT

  public:
    DecalDesk(Session& session, PaintDesk& desk, QObject* parent = nullptr);

    /// Whether the mouse moves decals instead of painting.
    bool inHand() const { return m_inHand; }
    void setInHand(bool inHand);

    /// Of the specimen, the lowest first.
    const std::vector<Decal>& all() const;
    /// Null where none is.
    const Decal* chosen() const;
    void choose(const Id& decal);
    /// Masters and instances of the kind decal.
    std::vector<Id> wearable() const;

    /// Each is one step of undo; changes with the same key in a row are one.
    void change(const QString& name, const std::function<void(Decal&)>& how, const QString& key = {});
    /// A new one, chosen at once; in the middle of what the eye sees where no place is said. `worn` empty: a decal master is made for it.
    void put(const Id& worn, const std::optional<MeshPoint>& at);
    /// One that shows a map, `aspect` times as wide as high: an instance of a decal master that takes a map of that kind, else of a new
    /// one.
    void putMap(const MapFile& map, float aspect, const std::optional<MeshPoint>& at);
    /// One that shows words: their picture becomes a map of the project.
    void putText(const QString& words, const std::optional<MeshPoint>& at);
    /// That the chosen one shows; empty where it shows something else.
    QString words() const;
    /// Other ones on the chosen one, with letters as large as they are.
    void setWords(const QString& words);
    void remove();
    /// A little to the right of it.
    void copy();
    void mirror(int axis);
    /// So many in all, a little more than its width apart.
    void line(int count);
    /// Higher or lower by so many places.
    void move(int by);
    void order(const Id& decal, size_t place);
    void wear(const Id& worn);

    /// What the chosen one costs, in words; empty until it is known.
    const QString& cost() const { return m_cost; }

  Q_SIGNALS:
    void changed(); ///< anything of the above

  private:
    void count();
    /// A decal for that place, a sixth of the mesh large; says why there is none.
    /// Draws words as a map of the project in the background; says why they cannot be drawn.
    void letter(const QString& words, const std::function<void(const MapFile&)>& then);
    std::optional<Decal> fresh(const std::optional<MeshPoint>& at);

    Session& m_session;
    PaintDesk& m_desk;
    bool m_inHand = false;
    Id m_chosen;
    QString m_cost;
};

} // namespace hue
