// What can be done to many rows at once, as a table: the button, and for each way of doing it what is asked.
#pragma once

#include <QString>
#include <QStringList>
#include <QVariant>
#include <functional>
#include <optional>
#include <span>
#include <vector>

#include "core/sheet/bulk.h"

namespace mellow::app {

/// One thing that is asked before an edit can be made.
struct BulkAsk {
    enum class Type { number, text, choice, several };
    QString label;
    Type type = Type::text;
    double start = 0, low = 0, high = 0, step = 1;  ///< of a number
    bool whole = false;
    QString unit = {};         ///< of a number
    QString text = {};         ///< what a text is at first
    QStringList choices = {};  ///< a choice is its place, several are the places of those that are ticked
    int chosen = 0;
};

/// A way of changing the rows. make: nothing while the answers make no sense.
struct BulkAct {
    QString title;
    std::vector<BulkAsk> asks;
    std::function<std::optional<sheet::Bulk>(const QVariantList& answers)> make;
};

struct BulkKind {
    const char* id;
    QString (*title)();
    QString (*tip)();
    std::vector<BulkAct> (*acts)(const Ensemble& ensemble, const std::vector<AssignmentId>& rows);
};

std::span<const BulkKind> bulkKinds();

}  // namespace mellow::app
