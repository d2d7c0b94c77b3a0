#include "app/frame/demo.h"

#include <QFile>
#include <utility>

#include "app/ground/words.h"
#include "app/takes/take_store.h"
#include "core/store/ensemble_json.h"

namespace mellow::app {

namespace {

QByteArray resource(const QString& path) {
    QFile file(path);
    return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
}

midi::Bytes bytesOf(const QByteArray& array) {
    return {reinterpret_cast<const std::uint8_t*>(array.constData()), static_cast<std::size_t>(array.size())};
}

}  // namespace

Result<Ensemble> demoEnsemble() {
    const QByteArray text = resource(QStringLiteral(":/demo/tin-observatory.lever"));
    auto ensemble = store::parseEnsemble({text.constData(), static_cast<std::size_t>(text.size())});
    if (!ensemble) return ensemble;
    for (const KeptTake& kept : std::as_const(ensemble->takes)) {
        const QByteArray file = resource(QStringLiteral(":/demo/tin-observatory.takes/") + toQt(kept.file));
        TakeStore::bring(kept.file, bytesOf(file));
    }
    return ensemble;
}

}  // namespace mellow::app
