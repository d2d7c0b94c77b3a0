// It stays open while one plays and listens; what it sends is an undo step like any other.
#include "app/acts/draw_dialog.h"

#include <QFormLayout>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/ground/theme.h"
#include "app/ground/words.h"

namespace mellow::app {

namespace {

constexpr int largestSeed = 999'999'999;

}  // namespace

DrawDialog::DrawDialog(Workspace& workspace, Putting& putting, QWidget* window)
    : QDialog(window),
      workspace_(workspace),
      putting_(putting),
      scope_(new QComboBox),
      seed_(new QSpinBox),
      locks_(new QListWidget),
      said_(new QLabel) {
    setObjectName(QStringLiteral("drawDialog"));
    setWindowTitle(tr("Draw values"));
    setAttribute(Qt::WA_DeleteOnClose);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(16), scaled(14), scaled(16), scaled(14));
    column->setSpacing(scaled(10));
    auto* help =
        new QLabel(tr("Each target gets a value inside its reach. The same seed draws the same values "
                      "again. What is ticked stays where it is."));
    help->setWordWrap(true);
    column->addWidget(help);
    auto* form = new QFormLayout;
    scope_->setObjectName(QStringLiteral("drawScope"));
    scope_->addItems({tr("What is selected"), tr("The whole instrument"), tr("Every instrument")});
    scope_->setCurrentIndex(static_cast<int>(DrawScope::instrument));
    form->addRow(tr("Whose"), scope_);
    seed_->setObjectName(QStringLiteral("drawSeed"));
    seed_->setRange(1, largestSeed);
    seed_->setButtonSymbols(QAbstractSpinBox::NoButtons);
    form->addRow(tr("Seed"), seed_);
    column->addLayout(form);
    locks_->setObjectName(QStringLiteral("drawLocks"));
    locks_->setAccessibleName(tr("Locked targets"));
    column->addWidget(locks_, 1);
    said_->setProperty("role", "caption");
    said_->setObjectName(QStringLiteral("drawSaid"));
    column->addWidget(said_);
    auto* row = new QHBoxLayout;
    const auto add = [&](const QString& text, const char* name, auto act) {
        auto* button = new QPushButton(text);
        button->setObjectName(QLatin1String(name));
        connect(button, &QPushButton::clicked, this, act);
        row->addWidget(button);
        return button;
    };
    add(tr("Draw"), "draw", [this] { draw(); })->setDefault(true);
    add(tr("Draw another"), "drawAnother", [this] {
        seed_->setValue(seed_->value() == largestSeed ? 1 : seed_->value() + 1);
        draw();
    });
    add(tr("Put to rest"), "drawRest", [this] { rest(); });
    row->addStretch(1);
    add(tr("Close"), "drawClose", [this] { close(); });
    column->addLayout(row);
    connect(scope_, &QComboBox::currentIndexChanged, this, &DrawDialog::follow);
    connect(&workspace_.selection, &Selection::changed, this, &DrawDialog::follow);
    connect(&workspace_.document, &Document::changed, this, &DrawDialog::follow);
    connect(locks_, &QListWidget::itemChanged, this, [this](const QListWidgetItem* item) {
        if (!filling_) lock(*item);
    });
    follow();
    resize(scaled(420), scaled(440));
}

void DrawDialog::follow() {
    filling_ = true;
    const Ensemble& ensemble = workspace_.document.ensemble();
    locks_->clear();
    for (const auto& [instrument, parameter] :
         placeable(ensemble, whoseOf(workspace_.selection.now(), scope()))) {
        auto* item = new QListWidgetItem(
            tr("%1 · %2").arg(nameToShow(nameOf(*instrument)), nameToShow(nameOf(*parameter))), locks_);
        item->setData(Qt::UserRole, QStringList{toQt(instrument->id), toQt(parameter->id)});
        item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
        item->setCheckState(parameter->locked ? Qt::Checked : Qt::Unchecked);
    }
    filling_ = false;
}

void DrawDialog::lock(const QListWidgetItem& item) {
    const QStringList at = item.data(Qt::UserRole).toStringList();
    const bool locked = item.checkState() == Qt::Checked;
    // Not from within the list's own signal, since the list is filled anew.
    QMetaObject::invokeMethod(
        this,
        [this, at, locked] {
            workspace_.document.edit(locked ? tr("Lock a target") : tr("Unlock a target"), [&](Ensemble& e) {
                Instrument* instrument = findById(e.instruments, at.value(0).toStdString());
                if (instrument == nullptr) return;
                if (Parameter* parameter = findById(instrument->parameters, at.value(1).toStdString()))
                    parameter->locked = locked;
            });
        },
        Qt::QueuedConnection);
}

void DrawDialog::report(std::size_t sent) {
    said_->setText(sent == 0 ? tr("Nothing was sent: there is no target, or all of them are locked.")
                             : tr("%n target(s) sent. Ctrl+Z sends what was there before.", nullptr,
                                  static_cast<int>(sent)));
}

void DrawDialog::draw() {
    report(putting_.draw(whoseOf(workspace_.selection.now(), scope()),
                         static_cast<std::uint64_t>(seed_->value())));
}

void DrawDialog::rest() {
    report(putting_.rest(whoseOf(workspace_.selection.now(), scope())));
}

}  // namespace mellow::app
