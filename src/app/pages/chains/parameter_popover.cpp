#include "app/pages/chains/parameter_popover.h"

#include <QVBoxLayout>

#include "app/acts/details/editors.h"
#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/widgets/popover.h"
#include "core/model/resolve.h"

namespace mellow::app {

void openParameter(Workspace& workspace, const Rail& rail) {
    const Ensemble& ensemble = workspace.document.ensemble();
    const Branch* branch = branchOf(ensemble, workspace.selection.now());
    const Instrument* instrument = instrumentOf(ensemble, workspace.selection.now());
    const Target target = branch == nullptr ? Target{} : targetOf(ensemble, instrument, branch->target);
    if (target.parameter == nullptr || target.instrument == nullptr)
        return workspace.hint(Rail::tr("That is no parameter of an instrument."));
    if (instrument == nullptr)
        return workspace.hint(Rail::tr("It belongs to %1; select that instrument to change it.")
                                  .arg(nameToShow(nameOf(*target.instrument))));
    auto* open = new Popover(rail.window());
    open->setObjectName(QStringLiteral("popover"));
    open->setAccessibleName(Rail::tr("The parameter %1").arg(nameToShow(nameOf(*target.parameter))));
    Form* form = makeParameterEditor(workspace,
                                     static_cast<int>(placeOf(instrument->parameters, target.parameter->id)));
    form->setFixedWidth(scaled(280));
    form->load();
    QObject::connect(&workspace.document, &Document::changed, form, &Form::load);
    open->column()->addWidget(form);
    open->openAt(rail, rail.endRect(true).toAlignedRect());
}

}  // namespace mellow::app
