#include "app/acts/details/port_offers.h"

#include <QAbstractItemView>
#include <QAction>
#include <QCompleter>
#include <QEvent>
#include <QKeyEvent>
#include <QPainter>
#include <QStringListModel>
#include <algorithm>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "core/model/fresh_name.h"

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
        completer->popup()->setObjectName(QStringLiteral("offers"));
        field_.installEventFilter(this);
        list_ = field_.addAction(QIcon(), QLineEdit::TrailingPosition);
        list_->setToolTip(Form::tr("What is there"));
        showArrow();
        connect(list_, &QAction::triggered, this, &Filler::offerAll);
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
        if (event->type() == QEvent::MouseButtonDblClick) offerAll();
        if (event->type() == QEvent::StyleChange) showArrow();
        const bool asks = event->type() == QEvent::KeyPress &&
                          static_cast<QKeyEvent*>(event)->key() == Qt::Key_Down &&
                          !field_.completer()->popup()->isVisible();
        if (asks) offerAll();
        return asks || QObject::eventFilter(watched, event);
    }

 private:
    void showArrow() {
        // As large as that of a list, and as near the edge as the place lets it that a field has for a mark.
        constexpr int place = 16;
        constexpr int size = 10;
        const double ratio = field_.devicePixelRatioF();
        QPixmap mark(QSize(place, place) * ratio);
        mark.setDevicePixelRatio(ratio);
        mark.fill(Qt::transparent);
        QPainter painter(&mark);
        QIcon(QStringLiteral(":/icons/arrow-%1.svg").arg(theme().name.toLower()))
            .paint(&painter, QRect(place - size, (place - size) / 2, size, size));
        painter.end();
        list_->setIcon(QIcon(mark));
    }
    void offerAll() {
        field_.setFocus();
        names_.setStringList(portNames(document_, live_, input_));
        field_.completer()->setCompletionPrefix({});
        field_.completer()->complete();
    }

    QLineEdit& field_;
    QAction* list_ = nullptr;
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
    for (const auto& [system, others] : live.ports().others()) {
        for (const std::string& name : input ? others.inputs : others.outputs) names << toQt(name);
    }
    names.removeDuplicates();
    return names;
}

namespace {

/// "synth" of "synth:midi in", where it is the only one of that program; "midi in" elsewhere.
std::string shortNameOf(const std::string& theirs, const std::vector<std::string>& all) {
    const std::size_t colon = theirs.find(':');
    if (colon == std::string::npos || colon == 0 || colon + 1 == theirs.size()) return theirs;
    const auto ofThatProgram = std::count_if(all.begin(), all.end(), [&](const std::string& each) {
        return each.compare(0, colon + 1, theirs, 0, colon + 1) == 0;
    });
    return ofThatProgram == 1 ? theirs.substr(0, colon) : theirs.substr(colon + 1);
}

}  // namespace

PortChoice portFor(const std::string& typed, const Live& live, const Ensemble& ensemble, bool input) {
    const io::PortNames wishes = io::wishesOf(ensemble);
    const std::vector<std::string>& ours = input ? wishes.inputs : wishes.outputs;
    const auto isOurs = [&ours](const std::string& name) {
        return std::find(ours.begin(), ours.end(), name) != ours.end();
    };
    if (isOurs(typed)) return {typed, std::nullopt};
    for (const auto& [system, others] : live.ports().others()) {
        // The sequencer's are what their names say.
        if (system != "JACK") continue;
        const std::vector<std::string>& there = input ? others.inputs : others.outputs;
        if (std::find(there.begin(), there.end(), typed) == there.end()) continue;
        for (const io::Wire& wire : live.ports().wires()) {
            if (wire.input == input && wire.theirs == typed && isOurs(wire.ours))
                return {wire.ours, std::nullopt};
        }
        const std::string name = freshName(shortNameOf(typed, there), isOurs);
        return {name, io::Wire{name, typed, input, system}};
    }
    return {typed, std::nullopt};
}

QLineEdit* portField(Form& form, const Workspace& workspace, const QString& label, bool input,
                     const std::function<QString(const Ensemble&)>& read,
                     std::function<void(Ensemble&, const std::string&)> write) {
    Live& live = workspace.live;
    QLineEdit* field =
        form.text(label, read, [&live, input, write = std::move(write)](Ensemble& e, const QString& typed) {
            const PortChoice choice = portFor(typed.toStdString(), live, e, input);
            write(e, choice.name);
            // Ours is there once the edit is played.
            if (choice.wire)
                QMetaObject::invokeMethod(
                    &live, [&live, wire = *choice.wire] { live.ports().connectPorts(wire); },
                    Qt::QueuedConnection);
        });
    new Filler(*field, workspace, input);
    return field;
}

}  // namespace mellow::app
