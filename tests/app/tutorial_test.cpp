// The tutorial, followed word for word: its sentences are read from the page and done with mouse and keys. A sentence that nobody would
// know how to do is a failure, and so is a master at its end that is not the demo's.
#include "app/parts/fields.h"
#include "core/picture/looks.h"
#include "core/project/frame_inputs.h"
#include "core/project/store.h"
#include "tests/app/app_fixture.h"
#include "tests/test_graphs.h"

#include <QClipboard>
#include <QRegularExpression>

namespace hue {
namespace {

using namespace test;

class Tutorial : public Window {
  protected:
    struct Step {
        int number = 0;
        QString sentence, lines;
    };

    /// The numbered sentences of a page, with the lines that stand below them.
    static std::vector<Step> stepsOf(const QString& page) {
        std::vector<Step> out;
        static const QRegularExpression numbered("^(\\d+)\\. (.+)$");
        bool inLines = false;
        for (const QString& line : page.split('\n')) {
            if (line.trimmed().startsWith("```")) {
                inLines = !inLines;
                continue;
            }
            if (inLines) {
                if (!out.empty()) out.back().lines += line.trimmed() + "\n";
            } else if (const auto match = numbered.match(line); match.hasMatch()) {
                out.push_back({match.captured(1).toInt(), match.captured(2), {}});
            }
        }
        return out;
    }

    Id cardCalled(const QString& title) {
        Id found;
        for (const auto& [id, node] : graph().nodes)
            if (QString::fromStdString(cardTitle(project(), *session().master(), *node)) == title) {
                EXPECT_TRUE(found.empty()) << "two cards are called " << title.toStdString();
                found = id;
            }
        EXPECT_FALSE(found.empty()) << "no card is called " << title.toStdString();
        return found;
    }

    /// "`port` of `Card`", or "`Card`" alone for its output.
    static constexpr const char* kEnd = "(?:`([^`]+)` of )?`([^`]+)`";

    void press(const QString& keys) {
        const QKeyCombination one = QKeySequence(keys)[0];
        QWidget* to = QApplication::focusWidget() ? QApplication::focusWidget() : window.get();
        key(to, one.key(), one.keyboardModifiers());
        settle();
    }

    /// Does what one sentence says; false where it says nothing that is known.
    bool act(const Step& step) {
        QString rest = step.sentence;
        const auto takes = [&](const QString& pattern, QRegularExpressionMatch& match) {
            match = QRegularExpression("^(?:, | and |, and )?" + pattern).match(rest);
            if (!match.hasMatch()) return false;
            rest = rest.mid(match.capturedEnd());
            return true;
        };
        bool any = false;
        for (QRegularExpressionMatch m; !rest.isEmpty() && rest != "." && rest != ":"; any = true) {
            if (HasFatalFailure()) return true;
            if (takes("Drop (.+) on it\\.", m)) {
                QMimeData files;
                QList<QUrl> urls;
                static const QRegularExpression quoted("`([^`]+)`");
                for (auto it = quoted.globalMatch(m.captured(1)); it.hasNext();)
                    urls << QUrl::fromLocalFile(QString::fromStdString(sourceFolder()) + "/demo/depot/maps/" + it.next().captured(1));
                files.setUrls(urls);
                drop(&maps(), {300, 200}, files);
            } else if (takes("Type `([^`]+)` and press Enter", m)) {
                // Side by side, as one would lay them out.
                const int k = int(graph().nodes.size());
                type(m.captured(1), {60 + 205 * (k % 4), 60 + 180 * (k / 4)});
            } else if (takes(QString("Drag from %1 to the channel `([^`]+)`").arg(kEnd), m)) {
                const Id from = cardCalled(m.captured(2));
                QString channel = m.captured(3).toLower().replace(' ', '_');
                wireToChannel(from, port(m.captured(1)), channel.toUtf8().data());
            } else if (takes(QString("Drag from %1 to `([^`]+)` of `([^`]+)`").arg(kEnd), m)) {
                const Id from = cardCalled(m.captured(2)), to = cardCalled(m.captured(4));
                wireTo(from, port(m.captured(1)), to, m.captured(3).toUtf8().data());
                EXPECT_EQ(graph().find(to)->wires.count(m.captured(3).toStdString()), 1u) << step.sentence.toStdString();
            } else if (takes("Select `([^`]+)`", m)) {
                const Id card = cardCalled(m.captured(1));
                QTest::mouseClick(&board(), Qt::LeftButton, {}, board().toWidget(board().layout().cards.at(card).title.center()).toPoint());
            } else if (takes("type `([^`]+)` and press Enter", m)) {
                auto* editor = board().findChild<QLineEdit*>("boardEditor");
                EXPECT_TRUE(editor && editor->isVisible()) << step.sentence.toStdString();
                if (!editor) return true;
                editor->selectAll();
                QTest::keyClicks(editor, m.captured(1));
                key(editor, Qt::Key_Return);
                settle();
            } else if (takes("Copy these lines, point at the board and press `Ctrl\\+V`", m)) {
                EXPECT_FALSE(step.lines.isEmpty());
                QApplication::clipboard()->setText(step.lines);
                QCursor::setPos(board().mapToGlobal(QPoint(200, 300)));
                board().setFocus();
                QString said;
                const auto heard = QObject::connect(&session(), &Session::said, &board(), [&](const QString& s) { said = s; });
                const size_t before = graph().nodes.size();
                press("Ctrl+V");
                QObject::disconnect(heard);
                EXPECT_GT(graph().nodes.size(), before) << said.toStdString();
            } else if (takes("set `([^`]+)` to `([^`]+)`", m) || takes("`([^`]+)` to `([^`]+)`", m)) {
                for (const Parameter& p : session().master()->parameters) {
                    if (QString::fromStdString(p.name) != m.captured(1)) continue;
                    ValueField* field = sheet().row(p.id)->field();
                    field->setFocus();
                    key(field, Qt::Key_Return);
                    auto* editor = field->findChild<QLineEdit*>();
                    EXPECT_TRUE(editor) << "nothing to type a value into";
                    if (!editor) return true;
                    editor->selectAll();
                    QTest::keyClicks(editor, m.captured(2));
                    key(editor, Qt::Key_Return);
                    settle();
                    EXPECT_FLOAT_EQ(project().instance(session().target())->own.at(p.id).value[0], m.captured(2).toFloat());
                }
            } else if (takes("[Pp]ress `([^`]+)`(?: (?:for|to) [^,.]+)?", m)) {
                if (m.captured(1) == "Ctrl+S") {
                    // The file dialog is the desktop's.
                    EXPECT_TRUE(window->saveTo(folder->filePath("setts.huestack")));
                } else {
                    press(m.captured(1));
                }
            } else {
                return false;
            }
        }
        return any;
    }

