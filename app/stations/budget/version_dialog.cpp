#include "app/stations/budget/version_dialog.h"

#include "app/parts/theme.h"
#include "core/budget/map_memory.h"
#include "core/compare/compare.h"
#include "preview/worn_pictures.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>

namespace hue {
namespace {

QString text(const std::string& s) { return QString::fromStdString(s); }
QString text(std::string_view s) { return QString::fromUtf8(s.data(), qsizetype(s.size())); }

struct Compared {
    Verdict before, now;
    QImage then, is;
    std::optional<Comparison> apart;
    std::string problem;
};

} // namespace

VersionDialog::VersionDialog(Session& session, BudgetService& budget, size_t version, QWidget* parent)
    : QDialog(parent), m_session(session), m_budget(budget), m_version(budget.versions()[version]) {
    setObjectName("versionDialog");
    setWindowTitle(tr("%1 and now").arg(m_version.name));
    resize(620, 620);
    auto* column = new QVBoxLayout(this);
    auto* pictures = new QHBoxLayout;
    for (QLabel** l : {&m_before, &m_now}) {
        *l = new QLabel;
        (*l)->setFixedSize(260, 260);
        (*l)->setAlignment(Qt::AlignCenter);
        pictures->addWidget(*l);
    }
    m_before->setAccessibleName(m_version.name);
    m_now->setAccessibleName(tr("Now"));
    column->addLayout(pictures);
    m_words = new QLabel(tr("being compared"));
    m_words->setObjectName("versionWords");
    m_words->setWordWrap(true);
    column->addWidget(m_words);
    m_figures = new QTreeWidget;
    m_figures->setObjectName("versionFigures");
    m_figures->setAccessibleName(tr("Costs then and now"));
    m_figures->setRootIsDecorated(false);
    m_figures->setHeaderLabels({tr("Cost"), m_version.name, tr("now"), tr("change")});
    column->addWidget(m_figures, 1);
    auto* buttons = new QHBoxLayout;
    auto* drop = new QPushButton(tr("Forget this version"));
    connect(drop, &QPushButton::clicked, this, [this, version] {
        m_budget.dropVersion(version);
        reject();
    });
    auto* back = new QPushButton(tr("Go back"));
    connect(back, &QPushButton::clicked, this, &QDialog::reject);
    buttons->addWidget(drop);
    buttons->addStretch();
    buttons->addWidget(back);
    column->addLayout(buttons);
    connect(&session, &Session::changed, this, [this](Changes) { compareNow(); });
    compareNow();
}

void VersionDialog::compareNow() {
    m_session.runner().run(
        {.owner = this, .kind = "compare", .newer = Newer::Waits},
        [version = m_version, now = m_session.snapshot(), files = m_session.files(), worn = m_session.target(),
         target = m_budget.target()](const Work&) {
            Compared out;
            const Result<Snapshot> read = version.read();
            if (!read) {
                out.problem = read.error().sentence;
                return out;
            }
            const Snapshot before = *read;
            out.before = verdictOf(*before, worn, target, mapBytesFor(*before, files->assets));
            out.now = verdictOf(*now, worn, target, mapBytesFor(*now, files->assets));
            if (!before->masterOf(worn)) out.problem = "What is tuned was not there then.";
            const auto pictures = WornPictures::start(*now, files->assets);
            if (!pictures) out.problem = pictures.error().sentence;
            if (!out.problem.empty()) return out;
            (*pictures)->samples = 4;
            const auto a = (*pictures)->draw(*before, worn), b = (*pictures)->draw(*now, worn);
            for (const auto* p : {&a, &b})
                if (!*p) out.problem = p->error().sentence;
            if (!out.problem.empty()) return out;
            out.apart = compare({a->width, a->height, a->rgba.data()}, {b->width, b->height, b->rgba.data()});
            const auto image = [](const RenderedPicture& p) {
                return QImage(p.rgba.data(), p.width, p.height, p.width * 4, QImage::Format_RGBA8888).convertToFormat(QImage::Format_RGB32);
            };
            out.then = image(*a), out.is = image(*b);
            return out;
        },
        [this](const Compared& c) {
            m_before->setPixmap(QPixmap::fromImage(c.then));
            m_now->setPixmap(QPixmap::fromImage(c.is));
            m_words->setText(!c.problem.empty() ? text(c.problem)
                                                : tr("Apart: %1 by CIEDE2000 (about 1 is just visible), %2 by FLIP of at most 1")
                                                      .arg(double(c.apart->mean), 0, 'f', 2)
                                                      .arg(double(c.apart->flip), 0, 'f', 3));
            m_figures->clear();
            for (size_t k = 0; k < c.now.limits.size() && k < c.before.limits.size(); ++k) {
                const double was = c.before.limits[k].figure, is = c.now.limits[k].figure;
                const auto figure = [](double x) { return QString::number(x, 'f', x == std::floor(x) ? 0 : 2); };
                const QString change = was == is ? tr("the same") : (is > was ? "+" : "\u2212") + figure(std::fabs(is - was));
                new QTreeWidgetItem(m_figures, {text(c.now.limits[k].def->name), figure(was), figure(is), change});
            }
            m_figures->resizeColumnToContents(0);
        });
}

} // namespace hue
