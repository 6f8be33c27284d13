#include "app/stations/maps/map_pack_pane.h"

#include "app/parts/map_canvas.h"
#include "app/parts/theme.h"
#include "core/base/files.h"
#include "core/edits/edits.h"
#include "core/pack/recipe_sources.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QPointer>
#include <QPushButton>
#include <QSpinBox>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }

} // namespace

MapPackPane::MapPackPane(Session& session, MapService& service) : MapPane(session, service) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(2);
    auto* head = new QWidget;
    head->setObjectName("panel");
    head->setAttribute(Qt::WA_StyledBackground);
    auto* row = new QHBoxLayout(head);
    row->setContentsMargins(10, 6, 10, 6);
    row->addWidget(new QLabel(tr("Recipe")));
    m_recipes = new QComboBox;
    m_recipes->setObjectName("recipes");
    m_recipes->setAccessibleName(tr("Recipe"));
    m_recipes->setMinimumContentsLength(14);
    m_recipes->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    row->addWidget(m_recipes, 1);
    m_size = new QSpinBox;
    m_size->setRange(0, kLargestSide);
    m_size->setButtonSymbols(QAbstractSpinBox::NoButtons);
    m_size->setSpecialValueText(tr("sources' size"));
    m_size->setSuffix(tr(" px"));
    m_size->setAccessibleName(tr("Size"));
    m_size->setToolTip(tr("Pixels of the longer side"));
    row->addWidget(m_size);
    m_samples = new QComboBox;
    for (SampleType t : {SampleType::U8, SampleType::U16, SampleType::F16, SampleType::F32})
        m_samples->addItem(QString::fromUtf8(nameOf(t).data(), qsizetype(nameOf(t).size())), int(t));
    m_samples->setAccessibleName(tr("Samples"));
    row->addWidget(m_samples);
    m_srgb = new QCheckBox(tr("colors sRGB"));
    m_srgb->setToolTip(tr("Red, green and blue are stored sRGB-encoded; alpha never is"));
    row->addWidget(m_srgb);
    m_raise = new QCheckBox(tr("raise roughness"));
    m_raise->setToolTip(tr("In smaller levels, by what the normals of the set lose"));
    row->addWidget(m_raise);
    auto* open = new QPushButton(tr("Open"));
    open->setToolTip(tr("Read a recipe from a file"));
    auto* save = new QPushButton(tr("Save"));
    save->setToolTip(tr("Write this recipe to a file, to give on"));
    row->addWidget(open);
    row->addWidget(save);
    column->addWidget(head);
    auto* lanes = new QHBoxLayout;
    lanes->setSpacing(2);
    for (int l = 0; l < 4; ++l) {
        auto* editor = new LaneEditor(l, session);
        m_lanes[size_t(l)] = editor;
        lanes->addWidget(editor, 1);
        connect(editor, &LaneEditor::changed, this, &MapPackPane::edited);
        connect(editor, &LaneEditor::sourceChosen, this, [this](const QString& role, const QString& map) {
            // All lanes that read the role read the new map.
            m_sources[role.toStdString()] = map.toStdString();
            edited();
            for (size_t k = 0; k < 4; ++k) {
                const Lane lane = m_lanes[k]->lane();
                m_lanes[k]->set(lane, m_sources.contains(lane.source) ? m_sources.at(lane.source) : Id{});
            }
        });
    }
    column->addLayout(lanes, 1);
    m_pictures = new LanePictures(session, this);
    connect(m_pictures, &LanePictures::ready, this, &MapPackPane::showPictures);
    // The four lanes look at the same place.
    const auto place = std::make_shared<CanvasPlace>();
    for (LaneEditor* lane : m_lanes) {
        lane->picture()->follow(place);
        connect(lane->picture(), &MapCanvas::moved, this, [this] {
            for (LaneEditor* other : m_lanes) other->picture()->update();
        });
    }
    auto* foot = new QWidget;
    foot->setObjectName("panel");
    foot->setAttribute(Qt::WA_StyledBackground);
    auto* footRow = new QHBoxLayout(foot);
    footRow->setContentsMargins(10, 6, 10, 6);
    m_said = new QLabel;
    m_said->setObjectName("packSaid");
    m_said->setWordWrap(true);
    footRow->addWidget(m_said, 1);
    m_pack = new QPushButton(tr("Pack"));
    m_pack->setObjectName("packButton");
    auto* sets = new QPushButton(tr("Pack every set"));
    sets->setToolTip(tr("Each map set of the project that has what the recipe needs"));
    m_use = new QPushButton(tr("Use in masters"));
    m_use->setObjectName("packUse");
    m_use->setToolTip(tr("Cards that read the separate maps read the packed one instead, in one step"));
    m_apart = new QPushButton(tr("Take apart"));
    m_apart->setToolTip(tr("The chosen map's channels as maps of their own, by this recipe"));
    for (QPushButton* b : {m_pack, sets, m_use, m_apart}) footRow->addWidget(b);
    column->addWidget(foot);
    connect(m_recipes, &QComboBox::activated, this, [this](int i) {
        const QString key = m_recipes->itemData(i).toString();
        if (const Packing* p = m_session.project().packing(key.toStdString())) return load(p->recipe, p->sources, p->id);
        for (const Recipe& r : builtInRecipes())
            if (text(r.name) == key) load(r, sourcesFor(r), {});
    });
    connect(m_size, &QSpinBox::valueChanged, this, &MapPackPane::edited);
    connect(m_samples, &QComboBox::activated, this, &MapPackPane::edited);
    connect(m_srgb, &QCheckBox::toggled, this, &MapPackPane::edited);
    connect(m_raise, &QCheckBox::toggled, this, &MapPackPane::edited);
    connect(m_pack, &QPushButton::clicked, this, &MapPackPane::pack);
    connect(sets, &QPushButton::clicked, this, &MapPackPane::packAllSets);
    connect(m_use, &QPushButton::clicked, this, &MapPackPane::useInMasters);
    connect(m_apart, &QPushButton::clicked, this, &MapPackPane::takeApart);
    connect(open, &QPushButton::clicked, this, &MapPackPane::openRecipe);
    connect(save, &QPushButton::clicked, this, &MapPackPane::saveRecipe);
    m_recipe = builtInRecipes()[0];
    load(m_recipe, {}, {});
}