    QByteArray m_port;
    const char* port(const QString& named) {
        m_port = named.isEmpty() ? "out" : named.toUtf8();
        return m_port.data();
    }
};

/// A channel over the flat square, 64 pixels a side.
std::vector<float> over(const Project& p, const std::string& folder, const Id& worn, const std::string& channel) {
    Assets assets;
    assets.setFolder(folder);
    const Resolved resolved = resolve(p, worn);
    const Evaluator e(compileSurface(p, *resolved.master).program);
    const FrameInputs inputs = frameInputs(p, assets, resolved, 0);
    return overSquare(e, inputs, channel, e.program().code[size_t(e.program().output(channel))].width, 64);
}

TEST_F(Tutorial, LeadsWordForWordToTheMasterOfTheDemo) {
    QFile page(QString::fromStdString(sourceFolder()) + "/docs/tutorial.md");
    ASSERT_TRUE(page.open(QIODevice::ReadOnly));
    const std::vector<Step> steps = stepsOf(QString::fromUtf8(page.readAll()));
    ASSERT_GT(steps.size(), 15u);
    for (size_t k = 0; k < steps.size(); ++k) {
        ASSERT_EQ(steps[k].number, int(k) + 1);
        ASSERT_TRUE(act(steps[k])) << "what is one to do: " << steps[k].sentence.toStdString();
        ASSERT_FALSE(HasFailure()) << "step " << steps[k].number << ": " << steps[k].sentence.toStdString();
    }
    rest();
    const Project& made = project();
    ASSERT_EQ(made.instances.size(), 3u);
    EXPECT_TRUE(session().problems().empty()) << session().problems()[0].sentence;
    const std::string depot = depotFolder();
    Project demo = loadProject(depot + "/depot.huestack")->project;
    // The demo's master with the values of the last instance that was made.
    const auto ofDemo = [&](const char* name) {
        for (const auto& master : demo.masters)
            if (master->name == "Setts")
                for (const Parameter& p : master->parameters)
                    if (p.name == name) return p.id;
        return Id{};
    };
    Instance same{"same", "Same", "setts", {}, {}, {}, {}, {}};
    for (const auto& [name, value] : {std::pair{"Tiling", 1.5f}, {"Wetness", 0.55f}, {"Water level", 0.1f}, {"Moss", 0.75f}})
        same.own[ofDemo(name)] = {Value::number(value), {}};
    demo = *edit::addInstance(demo, same);
    const Id last = made.instances[2]->id;
    for (const char* channel : {"base_color", "roughness", "normal", "occlusion"}) {
        const auto theirs = over(demo, depot, "same", channel), ours = over(made, folder->path().toStdString(), last, channel);
        ASSERT_EQ(theirs.size(), ours.size());
        double most = 0;
        for (size_t i = 0; i < ours.size(); ++i) most = std::max(most, double(std::fabs(ours[i] - theirs[i])));
        EXPECT_LT(most, 2e-3) << channel;
    }
}

} // namespace
} // namespace hue
