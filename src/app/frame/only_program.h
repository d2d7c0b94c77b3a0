// A person has one Mellow Lever open. A second start, such as a double click on an ensemble, hands what it
// was asked to the first, and is over.
//
// The two meet at a socket in the folder of what runs for this user (XDG base directories), one for each
// settings' folder and each screen. A program that does not answer is not waited for: then the second opens a
// window of its own, as if there were no first.
#pragma once

#include <QLocalServer>
#include <QObject>
#include <QStringList>

namespace mellow::app {

/// What a start asks of the program that runs already.
struct Request {
    QStringList paths;  ///< absolute
    bool demo = false;
    bool begin = false;  ///< an empty ensemble
    QString token;       ///< by which the desktop lets the window come to the front
};

class OnlyProgram : public QObject {
    Q_OBJECT

 public:
    /// Where programs of this user, with these settings, on this screen, meet. Empty: nowhere.
    [[nodiscard]] static QString meetingPlace();

    explicit OnlyProgram(QString place, QObject* parent = nullptr)
        : QObject(parent), place_(std::move(place)) {}

    /// Hands a request to the program that runs. False when none does, or it does not answer in a second.
    [[nodiscard]] bool handOver(const Request& request) const;
    /// From now on this is the program that runs.
    void beTheOne();

 signals:
    void asked(const mellow::app::Request& request);

 private:
    void hear();

    QString place_;
    QLocalServer server_;
};

}  // namespace mellow::app
