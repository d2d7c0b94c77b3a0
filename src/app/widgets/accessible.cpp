#include "app/widgets/accessible.h"

#include <QAccessible>
#include <QAccessibleWidget>
#include <QWidget>
#include <algorithm>

#include "app/widgets/few_lines.h"

namespace mellow::app {

namespace {

class SpokenWidget : public QAccessibleWidget, public QAccessibleValueInterface {
 public:
    SpokenWidget(QWidget* widget, SpokenValue& spoken)
        : QAccessibleWidget(widget, QAccessible::Slider), spoken_(spoken) {}

    void* interface_cast(QAccessible::InterfaceType type) override {
        if (type == QAccessible::ValueInterface) return static_cast<QAccessibleValueInterface*>(this);
        return QAccessibleWidget::interface_cast(type);
    }
    [[nodiscard]] QString text(QAccessible::Text what) const override {
        if (what == QAccessible::Description || what == QAccessible::Value) return spoken_.spokenWords();
        return QAccessibleWidget::text(what);
    }
    [[nodiscard]] QVariant currentValue() const override { return spoken_.spokenValue(); }
    [[nodiscard]] QVariant minimumValue() const override { return spoken_.spokenLow(); }
    [[nodiscard]] QVariant maximumValue() const override { return spoken_.spokenHigh(); }
    [[nodiscard]] QVariant minimumStepSize() const override {
        return (spoken_.spokenHigh() - spoken_.spokenLow()) / 127;
    }
    void setCurrentValue(const QVariant& value) override {
        if (spoken_.canBeSet())
            spoken_.setSpokenValue(std::clamp(value.toDouble(), spoken_.spokenLow(), spoken_.spokenHigh()));
    }

 private:
    SpokenValue& spoken_;
};

QAccessibleInterface* make(const QString&, QObject* object) {
    auto* spoken = dynamic_cast<SpokenValue*>(object);
    auto* widget = qobject_cast<QWidget*>(object);
    // What is painted as text is read as a label is.
    if (qobject_cast<FewLines*>(object) != nullptr)
        return new QAccessibleWidget(widget, QAccessible::StaticText);
    return spoken == nullptr || widget == nullptr ? nullptr : new SpokenWidget(widget, *spoken);
}

}  // namespace

void speakValues() {
    static const bool installed = [] {
        QAccessible::installFactory(make);
        return true;
    }();
    (void)installed;
}

}  // namespace mellow::app
