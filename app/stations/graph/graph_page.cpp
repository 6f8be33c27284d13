#include "app/stations/graph/graph_page.h"

#include "app/parts/fields.h"
#include "app/session/finish_menu.h"
#include "app/stations/graph/assembly_panel.h"
#include "app/stations/graph/board.h"
#include "app/stations/graph/board_accessible.h"
#include "app/stations/graph/compare_panel.h"
#include "app/stations/graph/make_map_dialog.h"
#include "app/stations/graph/overview.h"
#include "app/stations/graph/parameter_dialog.h"
#include "app/stations/graph/parameter_row.h"
#include "app/stations/graph/parameter_sheet.h"
#include "app/stations/graph/source_panel.h"
#include "app/stations/graph/surface_rail.h"
#include "app/stations/graph/tap_panel.h"
#include "app/stations/graph/text_panel.h"
#include "app/stations/graph/trail.h"
#include "core/assemblies/breaks.h"
#include "core/edits/edits.h"
#include "core/nodes/assembly_card.h"
#include "core/project/assembly_file.h"
#include "core/surface/channels.h"

#include <QAbstractButton>
#include <QApplication>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QMessageBox>
#include <QPlainTextEdit>
#include <QPointer>
#include <QVBoxLayout>

namespace hue {

GraphPage::GraphPage(Workplace& workplace) : Station(workplace, {}) {
    installBoardAccessibility();
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(1);
    m_sheet = new ParameterSheet(workplace.session, workplace.commands);
    m_board = new Board(workplace.session, workplace.board, workplace.commands);
    m_rail = new SurfaceRail(workplace.session, workplace.board);
    m_tap = new TapPanel(workplace.session, workplace.commands);
    m_tap->hide();
    m_source = new SourcePanel(workplace.session, workplace.commands);
    m_source->hide();
    m_text = new TextPanel(workplace.session, workplace.commands);
    m_text->hide();
    m_compare = new ComparePanel(workplace.session, workplace.commands);
    m_compare->hide();
    m_board->setChannelTargets(m_rail);
    row->addWidget(m_sheet);
    connect(&workplace.board, &BoardService::factsChanged, m_sheet,
            [this, &service = workplace.board] { m_sheet->setIdle(service.facts()->idle); });
    const auto heat = [this, &budget = workplace.budget] {
        std::map<Id, double> saved;
        if (budget.facts()->ledger.master == session().masterId())
            for (const auto& [card, rest] : budget.rests()) saved[card] = rest.cycles;
        m_board->setMeasuredHeat(std::move(saved));
    };
    connect(&workplace.budget, &BudgetService::factsChanged, m_board, heat);
    connect(&workplace.session, &Session::masterShown, m_board, heat);
    auto* middle = new QVBoxLayout;
    middle->setSpacing(0);
    middle->addWidget(new Trail(workplace.session));
    middle->addWidget(m_board, 1);
    row->addLayout(middle, 1);
    row->addWidget(m_tap);
    row->addWidget(m_source, 1);
    row->addWidget(m_text, 1);
    row->addWidget(m_compare);
    row->addWidget(m_rail);
    m_assembly = new AssemblyPanel(workplace.session, workplace.commands);
    row->addWidget(m_assembly);
    // An assembly has no surface.
    const auto side = [this] {
        const bool assembly = this->session().assembly();
        m_rail->setVisible(!assembly);
        m_assembly->setVisible(assembly);
    };
    connect(&workplace.session, &Session::masterShown, this, side);
    side();
    connect(m_assembly, &AssemblyPanel::cardWanted, this, [this](const Place& place) { showPlace(place); });
    connect(m_assembly, &AssemblyPanel::outputWanted, m_board, &Board::addOutput);
    LineupView& lineup = workplace.lineup;
    connect(m_rail, &SurfaceRail::viewWanted, &lineup, &LineupView::setView);
    connect(m_rail, &SurfaceRail::moved, m_board, qOverload<>(&QWidget::update));
    connect(m_tap, &TapPanel::closed, m_tap, &QWidget::hide);
    connect(m_tap, &TapPanel::meshWanted, &lineup, &LineupView::showWire);
    connect(m_board, &Board::selectionChanged, this, [this] {
        // An open tap follows what is chosen.
        if (m_tap->isVisible())
            if (const auto wire = m_board->tapTarget()) m_tap->tap(*wire);
        m_source->light(m_board->selection());
        m_text->light(m_board->selection());
    });
    connect(m_rail, &SurfaceRail::exposeWanted, this, [this](const QString& key) { m_board->exposeChannel(key.toStdString()); });
    connect(m_compare, &ComparePanel::closed, m_compare, &QWidget::hide);
    connect(m_compare, &ComparePanel::cardWanted, m_board, &Board::showCard);
    connect(m_compare, &ComparePanel::marked, m_board, [this](const std::vector<Id>& cards) {
        m_board->mark({cards.begin(), cards.end()});
    });
    connect(m_text, &TextPanel::closed, m_text, &QWidget::hide);
    connect(m_text, &TextPanel::cardEntered, m_board, [this](const Id& card) { m_board->selectInView(card); });
    connect(m_source, &SourcePanel::closed, m_source, &QWidget::hide);
    connect(m_source, &SourcePanel::cardWanted, m_board, &Board::showCard);
    connect(&workplace.session, &Session::projectOpened, m_tap, &QWidget::hide);
}

void GraphPage::arrive() { m_board->setFocus(); }

bool GraphPage::showPlace(const Place& to) {
    if (to.master.empty() && to.node.empty()) return false;
    if (!to.master.empty() && to.master != session().masterId()) session().showMaster(to.master);
    place().show("graph");
    if (!to.node.empty()) m_board->showCard(to.node);
    return true;
}

void GraphPage::addCommands() {
    Commands& c = place().commands;
    const QString edit = tr("Edit"), view = tr("View");
    const auto selected = [this] { return !m_board->chosenCards().empty(); };
    const QString selectFirst = tr("Select a card first.");
    const auto onBoard = [&](const char* id, const QString& text, QList<QKeySequence> keys, std::function<void()> act, bool needsSelection,
                             bool separated = false) {
        c.add({.id = id,
               .text = text,
               .menu = edit,
               .keys = std::move(keys),
               .where = {"graph"},
               .act = std::move(act),
               .valid = needsSelection ? std::function<bool()>(selected) : std::function<bool()>(),
               .whyNot = selectFirst,
               .separated = separated});
    };
    onBoard(
        "board.cut", tr("Cut"), QKeySequence::keyBindings(QKeySequence::Cut),
        [this] {
            m_board->copySelection();
            m_board->removeSelection();
        },
        true, true);
    onBoard(
        "board.copy", tr("Copy"), QKeySequence::keyBindings(QKeySequence::Copy), [this] { m_board->copySelection(); }, true);
    onBoard(
        "board.paste", tr("Paste"), QKeySequence::keyBindings(QKeySequence::Paste), [this] { m_board->paste(); }, false);
    onBoard(
        "board.duplicate", tr("Duplicate"), {QKeySequence("Ctrl+D")}, [this] { m_board->duplicateSelection(); }, true);
    onBoard(
        "board.select-all", tr("Select all"), QKeySequence::keyBindings(QKeySequence::SelectAll), [this] { m_board->selectAll(); }, false);
    onBoard(
        "board.rename", tr("Rename"), {Qt::Key_F2},
        [this] {
            if (const auto* row = qobject_cast<ParameterRow*>(QApplication::focusWidget()))
                editParameter(session(), row->parameter(), window());
            else m_board->renameSelection();
        },
        false);
    onBoard(
        "board.mute", tr("Mute"), {Qt::Key_F10}, [this] { m_board->muteSelection(); }, true);
    onBoard(
        "board.lock", tr("Lock against savings"), {QKeySequence("Ctrl+Shift+K")}, [this] { m_board->lockSelection(); }, true);
    onBoard(
        "board.expose", tr("Expose as parameter"), {QKeySequence("Ctrl+E")},
        [this] {
            // In a row of the rail the channel is meant.
            for (const QWidget* at = QApplication::focusWidget(); at; at = at->parentWidget())
                if (const auto* row = qobject_cast<const ChannelRow*>(at)) return m_board->exposeChannel(std::string(row->channel().key));
            m_board->exposeSelection();
        },
        false);
    onBoard(
        "board.make-map", tr("Make a map of the wire"), {QKeySequence("Ctrl+Shift+M")}, [this] { makeMapOfWire(); }, false);
    onBoard(
        "board.replace", tr("Put another card in its place"), {QKeySequence("Ctrl+R")}, [this] { m_board->replaceSelection(); }, true,
        true);
    onBoard(
        "board.swap", tr("Swap its first two inputs"), {QKeySequence("Ctrl+Shift+R")}, [this] { m_board->swapSelected(); }, true);
    onBoard(
        "board.lead-wires", tr("Lead its wires to another output"), {QKeySequence("Ctrl+Shift+L")}, [this] { m_board->leadWires(); },
        false);
    onBoard(
        "board.underpass", tr("Underpass, or a drawn wire again"), {QKeySequence("Ctrl+U")}, [this] { m_board->toggleUnderpass(); }, false);
    onBoard(
        "board.per-vertex", tr("Compute per vertex, or per pixel again"), {QKeySequence("Ctrl+Shift+P")},
        [this] { m_board->togglePerVertex(); }, false);
    onBoard(
        "board.note", tr("Write a note"), {QKeySequence("Ctrl+Shift+N")}, [this] { m_board->addNote(); }, false);
    onBoard(
        "board.bay", tr("Put a bay around"), {QKeySequence("Ctrl+B")}, [this] { m_board->baySelection(); }, true);
    onBoard(
        "board.out-of-bay", tr("Take out of its bay"), {}, [this] { m_board->takeOutOfBay(); }, true);
    onBoard(
        "board.fold-bay", tr("Fold the bay, or unfold it"), {QKeySequence("Ctrl+Shift+B")}, [this] { m_board->foldBay(); }, false);
    onBoard(
        "board.scratch", tr("Scratch bay, or a plain one again"), {}, [this] { m_board->toggleScratch(); }, false);
    onBoard(
        "board.mix-over", tr("Mix a finish over the surface by paint"), {},
        [this] {
            if (session().assembly()) return session().say(tr("An assembly has no surface. Leave it, and ask again."));
            askMixOver(session(), session().masterId(), this, m_rail->mapToGlobal(QPoint(0, 40)));
        },
        false);
    addAssemblyCommands();
    onBoard(
        "board.tidy", tr("Tidy"), {Qt::Key_F4}, [this] { m_board->tidy(); }, false);
    const auto inView = [&](const char* id, const QString& text, const QKeySequence& key, std::function<void()> act) {
        c.add({.id = id,
               .text = text,
               .menu = view,
               .keys = key.isEmpty() ? QList<QKeySequence>() : QList{key},
               .where = {"graph"},
               .act = std::move(act)});
    };
    inView("board.fit", tr("Fit the selection"), Qt::Key_F9, [this] { m_board->fit(!m_board->selection().empty()); });
    inView("board.find", tr("Find cards"), QKeySequence::Find, [this] { m_board->find(); });
    inView("board.feeding", tr("Select what feeds it"), QKeySequence("Ctrl+["), [this] { m_board->selectFeeding(); });
    inView("board.fed", tr("Select what it feeds"), QKeySequence("Ctrl+]"), [this] { m_board->selectFed(); });
    inView("board.kin", tr("Dim what is not connected, or show all"), QKeySequence("Ctrl+L"),
           [this] { m_board->showKin(!m_board->showsKin()); });
    inView("board.heat", tr("Ink cards by their cost, measured where each was taken out, or not"), QKeySequence("Ctrl+H"),
           [this] { m_board->showHeat(!m_board->showsHeat()); });
    inView("board.overview", tr("Overview while something is out of view"), {},
           [this] { m_board->overview()->setWanted(!m_board->overview()->wanted()); });
    inView("graph.tap", tr("Tap the selected wire"), Qt::Key_F3, [this] { toggleTap(); });
    inView("graph.source", tr("Source, with the lines of the selection"), Qt::Key_F12, [this] {
        m_source->setVisible(!m_source->isVisible());
        m_source->light(m_board->selection());
    });
    inView("graph.text", tr("The board as text"), QKeySequence("Ctrl+F12"), [this] {
        m_text->setVisible(!m_text->isVisible());
        m_text->light(m_board->selection());
        if (m_text->isVisible()) m_text->text()->setFocus();
        else m_board->setFocus();
    });
    inView("graph.compare", tr("Compare with another state"), QKeySequence("Ctrl+Shift+F12"),
           [this] { m_compare->setVisible(!m_compare->isVisible()); });
    inView("graph.on-mesh", tr("Show the selected wire on the mesh"), QKeySequence("Shift+F3"), [this] {
        if (session().assembly())
            return session().say(tr("A specimen shows wires of its master's board. Leave the assembly, and select its card."));
        if (const auto wire = m_board->tapTarget()) place().lineup.showWire(*wire);
        else session().say(tr("Select a wire or a card first."));
    });
    inView("graph.take-color", tr("Take a color from a specimen"), QKeySequence("Ctrl+K"), [this] { pickColor(); });
}

void GraphPage::addAssemblyCommands() {
    Commands& c = place().commands;
    const QString menu = tr("Edit/Assembly");
    const auto add = [&](const char* id, const QString& text, const QKeySequence& key, const QString& help, std::function<void()> act) {
        c.add({.id = id,
               .text = text,
               .menu = menu,
               .keys = key.isEmpty() ? QList<QKeySequence>() : QList{key},
               .where = {"graph"},
               .help = help,
               .act = std::move(act)});
    };
    add("assembly.fold", tr("Make an assembly"), QKeySequence("Ctrl+M"),
        tr("The selected cards become one card, whose ports are what they read and give"), [this] { m_board->foldSelection(); });
    add("assembly.unfold", tr("Take the assembly apart"), QKeySequence("Ctrl+Shift+U"), tr("Its cards take the place of its card"),
        [this] { m_board->unfoldSelection(); });
    add("assembly.enter", tr("Open the assembly"), QKeySequence("Ctrl+Down"), tr("Its board, with the values that it gets here"),
        [this] { m_board->enterSelection(); });
    add("assembly.leave", tr("Leave the assembly"), QKeySequence("Ctrl+Up"), tr("Back to the board that its card stands on"),
        [this] { m_board->leaveAssembly(); });
    add("assembly.output", tr("New output"), {}, tr("An Output card for what is selected"), [this] { m_board->addOutput(); });
    add("assembly.share", tr("Share as a file"), {}, tr("The assembly on the board, or of the selected card, with those within it"),
        [this] { shareAssembly(); });
    add("assembly.bring", tr("Bring in from a file"), {}, tr("An assembly that was shared; it takes the place of an earlier version"),
        [this] { bringAssembly(); });
}

void GraphPage::shareAssembly() {
    const Assembly* assembly = session().assembly();
    if (!assembly && m_board->selection().size() == 1)
        if (const Node* card = session().master()->graph.find(*m_board->selection().begin()))
            assembly = session().project().assembly(assemblyOf(*card));
    if (!assembly) return session().say(tr("Open an assembly, or select its card; then it can be shared."));
    const Id id = assembly->id;
    QString file = QFileDialog::getSaveFileName(this, tr("Share the assembly"), QString::fromStdString(assembly->name) + ".hueassembly",
                                                tr("Assemblies (*.hueassembly)"));
    if (file.isEmpty()) return;
    if (!file.endsWith(".hueassembly")) file += ".hueassembly";
    shareAssemblyAs(id, file);
}

void GraphPage::shareAssemblyAs(const Id& id, const QString& file) {
    // Whoever has an earlier one can tell the two apart.
    const bool there = QFileInfo::exists(file);
    if (there && !session().apply(tr("raise the version"), [&](const Project& p) { return edit::raiseVersion(p, id); })) return;
    const Outcome written = writeAssembly(session().project(), id, file.toStdString(), session().assets().folder().string());
    session().say(written ? tr("%1 holds %2 now, version %3.")
                                .arg(QFileInfo(file).fileName(), QString::fromStdString(session().project().assembly(id)->name))
                                .arg(session().project().assembly(id)->version)
                          : QString::fromStdString(written.error().sentence));
}

void GraphPage::bringAssembly() {
    const QString file = QFileDialog::getOpenFileName(this, tr("Bring in an assembly"), {}, tr("Assemblies (*.hueassembly)"));
    if (!file.isEmpty()) bringAssemblyFrom(file);
}

void GraphPage::bringAssemblyFrom(const QString& file) {
    const Result<SharedAssembly> shared = readAssembly(file.toStdString());
    if (!shared) return session().say(QString::fromStdString(shared.error().sentence));
    const auto bring = [this, shared = *shared] {
        const Assembly* there = session().project().assembly(shared.assembly->id);
        const QString name = QString::fromStdString(shared.assembly->name);
        const int was = there ? there->version : 0;
        if (!session().apply(tr("bring in %1").arg(name), [&](const Project& p) { return withAssembly(p, shared); })) return;
        session().say(was ? tr("%1 is version %2 now; it was %3.").arg(name).arg(shared.assembly->version).arg(was)
                          : tr("%1 is here. Type its name on the board to place it.").arg(name));
    };
    const std::vector<Break> breaks = whatBreaks(session().project(), *shared->assembly);
    if (breaks.empty()) return bring();
    // What would not fit any more is read before it happens.
    auto* ask = new QMessageBox(QMessageBox::Question, tr("Bring in %1").arg(QString::fromStdString(shared->assembly->name)),
                                tr("Version %1 of %2 does not fit all cards that stand for it here:")
                                    .arg(shared->assembly->version)
                                    .arg(QString::fromStdString(shared->assembly->name)),
                                QMessageBox::NoButton, window());
    QStringList list;
    for (size_t k = 0; k < std::min<size_t>(breaks.size(), 8); ++k) list << QString::fromStdString(breaks[k].sentence);
    if (breaks.size() > 8) list << tr("and %1 more").arg(breaks.size() - 8);
    ask->setInformativeText(list.join("\n"));
    ask->setObjectName("askBreaks");
    ask->setAttribute(Qt::WA_DeleteOnClose);
    auto* go = ask->addButton(tr("Bring it in"), QMessageBox::AcceptRole);
    ask->addButton(tr("Leave as it is"), QMessageBox::RejectRole);
    connect(ask, &QMessageBox::buttonClicked, this, [go, bring](QAbstractButton* b) {
        if (b == go) bring();
    });
    ask->open();
}

void GraphPage::makeMapOfWire() {
    if (session().assembly())
        return session().say(tr("Maps are made of wires of a master's board. Leave the assembly, and select its card."));
    const std::vector<Source> wires = m_board->tapTargets();
    if (wires.empty()) return session().say(tr("Select a wire or cards first; then maps can be made of them."));
    auto* dialog = new MakeMapDialog(session(), place().maps, wires, window());
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->open();
}

void GraphPage::toggleTap() {
    const auto wire = m_board->tapTarget();
    if (m_tap->isVisible() && (!wire || *wire == m_tap->wire())) return m_tap->hide();
    if (!wire) return session().say(tr("Select a wire or a card first; then it can be tapped."));
    m_tap->show();
    m_tap->tap(*wire);
    m_board->showCard(wire->node);
}

void GraphPage::pickColor() {
    LineupView& lineup = place().lineup;
    if (m_board->hasFocus() && m_board->hasColor()) return lineup.pickColor([this](const Value& v) { m_board->takeColor(v); });
    auto* field = qobject_cast<ValueField*>(QApplication::focusWidget());
    if (!field || !field->isColor())
        return session().say(tr("Put the focus on a color, or select a card with one; then a click on a specimen takes its color."));
    lineup.pickColor([field = QPointer<ValueField>(field)](const Value& v) {
        if (field) field->take(v);
    });
}

} // namespace hue
