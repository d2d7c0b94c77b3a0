// The workspace: what pages share, as one bundle. A page is made with it and needs nothing else of the
// window.
#pragma once

#include <functional>

#include "app/acts/chain_actions.h"
#include "app/acts/learn.h"
#include "app/acts/played_reach.h"
#include "app/document/document.h"
#include "app/document/selection.h"
#include "app/live/live.h"
#include "app/live/touched.h"

namespace mellow::app {

class Beside;
class CurveStore;
class Reuse;
class TakeStore;
class TakeWork;

struct Workspace {
    Document& document;
    Selection& selection;
    Live& live;
    ChainActions& actions;  ///< what can be done to instruments, chains and their parts
    Learn& learn;           ///< learning a source by moving a control
    PlayedReach& reach;     ///< setting a reach by playing
    Touched& touched;       ///< the parameter that was touched last
    Reuse& reuse;           ///< copying, giving, keeping and swapping
    TakeStore& takeFiles;   ///< where takes are
    CurveStore& curves;     ///< where measurements are
    TakeWork& takes;        ///< the take in hand: what is chosen of it, playing and recording it
    /// Tells the person something that cannot be left unsaid.
    std::function<void(const QString& sentence)> tell;
    /// The same of what is of use for the moment only: it goes when another page is shown.
    std::function<void(const QString& sentence)> hint;
    /// What lies in files beside the document goes along from now on when it is saved; it must outlive the
    /// window's last save.
    std::function<void(Beside& beside)> keepBeside;
    /// Selects what an address names, on the page that can show it.
    std::function<void(const Address& address)> show;
};

}  // namespace mellow::app
