// The JSON Schema of the document, for other programs: what the reader accepts, as far as a schema can say
// it.
#pragma once

#include <string>

namespace mellow::store {

/// The text of docs/ensemble.schema.json (JSON Schema, draft 2020-12), ending in a newline.
std::string printSchema();

}  // namespace mellow::store
