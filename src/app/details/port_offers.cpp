#include "app/details/port_offers.h"

#include <QCompleter>
#include <QEvent>
#include <QStringListModel>

#include "app/words.h"

namespace mellow::app {

namespace {

/// Fills the list when the field gets the focus, since ports come and go.
class Filler : public QObject {
 public:
    Filler(QLineEdit& field, const Workspace& workspace, bool input)
        : QObject(&field),
          field_(field),
          document_(workspace.document),
          live_(workspace.live),
          input_(input) {
        auto* completer = new QCompleter(&names_, this);
        completer->setCaseSensitivity(Qt::CaseInsensitive);
        completer->setFilterMode(Qt::MatchContains);
        completer->setCompletionMode(QCompleter::PopupCompletion);
        field_.setCompleter(completer);
        field_.installEventFilter(this);
        // What is chosen is as good as typed, and needs no Enter. The field takes the text in the same
        // signal.
        connect(
            completer, qOverload<const QString&>(&QCompleter::activated), this,
            [this] {
                field_.setModified(true);
                emit field_.editingFinished();
            },
            Qt::QueuedConnection);
    }

 protected:
    bool eventFilter(QObject* watched, QEvent* event) override {
        if (event->type() == QEvent::FocusIn) names_.setStringList(portNames(document_, live_, input_));
        // A second click shows all of them.
        const bool asks = event->type() == QEvent::MouseButtonDblClick;
        if (asks) {
            field_.completer()->setCompletionPrefix({});
            field_.completer()->complete();
        }
        return QObject::eventFilter(watched, event);
    }

 private:
    QLineEdit& field_;
    const Document& document_;
    const Live& live_;
    bool input_;
    QStringListModel names_;
};

}  // namespace

QStringList portNames(const Document& document, const Live& live, bool input) {
    QStringList names;
    if (input) names << toQt(anyPort);
    names << toQt(input ? io::practiceKeysPort : io::practiceRackPort);
    const io::PortNames wishes = io::wishesOf(document.ensemble());
    for (const std::string& name : input ? wishes.inputs : wishes.outputs) names << toQt(name);
    for (const auto& [system, others] : live.others()) {
        // JACK's ports are connected to; the sequencer's are what their names say.
        if (system == "JACK") continue;
        for (const std::string& name : input ? others.inputs : others.outputs) names << toQt(name);
    }
    names.removeDuplicates();
    return names;
}

void offerPorts(QLineEdit& field, const Workspace& workspace, bool input) {
    new Filler(field, workspace, input);
}

}  // namespace mellow::app