void MapPackPane::fillRecipes() {
    const QSignalBlocker block(m_recipes);
    m_recipes->clear();
    for (const auto& k : m_session.project().packings) {
        const MapFile* m = m_session.project().map(k->map);
        m_recipes->addItem(tr("%1 (%2)").arg(m ? text(m->name) : tr("not made yet"), text(k->recipe.name)), text(k->id));
    }
    for (const Recipe& r : builtInRecipes()) m_recipes->addItem(text(r.name), text(r.name));
    int at = m_packing.empty() ? m_recipes->findData(text(m_recipe.name)) : m_recipes->findData(text(m_packing));
    if (at < 0) {
        m_recipes->addItem(text(m_recipe.name), QString());
        at = m_recipes->count() - 1;
    }
    m_recipes->setCurrentIndex(at);
}

std::map<std::string, Id> MapPackPane::sourcesFor(const Recipe& recipe) const {
    return recipeSources(m_session.project(), recipe, m_map, [this](const MapFile& m) {
        const auto k = m_service.knowledge(m);
        return k ? k->guess.role : std::string();
    });
}

void MapPackPane::load(const Recipe& recipe, const std::map<std::string, Id>& sources, const Id& packing) {
    m_recipe = recipe;
    m_sources = sources;
    m_packing = packing;
    m_edited = false;
    const QSignalBlocker a(m_size), b(m_srgb), c(m_raise);
    m_size->setValue(recipe.size);
    m_samples->setCurrentIndex(m_samples->findData(int(recipe.type)));
    m_srgb->setChecked(recipe.srgb);
    m_raise->setChecked(recipe.raiseRoughness);
    for (size_t l = 0; l < 4; ++l) {
        const auto it = m_sources.find(recipe.lanes[l].source);
        m_lanes[l]->set(recipe.lanes[l], it == m_sources.end() ? Id{} : it->second);
    }
    fillRecipes();
    changed();
}

void MapPackPane::show(const Id& id) {
    const bool other = id != m_map;
    m_map = id;
    const MapFile* m = map();
    // What someone is at work on stays, whatever map is looked at meanwhile.
    if (other && m && !m_edited) {
        // A packed map shows how it was made.
        for (const auto& k : m_session.project().packings)
            if (k->map == id) return load(k->recipe, k->sources, k->id);
        m_judged = false;
        m_packing.clear();
    }
    const auto known = m ? m_service.knowledge(*m) : nullptr;
    if (m && !m_edited && !m_judged && m_packing.empty() && (known || !m->role.empty())) {
        // The recipe that the chosen map can be part of, once it is known what it holds.
        m_judged = true;
        const std::string role = !m->role.empty() ? m->role : known->guess.role;
        const std::vector<std::string> needs = m_recipe.sources();
        if (std::find(needs.begin(), needs.end(), role) == needs.end())
            for (const Recipe& r : builtInRecipes()) {
                const std::vector<std::string> its = r.sources();
                if (std::find(its.begin(), its.end(), role) == its.end()) continue;
                m_recipe = r;
                break;
            }
        return load(m_recipe, sourcesFor(m_recipe), {});
    }
    fillRecipes();
    for (size_t l = 0; l < 4; ++l) m_lanes[l]->set(m_lanes[l]->lane(), m_lanes[l]->source());
    changed();
}

