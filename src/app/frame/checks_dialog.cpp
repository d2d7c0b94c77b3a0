// It stays open beside the window, and follows every edit: a cure that works takes its own line away.
#include "app/frame/checks_dialog.h"

#include <QHBoxLayout>
#include <QScrollArea>
#include <algorithm>

#include "app/ground/theme.h"

namespace mellow::app {

ChecksDialog::ChecksDialog(Workspace& workspace, QWidget* window)
    : QDialog(window),
      workspace_(workspace),
      count_(new QLabel),
      notes_(new QCheckBox(tr("Notes too"))),
      findings_(new FindingsView(workspace.document, FindingsView::Of::everything)) {
    setObjectName(QStringLiteral("checksDialog"));
    setWindowTitle(tr("All checks"));
    setAttribute(Qt::WA_DeleteOnClose);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(16), scaled(14), scaled(16), scaled(14));
    column->setSpacing(scaled(10));
    auto* head = new QHBoxLayout;
    count_->setProperty("role", "title");
    count_->setObjectName(QStringLiteral("checksCount"));
    notes_->setObjectName(QStringLiteral("checksNotes"));
    notes_->setChecked(true);
    notes_->setToolTip(tr("What works and is still worth knowing"));
    head->addWidget(count_, 1);
    head->addWidget(notes_);
    column->addLayout(head);
    auto* inside = new QWidget;
    auto* rows = new QVBoxLayout(inside);
    rows->setContentsMargins(0, 0, scaled(8), 0);
    rows->addWidget(findings_);
    rows->addStretch(1);
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setWidget(inside);
    column->addWidget(scroll, 1);
    connect(notes_, &QCheckBox::toggled, this, &ChecksDialog::follow);
    connect(&workspace_.document, &Document::findingsChanged, this, &ChecksDialog::follow);
    connect(findings_, &FindingsView::placeAsked, this, [this](const Place& place) {
        workspace_.show(addressOf(workspace_.document.ensemble(), place));
    });
    follow();
    resize(scaled(640), scaled(420));
}

void ChecksDialog::follow() {
    int troubles = 0;
    int notes = 0;
    for (const Finding* finding : workspace_.document.findings())
        ++(finding->severity == Severity::trouble ? troubles : notes);
    count_->setText(troubles + notes == 0 ? tr("All clear: everything works, and nothing is odd.")
                    : troubles == 0       ? tr("No trouble, %n note(s)", nullptr, notes)
                    : notes == 0          ? tr("%n trouble(s)", nullptr, troubles)
                                          : tr("%n trouble(s)", nullptr, troubles) + QStringLiteral(", ") +
                                       tr("%n note(s)", nullptr, notes));
    notes_->setVisible(notes > 0);
    findings_->showThose([this](const Finding& finding) {
        return finding.severity == Severity::trouble || notes_->isChecked();
    });
}

}  // namespace mellow::app
