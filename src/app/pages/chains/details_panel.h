// The details of what is selected, on the right: its editor, what can be done with it, and for an instrument
// its parameters and what the practice rack has received.
#pragma once

#include <QAbstractListModel>
#include <QLabel>
#include <QListView>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

#include "app/acts/details/editors.h"
#include "app/acts/findings_view.h"
#include "app/widgets/elided_label.h"

namespace mellow::app {

/// The parameters of the selected instrument, with the newest value that the practice rack received.
class ParameterModel : public QAbstractListModel {
    Q_OBJECT

 public:
    enum Role { received = Qt::UserRole + 1, message };

    explicit ParameterModel(const Workspace& context, QObject* parent = nullptr);
    [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;

 private:
    [[nodiscard]] const Instrument* instrument() const;
    void follow();
    void refreshReceived();
    [[nodiscard]] int receivedBy(int row) const;

    Workspace context_;
    int rows_ = 0;
    std::vector<int> received_;
    std::string shown_;
};

class DetailsPanel : public QWidget {
    Q_OBJECT

 public:
    explicit DetailsPanel(const Workspace& context, QWidget* parent = nullptr);

 private:
    void follow();
    void load();
    void addFindings();
    void followFindings();
    void buildInstrument();
    void buildSource();
    void buildStep(const Step& step);
    void buildBranch();
    void addTools(const QString& thing, bool movable, bool duplicable);
    void addBranchSteps();
    void addLearn(Learn::What what);
    struct Held {
        PlayedReach::What what;
        QString text;
        QString tip;
    };
    void addHeld(const std::vector<Held>& all);
    [[nodiscard]] std::string shape() const;

    Workspace context_;
    ElidedLabel* title_;
    QLabel* place_;
    QScrollArea* scroll_;
    QWidget* content_ = nullptr;
    QVBoxLayout* column_ = nullptr;
    std::vector<Form*> forms_;
    FindingsView* findings_ = nullptr;
    int parameter_ = -1;  ///< the parameter that is open in the instrument's editor
    std::string built_;   ///< the shape of what the panel was built for
};

}  // namespace mellow::app
