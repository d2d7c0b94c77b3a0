// Profiles go out as tables or MIDI name documents, and come back in.
#pragma once

#include <QObject>
#include <string>

#include "app/acts/reuse/profile_model.h"
#include "app/acts/workspace.h"

namespace mellow::app {

class ProfileFiles : public QObject {
    Q_OBJECT

 public:
    /// model: the profile that goes out, and into which tables come. window: above which is asked.
    ProfileFiles(Workspace& workspace, ProfileModel& model, QWidget* window);

    /// Asks which, and reads it.
    void read();
    void readFrom(const QString& path);
    /// Asks where, and writes; the ending decides as what.
    void write(const QString& suggestion);
    void writeTo(const QString& path);
    /// Shows what of a table is understood, and takes it in as a person says.
    void takeIn(const QString& title, profiles::Table table);

 signals:
    /// Another profile came, which is to be shown.
    void brought(const ProfilePlace& place);

 private:
    void readNames(const QString& path, const std::string& text);
    [[nodiscard]] bool hasOwner() const;
    void tellAll(const std::vector<std::string>& remarks);

    Workspace& workspace_;
    ProfileModel& model_;
    QWidget* window_;
};

}  // namespace mellow::app
