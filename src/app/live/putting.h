// Targets put to rest, or to drawn values, from the window: undone like any edit, by sending what was there
// before.
#pragma once

#include <QObject>

#include "app/document/document.h"
#include "app/document/selection.h"
#include "app/live/live.h"
#include "core/placing/placing.h"

namespace mellow::app {

/// How much of the ensemble is meant.
enum class DrawScope { selected, instrument, everything };

/// What a selection and a scope name.
Whose whoseOf(const Selected& selected, DrawScope scope);

class Putting : public QObject {
    Q_OBJECT

 public:
    Putting(Document& document, Live& live, QObject* parent = nullptr);

    /// How many targets were sent; none: there is nothing to send, or all of it is locked.
    std::size_t rest(const Whose& whose);
    std::size_t draw(const Whose& whose, std::uint64_t seed);

 private:
    std::size_t put(const QString& text, const Placements& placements, const Placements& resting);

    Document& document_;
    Live& live_;
};

}  // namespace mellow::app