Packing MapPackPane::current() const {
    Packing p;
    if (const Packing* there = m_session.project().packing(m_packing)) p = *there;
    else p.id = newId('k');
    p.recipe = m_recipe;
    p.recipe.size = m_size->value();
    p.recipe.type = SampleType(m_samples->currentData().toInt());
    p.recipe.srgb = m_srgb->isChecked();
    p.recipe.raiseRoughness = m_raise->isChecked();
    for (size_t l = 0; l < 4; ++l) p.recipe.lanes[l] = m_lanes[l]->lane();
    p.sources.clear();
    for (const std::string& role : p.recipe.sources())
        if (const auto it = m_sources.find(role); it != m_sources.end() && !it->second.empty()) p.sources[role] = it->second;
    return p;
}

void MapPackPane::edited() {
    m_edited = true;
    changed();
}

/// What stands in the way, or what packing gives.
void MapPackPane::changed() {
    const Packing p = current();
    m_pictures->ask(p);
    m_apart->setEnabled(map() != nullptr);
    const Packing* there = m_session.project().packing(m_packing);
    m_use->setEnabled(there && m_session.project().map(there->map));
    QStringList missing;
    for (const std::string& role : p.recipe.sources())
        if (!p.sources.contains(role)) missing << text(role);
    const std::string problem = problemOf(p.recipe);
    m_pack->setEnabled(problem.empty() && missing.isEmpty());
    m_pack->setText(there ? tr("Pack again") : tr("Pack"));
    if (!problem.empty()) return m_said->setText(text(problem));
    if (!missing.isEmpty()) return m_said->setText(tr("Choose a map for %1, or give its lane a constant.").arg(missing.join(tr(", "))));
    // What using it has brought stays to be read until something changes.
    if (m_usedIn && m_usedIn == m_session.snapshot()) return m_said->setText(m_used);
    // In bytes of the format that usually follows: one block map instead of several.
    size_t before = 0;
    int width = 0, height = 0;
    for (const auto& [role, id] : p.sources)
        if (const MapFile* m = m_session.project().map(id))
            if (const auto k = m_service.knowledge(*m); k && k->problem.empty()) {
                before += cardBytes(m->format, k->facts.width, k->facts.height, k->facts.channels, k->facts.type);
                if (k->facts.width * k->facts.height > width * height) width = k->facts.width, height = k->facts.height;
            }
    if (p.recipe.size && width) height = height * p.recipe.size / std::max(width, height), width = p.recipe.size;
    if (width)
        m_said->setText(tr("%1 fetches become 1. Plain: %2 MB become %3 MB; as BC7 it takes %4 MB.")
                            .arg(p.sources.size())
                            .arg(double(before) / 1e6, 0, 'f', 2)
                            .arg(double(cardBytes({}, width, height, p.recipe.channels(), p.recipe.type)) / 1e6, 0, 'f', 2)
                            .arg(double(cardBytes(BlockFormat::Bc7, width, height, 4)) / 1e6, 0, 'f', 2));
    else m_said->setText({});
}

void MapPackPane::showPictures(const std::shared_ptr<const Image>& packed, const QString& problem) {
    for (int l = 0; l < 4; ++l) {
        LaneEditor* lane = m_lanes[size_t(l)];
        const bool there = packed && l < packed->channels && lane->lane().from != Lane::From::Nothing;
        lane->picture()->setImage(there ? imageOfScreen(channelPicture(*packed, l)) : QImage());
        lane->picture()->setEmptyText(!problem.isEmpty() ? problem : tr("nothing"));
        lane->picture()->setReadout([packed, l, there](QPointF at) {
            if (!there) return QString();
            const int x = std::clamp(int(at.x() * packed->width), 0, packed->width - 1);
            const int y = std::clamp(int(at.y() * packed->height), 0, packed->height - 1);
            return QString::number(double(packed->at(x, y, l)), 'f', 3);
        });
    }
}

void MapPackPane::pack() {
    const Packing p = current();
    m_packing = p.id;
    m_edited = false;
    m_service.pack(p);
}

