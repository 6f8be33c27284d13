#include "app/window/keys_dialog.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeySequenceEdit>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QStyledItemDelegate>
#include <QTableWidget>
#include <QVBoxLayout>

namespace hue {
namespace {

enum Column { Text, Where, Keys };

/// Keys are changed by pressing them.
class KeyDelegate : public QStyledItemDelegate {
  public:
    KeyDelegate(KeysDialog& dialog) : QStyledItemDelegate(&dialog), m_dialog(dialog) {}
    QWidget* createEditor(QWidget* parent, const QStyleOptionViewItem&, const QModelIndex&) const override {
        auto* edit = new QKeySequenceEdit(parent);
        connect(edit, &QKeySequenceEdit::editingFinished, this, [this, edit] {
            auto* self = const_cast<KeyDelegate*>(this);
            Q_EMIT self->commitData(edit);
            Q_EMIT self->closeEditor(edit);
        });
        return edit;
    }
    void setEditorData(QWidget*, const QModelIndex&) const override {}
    void setModelData(QWidget* editor, QAbstractItemModel*, const QModelIndex& index) const override {
        // One stroke is one key; a second would be another command's.
        const QKeySequence typed = qobject_cast<QKeySequenceEdit*>(editor)->keySequence();
        if (!typed.isEmpty()) m_dialog.change(index.row(), {QKeySequence(typed[0])});
    }

  private:
    KeysDialog& m_dialog;
};

} // namespace

KeysDialog::KeysDialog(Commands& commands, const std::map<QString, QString>& stationNames, QWidget* parent)
    : QDialog(parent), m_commands(commands), m_stationNames(stationNames) {
    setWindowTitle(tr("Keys"));
    resize(640, 620);
    auto* column = new QVBoxLayout(this);
    auto* hint = new QLabel(
        tr("On the board: type a node, a number, a color or name = value to add. Arrows walk along wires, Shift+arrows select, Enter edits "
           "the first unwired value, Delete removes, Ctrl+drag cuts wires, middle drag or Alt+drag moves the board, the wheel zooms."));
    hint->setWordWrap(true);
    column->addWidget(hint);
    m_find = new QLineEdit;
    m_find->setObjectName("findCommand");
    m_find->setPlaceholderText(tr("Find a command or a key"));
    m_find->setClearButtonEnabled(true);
    column->addWidget(m_find);
    m_table = new QTableWidget(0, 3);
    m_table->setObjectName("keyTable");
    m_table->setAccessibleName(tr("Commands and keys"));
    m_table->setHorizontalHeaderLabels({tr("Command"), tr("Where"), tr("Key")});
    m_table->verticalHeader()->hide();
    m_table->horizontalHeader()->setSectionResizeMode(Text, QHeaderView::Stretch);
    m_table->setColumnWidth(Where, 130);
    m_table->setColumnWidth(Keys, 150);
    m_table->setSelectionBehavior(QAbstractItemView::SelectRows);
    m_table->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed);
    m_table->setItemDelegateForColumn(Keys, new KeyDelegate(*this));
    column->addWidget(m_table, 1);
    m_said = new QLabel(tr("Double click a key, or F2, and press another."));
    m_said->setObjectName("keysSaid");
    m_said->setWordWrap(true);
    m_said->setProperty("second", true);
    column->addWidget(m_said);
    auto* buttons = new QHBoxLayout;
    auto* clear = new QPushButton(tr("Take the key away"));
    auto* reset = new QPushButton(tr("Return to the standard key"));
    auto* resetAll = new QPushButton(tr("All standard keys"));
    auto* close = new QPushButton(tr("Close"));
    buttons->addWidget(clear);
    buttons->addWidget(reset);
    buttons->addWidget(resetAll);
    buttons->addStretch();
    buttons->addWidget(close);
    column->addLayout(buttons);
    connect(clear, &QPushButton::clicked, this, [this] { change(m_table->currentRow(), {}); });
    connect(reset, &QPushButton::clicked, this, [this] {
        if (const QString id = idAt(m_table->currentRow()); !id.isEmpty()) m_commands.resetKeys(id);
    });
    connect(resetAll, &QPushButton::clicked, this, [this] {
        for (const Command& c : m_commands.all()) m_commands.resetKeys(c.id);
    });
    connect(close, &QPushButton::clicked, this, &QDialog::accept);
    connect(m_find, &QLineEdit::textChanged, this, &KeysDialog::fill);
    connect(&commands, &Commands::keysChanged, this, &KeysDialog::fill);
    fill();
}

QString KeysDialog::idAt(int row) const {
    const QTableWidgetItem* item = m_table->item(row, Text);
    return item ? item->data(Qt::UserRole).toString() : QString();
}

bool KeysDialog::change(int row, const QList<QKeySequence>& keys) {
    const QString id = idAt(row);
    if (id.isEmpty()) return false;
    QString why;
    const bool good = m_commands.setKeys(id, keys, &why);
    m_said->setText(good ? keys.isEmpty() ? tr("%1 has no key now.").arg(m_commands.action(id)->text())
                                          : tr("%1 is the key of %2 now.").arg(m_commands.keyText(id), m_commands.action(id)->text())
                         : why);
    return good;
}

QString KeysDialog::said() const { return m_said->text(); }

void KeysDialog::fill() {
    const QString now = idAt(m_table->currentRow()), wanted = m_find->text().trimmed();
    m_table->setRowCount(0);
    for (const Command& c : m_commands.all()) {
        QStringList keys, where;
        for (const QKeySequence& k : m_commands.keysOf(c.id)) keys << k.toString(QKeySequence::NativeText);
        for (const QString& station : c.where) where << (m_stationNames.contains(station) ? m_stationNames.at(station) : station);
        const QString shown = keys.join(", "), text = m_commands.action(c.id)->text();
        if (!wanted.isEmpty() && !text.contains(wanted, Qt::CaseInsensitive) && !shown.contains(wanted, Qt::CaseInsensitive)) continue;
        const int row = m_table->rowCount();
        m_table->insertRow(row);
        auto cell = [&](Column column, const QString& words, bool editable) {
            auto* item = new QTableWidgetItem(words);
            item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | (editable ? Qt::ItemIsEditable : Qt::NoItemFlags));
            item->setToolTip(c.help);
            m_table->setItem(row, column, item);
            return item;
        };
        cell(Text, text, false)->setData(Qt::UserRole, c.id);
        cell(Where, where.isEmpty() ? tr("everywhere") : where.join(", "), false);
        QTableWidgetItem* key = cell(Keys, shown, true);
        if (m_commands.hasOwnKeys(c.id)) {
            QFont bold = key->font();
            bold.setBold(true);
            key->setFont(bold);
            key->setToolTip(tr("Changed by you"));
        }
        if (c.id == now) m_table->selectRow(row);
    }
}

} // namespace hue
