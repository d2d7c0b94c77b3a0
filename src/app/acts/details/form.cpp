// A field's editing signal becomes Document::edit with the field's writing function; load() runs all reading
// functions with signals blocked. So a form cannot drift from the document: what it shows after an edit is
// what the document says.
#include "app/acts/details/form.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QSignalBlocker>
#include <QSlider>
#include <QVBoxLayout>
#include <cmath>

#include "app/ground/theme.h"
#include "app/widgets/short_list.h"

namespace mellow::app {

namespace {

constexpr int sliderSteps = 1000;

}  // namespace

Form::Form(Document& document, QWidget* parent)
    : QWidget(parent), document_(document), rows_(new QFormLayout(this)) {
    rows_->setContentsMargins(0, 0, 0, 0);
    rows_->setHorizontalSpacing(scaled(10));
    rows_->setVerticalSpacing(scaled(7));
    rows_->setFieldGrowthPolicy(QFormLayout::AllNonFixedFieldsGrow);
    rows_->setLabelAlignment(Qt::AlignLeft | Qt::AlignVCenter);
}

void Form::addRow(const QString& label, QWidget* field, QWidget* shown) {
    auto* name = new QLabel(label);
    name->setBuddy(field);
    field->setAccessibleName(label);
    rows_->addRow(name, shown != nullptr ? shown : field);
}

NumberField* Form::number(const QString& label, const QString& unit, NumberLimits limits,
                          const std::function<double(const Ensemble&)>& read,
                          std::function<void(Ensemble&, double)> write) {
    auto* field = new NumberField;
    field->setUnit(unit);
    field->setBounds(limits.low, limits.high, limits.step);
    field->setWhole(limits.whole);
    field->setMinimumWidth(scaled(84));
    const auto change = [this, label, write](double value, Gesture gesture) {
        document_.edit(
            tr("Change %1").arg(label.toLower()), [&](Ensemble& e) { write(e, value); }, gesture);
    };
    connect(field, &NumberField::entered, this, [change](double value) { change(value, 0); });
    addRow(label, field);
    QSlider* slider = nullptr;
    if (limits.slider) {
        slider = new QSlider(Qt::Horizontal);
        slider->setRange(0, sliderSteps);
        slider->setSingleStep(10);
        slider->setPageStep(50);
        slider->setAccessibleName(label);
        auto gesture = std::make_shared<Gesture>(0);
        connect(slider, &QSlider::sliderPressed, this, [gesture] { *gesture = Document::newGesture(); });
        connect(slider, &QSlider::valueChanged, this, [change, limits, gesture, slider](int place) {
            const double value = limits.low + (limits.high - limits.low) * place / sliderSteps;
            const double grain = limits.whole ? 1 : limits.step / 10;
            change(std::round(value / grain) * grain, slider->isSliderDown() ? *gesture : 0);
        });
        rows_->addRow(slider);
    }
    loaders_.emplace_back([=](const Ensemble& e) {
        const double value = read(e);
        field->setValue(value);
        if (slider == nullptr) return;
        const QSignalBlocker block(slider);
        slider->setValue(
            static_cast<int>(std::lround((value - limits.low) / (limits.high - limits.low) * sliderSteps)));
    });
    return field;
}

QLineEdit* Form::text(const QString& label, const std::function<QString(const Ensemble&)>& read,
                      std::function<void(Ensemble&, const QString&)> write) {
    auto* field = new QLineEdit;
    connect(field, &QLineEdit::editingFinished, this, [this, field, label, write] {
        if (!field->isModified()) return;
        field->setModified(false);
        const QString typed = field->text().trimmed();
        document_.edit(tr("Change %1").arg(label.toLower()), [&](Ensemble& e) { write(e, typed); });
    });
    addRow(label, field);
    loaders_.emplace_back([=](const Ensemble& e) {
        if (!field->isModified() && field->text() != read(e)) field->setText(read(e));
    });
    return field;
}

QComboBox* Form::choice(const QString& label, const std::function<QStringList(const Ensemble&)>& choices,
                        const std::function<int(const Ensemble&)>& read,
                        std::function<void(Ensemble&, int)> write) {
    auto* field = new ShortList(10);
    field->setMaxVisibleItems(18);
    connect(field, &QComboBox::activated, this, [this, label, write](int index) {
        document_.edit(tr("Change %1").arg(label.toLower()), [&](Ensemble& e) { write(e, index); });
    });
    addRow(label, field);
    loaders_.emplace_back([=](const Ensemble& e) {
        const QSignalBlocker block(field);
        const QStringList wanted = choices(e);
        QStringList present;
        for (int i = 0; i < field->count(); ++i) present << field->itemText(i);
        if (wanted != present) {
            field->clear();
            field->addItems(wanted);
        }
        field->setCurrentIndex(read(e));
    });
    return field;
}

QCheckBox* Form::flag(const QString& label, const std::function<bool(const Ensemble&)>& read,
                      std::function<void(Ensemble&, bool)> write) {
    auto* field = new QCheckBox(label);
    connect(field, &QCheckBox::clicked, this, [this, label, write](bool on) {
        document_.edit(tr("Change %1").arg(label.toLower()), [&](Ensemble& e) { write(e, on); });
    });
    rows_->addRow(field);
    loaders_.emplace_back([=](const Ensemble& e) {
        const QSignalBlocker block(field);
        field->setChecked(read(e));
    });
    return field;
}

QPushButton* Form::act(const QString& label, const QString& tip, const QString& name,
                       std::function<void(Ensemble&)> change) {
    auto* button = new QPushButton(label);
    button->setToolTip(tip);
    button->setObjectName(name);
    connect(button, &QPushButton::clicked, this,
            [this, tip, change = std::move(change)] { document_.edit(tip, change); });
    rows_->addRow(button);
    return button;
}

void Form::help(const QString& sentence) {
    auto* label = new QLabel(sentence);
    label->setWordWrap(true);
    label->setProperty("role", "help");
    rows_->addRow(label);
}

void Form::section(const QString& title) {
    auto* rule = new QFrame;
    rule->setObjectName(QStringLiteral("rule"));
    auto* label = new QLabel(title);
    label->setProperty("role", "section");
    rows_->addRow(rule);
    rows_->addRow(label);
}

void Form::whole(QWidget* widget) {
    rows_->addRow(widget);
}

void Form::onlyWhen(QWidget* field, std::function<bool(const Ensemble&)> condition) {
    loaders_.emplace_back([this, field, condition = std::move(condition)](const Ensemble& e) {
        const bool wanted = condition(e);
        field->setVisible(wanted);
        if (QWidget* label = rows_->labelForField(field)) label->setVisible(wanted);
    });
}

void Form::load() {
    for (const auto& loader : loaders_) loader(document_.ensemble());
}

}  // namespace mellow::app
