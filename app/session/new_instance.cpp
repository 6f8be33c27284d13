#include "app/session/new_instance.h"

#include "app/session/session.h"
#include "core/edits/wearing.h"

#include <QMenu>

namespace hue {

void newInstance(Session& session, QWidget* by, const QPoint& at, const Id& wanted, const std::function<void(const Id&)>& made) {
    const Id parent = wanted.empty() ? session.target() : wanted;
    const auto make = [&session, parent, made](const std::vector<size_t>& specimens) {
        const Id id = session.deriveInstance(parent, specimens);
        if (!id.empty() && made) made(id);
    };
    const std::vector<size_t> wearing = specimensWearing(session.project(), parent);
    if (wearing.size() < 2) return make(wearing);
    if (const auto tuned = session.tunedSpecimen(parent)) return make({*tuned});
    auto* menu = new QMenu(by);
    menu->setObjectName("whoWears");
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->addSection(QObject::tr("Who wears the new instance"));
    for (const size_t k : wearing) {
        const Id& mesh = session.project().lineup.specimens[k].mesh;
        const MeshFile* file = session.project().mesh(mesh);
        menu->addAction(
            QObject::tr("Specimen %1 (%2)").arg(k + 1).arg(QString::fromStdString(file ? file->name : mesh.substr(mesh.find(':') + 1))),
            [make, k] { make({k}); });
    }
    menu->addAction(QObject::tr("All %1").arg(wearing.size()), [make, wearing] { make(wearing); });
    menu->addAction(QObject::tr("Nobody yet"), [make] { make({}); });
    menu->popup(at);
}

} // namespace hue
