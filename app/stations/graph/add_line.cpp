#include "app/stations/graph/add_line.h"

#include "app/parts/theme.h"
#include "app/session/board_service.h"
#include "core/assemblies/library.h"
#include "core/edits/edits.h"
#include "core/nodes/assembly_card.h"
#include "core/nodes/finish.h"
#include "core/surface/channels.h"

#include <QKeyEvent>
#include <QLineEdit>
#include <QListView>
#include <QPainter>
#include <QSettings>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <fmt/format.h>

namespace hue {
namespace {

constexpr int kPicture = 30;

/// What a node makes of its defaults: a picture and a cost. Any thread.
Sample sampleOf(const Proposal& proposal, Project project) {
    const Node& node = proposal.node;
    if (proposal.assembly) project.assemblies.push_back(proposal.assembly);
    const NodeDef* def = nodeDefOf(project, node);
    if (!def || def->outputs.empty()) return {};
    project.masters.clear();
    Master master;
    master.id = "m";
    master.graph.nodes[node.id] = std::make_shared<Node>(node);
    const std::string port(def->outputs[0].key);
    const Compilation compiled = compileTap(project, master, {node.id, port, {}});
    project.masters.push_back(std::make_shared<Master>(master));
    Assets assets;
    const BoardFacts facts = boardFacts(std::make_shared<Project>(project), {"m", "m", {}}, "m", assets, 0.3, kPicture);
    Sample sample;
    for (const auto& [id, cost] : compiled.cards) sample.operations += cost.operations, sample.fetches += cost.fetches;
    if (auto it = facts.swatches.find(node.id + "." + port); it != facts.swatches.end()) sample.picture = it->second;
    return sample;
}

/// Constants look like their values; other nodes are the same each time.
std::string sampleKey(const Project& project, const Node& node) {
    std::string key = node.kind;
    // An assembly looks like its present state.
    if (isAssembly(node)) key += fmt::format(" {} {}", assemblyOf(node), fmt::ptr(project.assembly(assemblyOf(node))));
    if (const auto it = node.constants.find("value"); node.kind == "constant" && it != node.constants.end())
        for (int c = 0; c < it->second.width; ++c) key += fmt::format(" {}", it->second[c]);
    return key;
}

class ProposalDelegate : public QStyledItemDelegate {
  public:
    using QStyledItemDelegate::QStyledItemDelegate;
    QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override { return {300, 40}; }
    void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        const Theme& t = theme();
        const bool chosen = option.state & QStyle::State_Selected;
        p->fillRect(option.rect, chosen ? t.ink : t.card);
        const QRect r = option.rect.adjusted(6, 4, -8, -4);
        const auto picture = index.data(Qt::DecorationRole).value<QImage>();
        if (!picture.isNull()) p->drawImage(QRect(r.left(), r.top() + 1, kPicture, kPicture), picture);
        p->setPen(chosen ? t.card : t.ink);
        p->setFont(textFont(13, true));
        p->drawText(r.adjusted(kPicture + 8, 0, 0, -14), Qt::AlignLeft | Qt::AlignVCenter, index.data(Qt::DisplayRole).toString());
        p->setFont(codeFont(10));
        p->drawText(r.adjusted(0, 0, 0, -14), Qt::AlignRight | Qt::AlignVCenter, index.data(Qt::UserRole).toString());
        p->setFont(textFont(11));
        if (!chosen) p->setPen(t.ink2);
        p->drawText(r.adjusted(kPicture + 8, 16, 0, 0), Qt::AlignLeft | Qt::AlignVCenter,
                    p->fontMetrics().elidedText(index.data(Qt::UserRole + 1).toString(), Qt::ElideRight, r.width() - kPicture - 8));
    }
};

} // namespace

void ProposalModel::set(std::vector<Proposal> proposals) {
    beginResetModel();
    m_proposals = std::move(proposals);
    endResetModel();
}

const Sample* ProposalModel::sample(const Proposal& proposal) const {
    const std::string key = sampleKey(m_session.project(), proposal.node);
    if (const auto it = m_samples.find(key); it != m_samples.end()) return &it->second;
    // Asked for once; the row is drawn again when it is there.
    if (m_asked.insert(key).second)
        m_session.runner().run(
            {.owner = const_cast<ProposalModel*>(this), .kind = "sample " + QString::fromStdString(key)},
            [proposal, snapshot = m_session.snapshot()](const Work&) { return sampleOf(proposal, *snapshot); },
            [this, key](Sample made) {
                // Numbers that were typed once are many.
                if (m_samples.size() > 400) m_samples.clear(), m_asked.clear();
                m_samples[key] = std::move(made);
                if (rowCount()) Q_EMIT const_cast<ProposalModel*>(this)->dataChanged(index(0), index(rowCount() - 1));
            });
    return nullptr;
}

QVariant ProposalModel::data(const QModelIndex& index, int role) const {
    const Proposal& p = m_proposals[size_t(index.row())];
    const NodeDef* def = p.assembly ? &cardOf(*p.assembly).def : nodeDefOf(m_session.project(), p.node);
    const bool sampled = def && !def->outputs.empty() && p.kind != Proposal::Kind::Parameter && p.node.kind != "parameter";
    switch (role) {
    case Qt::DisplayRole: return QString::fromStdString(p.title);
    case Qt::ToolTipRole: return QString::fromStdString(p.detail);
    case Qt::AccessibleTextRole: return QString::fromStdString(p.title + ": " + p.detail);
    case Qt::UserRole + 1: return QString::fromStdString(p.detail);
    case Qt::DecorationRole: {
        const Sample* s = sampled ? sample(p) : nullptr;
        return s ? QVariant(s->picture) : QVariant();
    }
    case Qt::UserRole: {
        if (p.kind == Proposal::Kind::Channel || (def && def->outputs.empty())) return QString::fromStdString(p.family);
        if (!sampled) return tr("frame");
        const Sample* known = sample(p);
        if (!known) return {};
        const Sample& s = *known;
        return s.fetches ? tr("%1 fetch").arg(s.fetches) : s.operations ? tr("%1 op").arg(s.operations) : QString::fromStdString(p.family);
    }
    default: return {};
    }
}

