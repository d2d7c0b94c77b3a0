// A MIDI file becomes a take: which of its tracks are hands, and through which port each of them plays.
#pragma once

#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>

#include "app/acts/workspace.h"
#include "core/smf/file.h"

namespace mellow::app {

class ImportDialog : public QDialog {
    Q_OBJECT

 public:
    ImportDialog(Workspace& workspace, smf::File file, const QString& name, QWidget* window);

    /// What would become of the file as the table says now.
    [[nodiscard]] Take take() const;
    [[nodiscard]] QString name() const { return name_->text().trimmed(); }
    [[nodiscard]] QTableWidget& table() { return *table_; }
    /// Has a track play through a port; empty: it is left out.
    void setPort(int row, const std::string& port);

 private:
    void fill();
    [[nodiscard]] QStringList offers() const;

    Workspace& workspace_;
    smf::File file_;
    std::vector<std::size_t> tracks_;  ///< of the file, by row
    QLineEdit* name_;
    QTableWidget* table_;
    QPushButton* import_;
};

}  // namespace mellow::app
