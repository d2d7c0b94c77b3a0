// A form whose fields are bound to the document.
//
// Each field is a label and two functions: one reads its value from an ensemble, one writes a new value into
// a copy of it. The form shows what is there after every change and makes an edit of what a person enters, so
// an editor is a list of fields and nothing else.
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QFormLayout>
#include <QPushButton>
#include <QWidget>
#include <functional>
#include <vector>

#include "app/document/document.h"
#include "app/widgets/number_field.h"

namespace mellow::app {

class Form : public QWidget {
    Q_OBJECT

 public:
    explicit Form(Document& document, QWidget* parent = nullptr);

    struct NumberLimits {
        double low = 0;
        double high = 127;
        double step = 1;
        bool whole = true;
        bool slider = false;
    };
    NumberField* number(const QString& label, const QString& unit, NumberLimits limits,
                        const std::function<double(const Ensemble&)>& read,
                        std::function<void(Ensemble&, double)> write);
    QLineEdit* text(const QString& label, const std::function<QString(const Ensemble&)>& read,
                    std::function<void(Ensemble&, const QString&)> write);
    /// choices: asked for on every load, since they may depend on the document.
    QComboBox* choice(const QString& label, const std::function<QStringList(const Ensemble&)>& choices,
                      const std::function<int(const Ensemble&)>& read,
                      std::function<void(Ensemble&, int)> write);
    QCheckBox* flag(const QString& label, const std::function<bool(const Ensemble&)>& read,
                    std::function<void(Ensemble&, bool)> write);
    /// A button that makes an edit, named as the edit is.
    QPushButton* act(const QString& label, const QString& tip, const QString& name,
                     std::function<void(Ensemble&)> change);
    void help(const QString& sentence);
    void section(const QString& title);
    void whole(QWidget* widget);
    /// Shows a row only when the condition holds.
    void onlyWhen(QWidget* field, std::function<bool(const Ensemble&)> condition);

    void load();

 private:
    void addRow(const QString& label, QWidget* field, QWidget* shown = nullptr);

    Document& document_;
    QFormLayout* rows_;
    std::vector<std::function<void(const Ensemble&)>> loaders_;
};

}  // namespace mellow::app
