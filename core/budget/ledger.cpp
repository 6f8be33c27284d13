#include "core/budget/ledger.h"

#include "core/compile/compile.h"
#include "core/document/bays.h"
#include "core/nodes/catalogue.h"

#include <algorithm>

namespace hue {
namespace {

/// Builds the rows of one stage from shares of cards.
class StageRows {
  public:
    StageRows(const Project& project, const Master& master) : m_project(project), m_master(master) {}

    void add(const Origin& origin, double operations, double fetches) {
        if (operations == 0 && fetches == 0) return;
        Sum& card = m_cards[origin.card];
        card.operations += operations, card.fetches += fetches;
        if (!origin.board.empty()) {
            Sum& inner = card.within[{origin.board, origin.home}];
            inner.operations += operations, inner.fetches += fetches;
        }
    }

    LedgerRow row(std::string title) const {
        LedgerRow out{LedgerRow::Is::Stage, std::move(title), {}, {}, 0, 0, {}};
        std::vector<Id> outermost;
        for (const Bay& b : m_master.graph.bays)
            if (b.inside.empty())
                if (LedgerRow bay = bayRow(b); !bay.rows.empty()) out.rows.push_back(std::move(bay));
        for (const auto& [id, sum] : m_cards)
            if (!bayOf(id)) out.rows.push_back(cardRow(id, sum));
        total(out);
        return out;
    }

  private:
    struct Sum {
        double operations = 0, fetches = 0;
        std::map<std::pair<Id, Id>, Sum> within; ///< by board and card on it
    };

    const Bay* bayOf(const Id& card) const {
        for (const Bay& b : m_master.graph.bays)
            if (std::find(b.nodes.begin(), b.nodes.end(), card) != b.nodes.end()) return &b;
        return nullptr;
    }

    LedgerRow bayRow(const Bay& bay) const {
        LedgerRow out{LedgerRow::Is::Bay, bay.name, bay.id, {}, 0, 0, {}};
        for (const Bay& inner : m_master.graph.bays)
            if (inner.inside == bay.id)
                if (LedgerRow row = bayRow(inner); !row.rows.empty()) out.rows.push_back(std::move(row));
        for (const Id& card : bay.nodes)
            if (const auto it = m_cards.find(card); it != m_cards.end()) out.rows.push_back(cardRow(card, it->second));
        total(out);
        return out;
    }

    LedgerRow cardRow(const Id& id, const Sum& sum) const {
        if (id.empty()) return {LedgerRow::Is::Rest, "Branches and what no card stands for", {}, {}, sum.operations, sum.fetches, {}};
        LedgerRow out{LedgerRow::Is::Card, cardTitle(m_project, m_master, id), id, {}, sum.operations, sum.fetches, {}};
        double operations = sum.operations, fetches = sum.fetches;
        for (const auto& [at, inner] : sum.within) {
            const Master* board = m_project.board(at.first);
            out.rows.push_back({LedgerRow::Is::Within,
                                board ? cardTitle(m_project, *board, at.second) : at.second,
                                at.second,
                                at.first,
                                inner.operations,
                                inner.fetches,
                                {}});
            operations -= inner.operations, fetches -= inner.fetches;
        }
        if (!out.rows.empty() && (operations > 1e-9 || fetches > 1e-9))
            out.rows.push_back({LedgerRow::Is::Rest, "The card itself", id, {}, operations, fetches, {}});
        sort(out);
        return out;
    }

    static void sort(LedgerRow& row) {
        std::stable_sort(row.rows.begin(), row.rows.end(), [](const LedgerRow& a, const LedgerRow& b) {
            return a.operations != b.operations ? a.operations > b.operations : a.fetches > b.fetches;
        });
    }
    static void total(LedgerRow& row) {
        for (const LedgerRow& r : row.rows) row.operations += r.operations, row.fetches += r.fetches;
        sort(row);
    }

    const Project& m_project;
    const Master& m_master;
    std::map<Id, Sum> m_cards;
};

} // namespace

Ledger ledgerOf(const Project& project, const Id& worn) {
    Ledger out;
    out.worn = worn;
    const Resolved resolved = resolve(project, worn);
    if (!resolved.master) return out;
    const Master& master = *resolved.master;
    out.master = master.id;
    const Compilation compiled = compileSurface(project, master);
    const Shares shares = sharesOf(*compiled.program, compiled.offset.get());
    out.channels = shares.channels;
    out.kinds = operationKinds(*compiled.program);
    out.liveNumbers = liveComponents(*stagesOf(compiled).pixels);
    out.cost = costOf(*compiled.program, compiled.offset.get(), {});
    StageRows pixel(project, master), vertex(project, master), frame(project, master);
    for (const SharePart& p : shares.parts) {
        pixel.add(p.origin, p.share.pixel(), p.share.fetches);
        vertex.add(p.origin, p.share.vertex(), p.share.vertexFetches);
        frame.add(p.origin, p.share.operations[size_t(Rate::Frame)] + p.share.operations[size_t(Rate::Placement)], 0);
    }
    for (auto& [rows, title] :
         {std::pair<const StageRows&, const char*>{pixel, "Per pixel"}, {vertex, "Per vertex"}, {frame, "Once a frame"}})
        if (LedgerRow row = rows.row(title); !row.rows.empty()) out.stages.push_back(std::move(row));
    return out;
}

std::vector<MapRow> mapRows(Verdicts& verdicts, const std::vector<Id>& of) {
    std::map<Id, std::vector<Id>> readers;
    for (const Id& worn : of.empty() ? shippedOf(verdicts.project()) : of)
        for (const Id& map : verdicts.of(worn, {}).maps) readers[map].push_back(worn);
    std::vector<MapRow> out;
    for (auto& [map, worn] : readers) out.push_back({map, bytesOfMap(verdicts.bytes(), map), std::move(worn)});
    std::stable_sort(out.begin(), out.end(), [](const MapRow& a, const MapRow& b) { return a.bytes > b.bytes; });
    return out;
}

Matrix matrixOf(Verdicts& verdicts, std::span<const Target> targets) {
    const Project& project = verdicts.project();
    Matrix out;
    out.targets.assign(targets.begin(), targets.end());
    std::map<const Master*, std::vector<Id>> users;
    for (const Id& worn : shippedOf(project)) users[project.masterOf(worn)].push_back(worn);
    for (const MasterPtr& m : project.masters) {
        out.masters.push_back(m->id);
        std::vector<MatrixCell> row(targets.size());
        for (const Id& worn : users[m.get()]) {
            Verdict v = verdicts.of(worn, {});
            for (size_t t = 0; t < targets.size(); ++t) {
                v = against(project, std::move(v), targets[t]);
                const Against* most = v.worst();
                if (!v.fits()) row[t].over = true;
                if (most && (!row[t].worst.def || most->share() > row[t].worst.share())) row[t].worst = *most, row[t].worn = worn;
            }
        }
        out.cells.push_back(std::move(row));
    }
    return out;
}

} // namespace hue
