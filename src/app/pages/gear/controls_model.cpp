// A control is one of a controller of the document, or one that was merely heard; both are told by the
// message.
#include "app/pages/gear/controls_model.h"

#include <algorithm>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/gear/port_cards.h"
#include "core/assignments/users.h"
#include "core/describe/heard.h"
#include "core/describe/sentence.h"
#include "core/learning/heard_as.h"
#include "core/model/resolve.h"

namespace mellow::app {

ControlsModel::ControlsModel(const Document& document, const PortActivity& activity, QObject* parent)
    : CellModel(parent), document_(document), activity_(activity) {
    reshape();
}

void ControlsModel::show(const PortName& port) {
    port_ = port;
    rows_ = rows();
    reshape();
}

void ControlsModel::refresh() {
    std::vector<Row> fresh = rows();
    if (fresh == rows_) return;
    rows_ = std::move(fresh);
    follow();
}

QString ControlsModel::usersOf(const midi::HeardControl& control) const {
    const Ensemble& ensemble = document_.ensemble();
    std::vector<User> all = mellow::usersOf(ensemble, [&](const Instrument* owner, const Source& source) {
        return isHeardFrom(ensemble, owner, source, port_.name) && isHeardAs(source, control);
    });
    std::stable_partition(all.begin(), all.end(),
                          [](const User& each) { return each.instrument != nullptr; });
    QStringList users;
    for (const User& each : all) users << nameToShow(nameOf(*each.chain));
    constexpr qsizetype shown = 2;
    if (users.isEmpty()) return tr("passes");
    const qsizetype more = users.size() - shown;
    return users.mid(0, shown).join(QStringLiteral(", ")) +
           (more > 0 ? QStringLiteral(", ") + tr("%n more", nullptr, static_cast<int>(more)) : QString());
}

/// Of what was sent: the parameter and whose it is.
ControlsModel::Row ControlsModel::sentRow(const midi::HeardControl& control) const {
    const SentAs sent = sentAs(document_.ensemble(), port_.name, control);
    const QString plain = toQt(describe::controlName(control));
    return {sent.parameter != nullptr ? nameToShow(nameOf(*sent.parameter)) : plain,
            plain,
            QString::number(control.key.channel + 1),
            toQt(describe::shapeName(control)),
            QStringLiteral("%1–%2").arg(control.low).arg(control.high),
            QString::number(control.value),
            sent.instrument != nullptr ? nameToShow(nameOf(*sent.instrument)) : QString()};
}

std::vector<ControlsModel::Row> ControlsModel::rows() const {
    std::vector<Row> all;
    const PortActivity::Port* heard = activity_.find(port_);
    const auto nameIn = [this](const midi::HeardControl& control) {
        for (const Controller& controller : document_.ensemble().controllers) {
            if (controller.port != port_.name) continue;
            for (const ControllerControl& known : controller.controls) {
                if (isHeardAs(sourceOf(known.message), control)) return nameToShow(nameOf(known));
            }
        }
        return toQt(describe::controlName(control));
    };
    if (heard != nullptr) {
        for (const auto& [key, control] : heard->shapes.all()) {
            if (!port_.input) {
                all.push_back(sentRow(control));
                continue;
            }
            all.push_back({nameIn(control), toQt(describe::controlName(control)),
                           QString::number(key.channel + 1), toQt(describe::shapeName(control)),
                           QStringLiteral("%1–%2").arg(control.low).arg(control.high),
                           QString::number(control.value), usersOf(control)});
        }
    }
    // What the document knows and nobody has moved yet.
    for (const Controller& controller : document_.ensemble().controllers) {
        if (!port_.input || controller.port != port_.name) continue;
        for (const ControllerControl& known : controller.controls) {
            const QString title = nameToShow(nameOf(known));
            if (std::any_of(all.begin(), all.end(), [&](const Row& row) { return row[0] == title; }))
                continue;
            all.push_back(
                {title, toQt(describe::targetMessage(known.message)), {}, tr("not moved yet"), {}, {}, {}});
        }
    }
    return all;
}

QVariant ControlsModel::cell(int row, int column, int role) const {
    if (role == Qt::DisplayRole)
        return rows_[static_cast<std::size_t>(row)][static_cast<std::size_t>(column)];
    const bool number = column == message || column == travel || column == now;
    if (role == Qt::FontRole && number) return numberFont();
    if (role == Qt::ForegroundRole && column == now) return port_.input ? theme().honey : theme().mint;
    return {};
}

std::vector<CellModel::Column> ControlsModel::cellColumns() const {
    return {{tr("Control")},
            {tr("Message")},
            {tr("Channel")},
            {tr("Detail")},
            {tr("Travel so far")},
            {tr("Now")},
            {port_.input ? tr("Used by") : tr("Instrument")}};
}

}  // namespace mellow::app
