// Why a chain does not speak right now, said where one looks for it.
#pragma once

#include <QString>

#include "app/document/document.h"
#include "app/document/selection.h"
#include "app/live/live.h"

namespace mellow::app {

/// One sentence, or nothing where the chain of a place speaks and is heard.
QString whyQuiet(const Document& document, const Live& live, const Selected& place);

}  // namespace mellow::app
