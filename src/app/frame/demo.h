// The demo that comes with the program: The Tin Observatory, with its takes.
#pragma once

#include "core/model/ensemble.h"
#include "core/result.h"

namespace mellow::app {

/// Its takes are where takes of a document that has no file are.
Result<Ensemble> demoEnsemble();

}  // namespace mellow::app
