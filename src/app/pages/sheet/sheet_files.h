// The sheet goes out as PDF, web page, spreadsheet, Markdown or onto paper, and comes back in from a
// spreadsheet.
#pragma once

#include <QObject>
#include <functional>

#include "app/acts/workspace.h"
#include "core/sheet/sheet.h"

namespace mellow::app {

class SheetFiles : public QObject {
    Q_OBJECT

 public:
    /// Asks for a file's path; empty: a person thought better of it.
    using AskPath = std::function<QString(QWidget* window, const QString& suggestion)>;

    SheetFiles(Workspace& workspace, QWidget* page);

    /// Asks where, and writes; the ending decides as what.
    void write(const sheet::Wish& wish);
    void writeTo(const QString& path, const sheet::Wish& wish);
    /// Asks how, and prints.
    void print(const sheet::Wish& wish);
    /// Asks which, reads a spreadsheet, and shows what it would change.
    void read();
    /// False when it cannot be read; that has been told.
    bool readFrom(const QString& path);
    void onAskWrite(AskPath ask) { askWrite_ = std::move(ask); }
    void onAskRead(AskPath ask) { askRead_ = std::move(ask); }

 private:
    Workspace& workspace_;
    QWidget* page_;
    AskPath askWrite_;
    AskPath askRead_;
};

}  // namespace mellow::app
