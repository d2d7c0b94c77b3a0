// The list of pages. A new one is a folder of app/pages, its alternative of Address, and a row here.
#include <array>

#include "app/pages/balance/balance_page.h"
#include "app/pages/chains/chains_page.h"
#include "app/pages/desk/desk_page.h"
#include "app/pages/gear/gear_page.h"
#include "app/pages/page.h"
#include "app/pages/sheet/sheet_page.h"
#include "app/pages/takes/takes_page.h"

namespace mellow::app {

namespace {

template<class Made>
Page* make(Workspace& workspace) {
    return new Made(workspace);
}

template<class OnPage>
Address addressOn() {
    return OnPage{};
}

}  // namespace

std::span<const PageRow> pageRows() {
    static constexpr std::array rows{
        PageRow{"chains", [] { return ChainsPage::tr("Chains"); }, make<ChainsPage>, addressOn<Selected>},
        PageRow{"desk", [] { return DeskPageView::tr("Desk"); }, make<DeskPageView>, addressOn<DeskPlace>},
        PageRow{"takes", [] { return TakesPage::tr("Takes"); }, make<TakesPage>, addressOn<TakePlace>},
        PageRow{"gear", [] { return GearPage::tr("Gear"); }, make<GearPage>, addressOn<GearPlace>},
        PageRow{"sheet", [] { return SheetPage::tr("Sheet"); }, make<SheetPage>, addressOn<SheetPlace>},
        PageRow{"balance", [] { return BalancePage::tr("Balance"); }, make<BalancePage>,
                addressOn<BalancePlace>},
    };
    return rows;
}

}  // namespace mellow::app
