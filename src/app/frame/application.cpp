// Told of later, when whatever was under way has been left.
#include "app/frame/application.h"

#include <QMetaObject>
#include <exception>

#include "app/ground/words.h"
#include "core/text/printable.h"

namespace mellow::app {

bool Application::notify(QObject* receiver, QEvent* event) {
    QString why;
    try {
        if (onX11_ && keys_.keeps(*receiver, *event)) return true;
        return QApplication::notify(receiver, event);
    } catch (const std::exception& error) {
        constexpr std::size_t longest = 120;
        why = toQt(text::printable(error.what(), longest));
    } catch (...) {
        why = tr("for a reason that it does not say");
    }
    const QString sentence = tr("What was just done went wrong (%1), and was given up. Your work is kept; "
                                "save it under another name to "
                                "be safe.")
                                 .arg(why);
    QMetaObject::invokeMethod(
        this, [this, sentence] { emit gaveUp(sentence); }, Qt::QueuedConnection);
    return false;
}

}  // namespace mellow::app
