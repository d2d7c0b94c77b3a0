// By what a session's practice rack is heard, once what is under way has been tended to.
#pragma once

#include <string>

#include "io/session/session.h"

namespace mellow::test {

/// A system's id; empty: by none; "closed": there is no rack yet.
inline std::string heardThrough(io::Session& session) {
    session.tend();
    return session.rack() == nullptr ? std::string("closed") : session.rack()->heardThrough();
}

}  // namespace mellow::test
