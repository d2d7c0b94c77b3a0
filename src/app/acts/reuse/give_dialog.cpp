#include "app/acts/reuse/give_dialog.h"

#include <QDialogButtonBox>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "io/playing/player.h"

namespace mellow::app {

GiveDialog::GiveDialog(const Ensemble& ensemble, const Selected& chain, QWidget* window) : QDialog(window) {
    setObjectName(QStringLiteral("giveDialog"));
    setAttribute(Qt::WA_DeleteOnClose);
    const Chain* given = chainOf(ensemble, chain);
    setWindowTitle(tr("Give “%1” to").arg(given == nullptr ? QString() : nameToShow(nameOf(*given))));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(16), scaled(14), scaled(16), scaled(14));
    column->addWidget(new QLabel(tr("Which instruments are to have it too?")));
    auto* list = new QListWidget;
    list->setObjectName(QStringLiteral("giveTo"));
    list->setAccessibleName(tr("Instruments"));
    for (const Instrument& instrument : ensemble.instruments) {
        if (instrument.id == chain.instrument) continue;
        const bool isRack = instrument.output.port == io::practiceRackPort;
        auto* item =
            new QListWidgetItem(tr("%1 (%2, channel %3)")
                                    .arg(nameToShow(nameOf(instrument)),
                                         isRack ? tr("Practice rack") : nameToShow(instrument.output.port))
                                    .arg(instrument.output.channel),
                                list);
        item->setData(Qt::UserRole, toQt(instrument.id));
        item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
        item->setCheckState(Qt::Unchecked);
    }
    column->addWidget(list, 1);
    auto* buttons = new QDialogButtonBox;
    auto* go = buttons->addButton(tr("Match the targets…"), QDialogButtonBox::AcceptRole);
    go->setObjectName(QStringLiteral("acceptGive"));
    go->setDefault(true);
    go->setEnabled(false);
    buttons->addButton(tr("Cancel"), QDialogButtonBox::RejectRole);
    auto* all = buttons->addButton(tr("Tick all"), QDialogButtonBox::ActionRole);
    all->setObjectName(QStringLiteral("giveAll"));
    connect(all, &QPushButton::clicked, list, [list] {
        for (int i = 0; i < list->count(); ++i) list->item(i)->setCheckState(Qt::Checked);
    });
    column->addWidget(buttons);
    connect(list, &QListWidget::itemChanged, this, [list, go] {
        bool any = false;
        for (int i = 0; i < list->count(); ++i) any = any || list->item(i)->checkState() == Qt::Checked;
        go->setEnabled(any);
    });
    // One click on a name is as good as one on its box.
    connect(list, &QListWidget::itemActivated, this, [](QListWidgetItem* item) {
        item->setCheckState(item->checkState() == Qt::Checked ? Qt::Unchecked : Qt::Checked);
    });
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    resize(scaled(360), scaled(320));
}

GiveDialog* GiveDialog::ask(QWidget* window, const Ensemble& ensemble, const Selected& chain,
                            Accepted accepted) {
    auto* dialog = new GiveDialog(ensemble, chain, window);
    connect(dialog, &QDialog::accepted, window, [dialog, accepted = std::move(accepted)] {
        std::vector<std::string> ids;
        const auto* list = dialog->findChild<QListWidget*>();
        for (int i = 0; i < list->count(); ++i) {
            if (list->item(i)->checkState() == Qt::Checked)
                ids.push_back(list->item(i)->data(Qt::UserRole).toString().toStdString());
        }
        accepted(ids);
    });
    dialog->open();
    return dialog;
}

}  // namespace mellow::app
