// Earlier versions of the document: when each was saved, and what the one after it changed.
#pragma once

#include <QDialog>
#include <QListWidget>
#include <QPushButton>
#include <optional>

#include "app/document/document.h"
#include "core/files/sidecars.h"

namespace mellow::app {

class VersionsDialog : public QDialog {
    Q_OBJECT

 public:
    explicit VersionsDialog(Document& document, QWidget* parent = nullptr);

 private:
    void fill();
    void show(int row);
    void goBack();

    struct Entry {
        files::Version version;
        std::optional<Ensemble> ensemble;  ///< nothing where it cannot be read
    };

    Document& document_;
    std::vector<Entry> entries_;
    QListWidget* list_;
    QListWidget* differences_;
    QPushButton* back_;
};

}  // namespace mellow::app
