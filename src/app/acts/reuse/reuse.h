// Using again what is there: copying and pasting as text, giving a chain to other instruments, keeping parts
// in the library and taking them from it, swapping one half for another.
//
// Each of these is one edit of the document. Where something that is referred to is not found for certain, a
// table asks first (match_dialog.h); where all is found, nothing asks.
#pragma once

#include <QObject>

#include "app/document/curve_store.h"
#include "app/document/document.h"
#include "app/document/selection.h"
#include "core/library/shelf.h"
#include "core/model/part.h"
#include "core/profiles/columns.h"
#include "core/reuse/matching.h"

namespace mellow::app {

class Reuse : public QObject {
    Q_OBJECT

 public:
    using Tell = std::function<void(const QString&)>;
    /// window: above which questions are asked.
    Reuse(Document& document, Selection& selection, CurveStore& curves, Tell tell, QWidget* window);

    // The clipboard holds a part as text, which can be mailed as it is.
    void copy();
    void cut();
    void paste();
    /// What is selected, as a part.
    [[nodiscard]] mellow::Part selected() const;
    [[nodiscard]] std::vector<std::string> chosenChains() const;

    /// Puts a part where the selection is: instruments and controllers beside the others, chains into the
    /// selected instrument, branches and steps into the selected chain.
    void put(const mellow::Part& part);

    /// Asks for instruments, and gives them the selected chain.
    void give(QWidget* at);
    void giveTo(const std::vector<std::string>& instruments);

    /// Asks for a name and a sentence, and keeps what is selected.
    void keep();
    void keep(mellow::Part part);
    /// Lets a part be found by typing, and puts it where the selection is.
    void find(QWidget* at);

    /// Asks for an instrument of the library or of the ensemble, and has it take the selected one's place.
    void swapInstrument(QWidget* at);
    void swapInstrumentFor(const Instrument& other);
    /// The same of a controller.
    void swapController(QWidget* at, const std::string& controller);
    void swapControllerFor(const std::string& controller, const Controller& other);

 private:
    /// Of what was measured of what is taken, a part holds the whole.
    void carryCurves(mellow::Part& part);
    void takeTable(const std::string& instrument, profiles::Table table);
    void putWithInstrument(const mellow::Part& part);
    void putChains(const mellow::Part& part, const reuse::Matches& matches);
    void putBranches(const mellow::Part& part, const reuse::Matches& matches);
    void putElements(const mellow::Part& part);
    void putSteps(const mellow::Part& part);
    [[nodiscard]] std::string owner() const;

    Document& document_;
    Selection& selection_;
    CurveStore& curves_;
    Tell tell_;
    QWidget* window_;
};

}  // namespace mellow::app