void MapPackPane::packAllSets() {
    const Packing pattern = current();
    std::vector<Packing> all = packingsForSets(m_session.project(), pattern.recipe);
    if (all.empty())
        return m_session.say(tr("No map set has all that %1 needs, or all are packed. Make sets first.").arg(text(pattern.recipe.name)));
    const Snapshot snapshot = m_session.snapshot();
    m_service.start(tr("Packing %1 sets").arg(all.size()),
                    [all, snapshot, files = m_session.files(), &session = m_session](const Work& control,
                                                                                     const Runner::Tell&) mutable -> std::function<void()> {
                        Project now = *snapshot;
                        std::vector<std::pair<MapFile, Packing>> done;
                        std::string problem;
                        for (size_t i = 0; i < all.size() && problem.empty(); ++i) {
                            Work one;
                            one.cancelled = control.cancelled;
                            auto made = packMap(now, files->assets, all[i], one);
                            if (!made) {
                                problem = made.error().sentence;
                                break;
                            }
                            // The next map must not take the same name.
                            now = *edit::addMap(now, made->file);
                            done.emplace_back(*now.maps.back(), all[i]);
                            if (control.progress) control.progress(float(i + 1) / float(all.size()));
                        }
                        return [done, problem, &session] {
                            if (!done.empty())
                                session.apply(QObject::tr("pack every set"), [&](const Project& p) -> Result<Project> {
                                    Result<Project> next = p;
                                    for (const auto& [file, packing] : done) {
                                        if (next) next = edit::addMap(*next, file);
                                        if (next) next = edit::addPacking(*next, packing);
                                    }
                                    return next;
                                });
                            session.say(problem.empty() ? QObject::tr("%1 sets were packed.").arg(done.size()) : text(problem));
                        };
                    });
}

void MapPackPane::useInMasters() {
    // What all masters cost, before and after.
    auto cost = [this](const Project& p) {
        Cost sum;
        for (const auto& m : p.masters) {
            const Cost c = m_service.cost(p, m->id);
            sum.fetches += c.fetches;
            sum.mapBytes += c.mapBytes;
        }
        return sum;
    };
    const Cost before = cost(m_session.project());
    if (!m_session.apply(tr("use packed map"), [&](const Project& p) { return edit::usePacked(p, m_packing); })) return;
    const Cost after = cost(m_session.project());
    const QString words = tr("Fetches of all masters: %1 before, %2 now. Map memory, master by master: %3 MB before, %4 MB now.")
                              .arg(before.fetches)
                              .arg(after.fetches)
                              .arg(double(before.mapBytes) / 1e6, 0, 'f', 2)
                              .arg(double(after.mapBytes) / 1e6, 0, 'f', 2);
    m_said->setText(words);
    m_used = words;
    m_usedIn = m_session.snapshot();
    m_session.say(words);
}

void MapPackPane::takeApart() {
    const MapFile* m = map();
    if (!m) return;
    const Packing p = current();
    const std::filesystem::path file = m_service.path(*m), folder = m_session.assets().folder() / "maps";
    m_service.start(
        tr("Taking %1 apart").arg(text(m->name)),
        [file, folder, recipe = p.recipe, set = m->name, &session = m_session](const Work&, const Runner::Tell&) -> std::function<void()> {
            const auto written = unpack(file, &recipe, folder);
            std::vector<std::string> hashes;
            if (written)
                for (const auto& path : *written) hashes.push_back(contentHash(path));
            return [written, hashes, set, &session] {
                if (!written) return session.say(text(written.error().sentence));
                session.apply(QObject::tr("take apart"), [&](const Project& project) -> Result<Project> {
                    Result<Project> next = project;
                    for (size_t i = 0; i < written->size(); ++i) {
                        const auto& path = (*written)[i];
                        const Guess g = guessOfName(path.filename().string());
                        MapFile map;
                        map.name = path.stem().string();
                        std::replace(map.name.begin(), map.name.end(), '_', ' ');
                        map.path = session.assets().stored(path);
                        map.kind = g.role.empty() ? MapKind::Data : g.kind;
                        map.role = g.role;
                        map.set = set + " apart";
                        map.hash = hashes[i];
                        if (next) next = edit::addMap(*next, map);
                    }
                    return next;
                });
            };
        });
}

void MapPackPane::openRecipe() {
    const QString file = QFileDialog::getOpenFileName(this, tr("Open a recipe"), {}, tr("Recipes (*.huerecipe)"));
    if (file.isEmpty()) return;
    const auto recipe = readRecipe(file.toStdString());
    if (!recipe) return m_session.say(text(recipe.error().sentence));
    load(*recipe, sourcesFor(*recipe), {});
}

void MapPackPane::saveRecipe() {
    Recipe r = current().recipe;
    QString file = QFileDialog::getSaveFileName(this, tr("Save the recipe"), text(r.name) + ".huerecipe", tr("Recipes (*.huerecipe)"));
    if (file.isEmpty()) return;
    if (!file.endsWith(".huerecipe")) file += ".huerecipe";
    r.name = QFileInfo(file).completeBaseName().toStdString();
    const Outcome written = writeRecipe(r, file.toStdString());
    m_session.say(written ? tr("%1 was written.").arg(file) : text(written.error().sentence));
}

} // namespace hue
