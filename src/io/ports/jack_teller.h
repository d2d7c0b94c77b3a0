// Says things to JACK's store of metadata aside, so that nobody waits for it.
//
// The store is a database in shared memory, and a program that is killed while it writes there takes the lock
// along: whoever asks next waits for ever, in whichever program. JACK's library lets one thread at a time
// speak for a client; and whoever opens another client in the same process, just as a server goes, has it
// forget those that are there, which then cannot be closed any more. So what is to be said is said by a
// helper program that is there only for that; of a store that answers never, only that helper knows. What is
// said of a port or a client the server forgets with it.
#pragma once

#include <jack/jack.h>

#include <string>

namespace mellow::io {

/// A client of this program is there, at a server (empty: the default one), and has the program's icon.
void introduce(jack_client_t* client, const std::string& server);

/// Has the store say of something (a port, a client) what a key means. value: empty: nothing any more.
void tell(jack_client_t* client, jack_uuid_t subject, const char* key, const std::string& value,
          const char* type);

}  // namespace mellow::io
