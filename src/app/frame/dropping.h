// What is dropped on the window: ensembles are opened, parts are put where the selection is, and whatever
// else a page can read goes to that page.
#pragma once

#include <QMimeData>
#include <QStackedWidget>
#include <optional>

#include "app/acts/workspace.h"
#include "app/document/files.h"
#include "core/model/part.h"

namespace mellow::app {

class Dropping : public QObject {
    Q_OBJECT

 public:
    Dropping(Workspace& workspace, Files& files, QStackedWidget& pages, QObject* parent);

    [[nodiscard]] static bool canTake(const QMimeData& data);
    void take(const QMimeData& data);
    /// Opens an ensemble, or shows whatever else it is on the page that can read it.
    void takeFile(const QString& path);
    /// What a file of the library holds; nothing when it cannot be read, which has been told.
    std::optional<mellow::Part> readPart(const QString& path);

 signals:
    /// The page has something new to be seen.
    void pageAsked(int page);

 private:
    bool takenByPage(const QString& path);

    Workspace& workspace_;
    Files& files_;
    QStackedWidget& pages_;
};

}  // namespace mellow::app
