// What JACK's client library asks of whoever uses it on several threads.
//
// It forgets clients of a server that is gone as soon as another client is opened in the same process, and
// must not be asked to close those any more. Clients are closed by threads that nobody waits for, since a
// server that is stopped answers never; so whoever opens one waits, on a thread of its own, until all that
// are being closed are closed.
#pragma once

namespace mellow::io {

/// One more client is being closed. Comes before anything that may open another.
void beginToLeaveJack();
/// It is closed.
void haveLeftJack();
/// Waits until no client is being closed.
void awaitLeavingJack();
/// Whether some client is being closed.
bool isLeavingJack();

}  // namespace mellow::io
