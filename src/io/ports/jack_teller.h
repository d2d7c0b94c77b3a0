// Says things to JACK's store of metadata aside, so that nobody waits for it.
//
// The store is a database in shared memory, and a program that is killed while it writes there takes the lock
// along: whoever asks next waits for ever, in whichever program. And JACK's library lets one thread at a time
// speak for a client. So what is to be said is said by a thread of its own, with a client of its own that has
// no ports and is gone again at once; of a store that answers never, only that thread knows. What is said of
// a port or a client the server forgets with it.
#pragma once

#include <jack/jack.h>

#include <chrono>
#include <string>

namespace mellow::io {

/// A client of this program is there, at a server (empty: the default one), and has the program's icon.
void introduce(jack_client_t* client, const std::string& server);

/// Has the store say of something (a port, a client) what a key means. value: empty: nothing any more.
void tell(jack_client_t* client, jack_uuid_t subject, const char* key, const std::string& value,
          const char* type);

/// Waits until all has been said, or for so long: who is about to end must not be ended in the middle of it.
void awaitTold(std::chrono::milliseconds longest);

}  // namespace mellow::io