AddLine::AddLine(Session& session, QWidget* parent) : QFrame(parent), m_session(session) {
    setObjectName("addLine");
    setAccessibleName(tr("Add line"));
    setAutoFillBackground(true);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(6, 6, 6, 6);
    column->setSpacing(4);
    m_line = new QLineEdit;
    m_line->setFont(codeFont(13));
    m_line->setPlaceholderText(tr("a node, a number, a color, name = value"));
    m_line->setAccessibleName(tr("What to add"));
    m_list = new QListView;
    m_model = new ProposalModel(session, this);
    m_list->setModel(m_model);
    m_list->setItemDelegate(new ProposalDelegate(m_list));
    m_list->setUniformItemSizes(true);
    m_list->setFocusPolicy(Qt::NoFocus);
    m_list->setFrameShape(QFrame::NoFrame);
    m_list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_list->setAccessibleName(tr("Suggestions"));
    column->addWidget(m_line);
    column->addWidget(m_list);
    QSettings settings;
    settings.beginGroup("uses");
    for (const QString& kind : settings.childKeys()) m_uses[kind.toStdString()] = settings.value(kind).toInt();
    m_line->installEventFilter(this);
    connect(m_line, &QLineEdit::textChanged, this, &AddLine::refresh);
    connect(m_list, &QListView::clicked, this, &AddLine::choose);
}

void AddLine::open(QPoint at, const QString& typed, std::function<bool(const NodeDef&)> fits) {
    setStyleSheet(
        QString("#addLine { border: 2px solid %1; border-radius: 3px; background: %2; }").arg(theme().ink.name(), theme().panel.name()));
    m_anchor = at;
    m_fits = std::move(fits);
    m_line->setText(typed);
    refresh();
    const QWidget* board = parentWidget();
    move(std::clamp(at.x(), 4, std::max(4, board->width() - width() - 4)),
         std::clamp(at.y(), 4, std::max(4, board->height() - height() - 4)));
    show();
    raise();
    m_line->setFocus();
}

void AddLine::refresh() {
    const Master* master = m_session.master();
    if (!master) return;
    const std::string typed = m_line->text().toStdString();
    std::vector<Proposal> proposals = propose(
        m_session.project(), *master, typed, m_fits,
        [this](std::string_view kind) {
            const auto it = m_uses.find(std::string(kind));
            return it == m_uses.end() ? 0 : it->second;
        },
        assemblyLibrary());
    // With a wire in hand, channels can be its end; a node of just that name comes first.
    if (m_fits) {
        std::vector<Proposal> ends;
        const bool finish = m_fits(*findNodeDef("separate_finish"));
        if (finish && QStringLiteral("finish").startsWith(m_line->text().trimmed(), Qt::CaseInsensitive)) {
            Proposal end;
            end.kind = Proposal::Kind::Channel;
            end.title = "Lead to the whole surface";
            end.detail = "It feeds every channel that has no wire of its own";
            end.family = "Surface";
            end.channel = kWholeSurface;
            ends.push_back(std::move(end));
        }
        for (const ChannelDef* channel : finish ? std::vector<const ChannelDef*>() : searchChannels(typed, master->surface)) {
            Proposal end;
            end.kind = Proposal::Kind::Channel;
            end.title = "Lead to " + std::string(channel->name);
            end.detail = channel->help;
            end.family = "Surface";
            end.channel = channel->key;
            ends.push_back(std::move(end));
        }
        const bool node =
            !proposals.empty() && QString::fromStdString(proposals[0].title).compare(m_line->text().trimmed(), Qt::CaseInsensitive) == 0;
        proposals.insert(proposals.begin() + (node ? 1 : 0), ends.begin(), ends.end());
    }
    m_model->set(std::move(proposals));
    m_list->setCurrentIndex(m_model->index(0, 0));
    // As tall as what it has to show.
    resize(320, 50 + 40 * std::clamp(m_model->rowCount(), 1, 5));
}

void AddLine::choose() {
    const QModelIndex index = m_list->currentIndex();
    if (!index.isValid())
        return m_session.say(tr("Nothing is called %1. Try another word, or browse with an empty line.").arg(m_line->text()));
    const Proposal proposal = m_model->at(index.row());
    hide();
    if (proposal.kind == Proposal::Kind::Node) {
        const int uses = ++m_uses[proposal.node.kind];
        QSettings().setValue("uses/" + QString::fromStdString(proposal.node.kind), uses);
    }
    Q_EMIT chosen(proposal);
}

bool AddLine::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (key == Qt::Key_Escape) {
            hide();
            parentWidget()->setFocus();
            return true;
        }
        // Taken here, since a line edit hands Enter on, and the board would edit the card that was just placed.
        if (key == Qt::Key_Return || key == Qt::Key_Enter) {
            choose();
            return true;
        }
        int step = key == Qt::Key_Down ? 1 : key == Qt::Key_Up ? -1 : key == Qt::Key_PageDown ? 5 : key == Qt::Key_PageUp ? -5 : 0;
        if (step) {
            const int row = std::clamp(m_list->currentIndex().row() + step, 0, m_model->rowCount() - 1);
            m_list->setCurrentIndex(m_model->index(row, 0));
            return true;
        }
    }
    if (event->type() == QEvent::FocusOut && !m_list->underMouse()) hide();
    return QFrame::eventFilter(watched, event);
}

} // namespace hue
