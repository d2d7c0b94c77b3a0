// How the ports are: a dot and a word or two; the rest is said in sentences by what opens at a click.
#pragma once

#include <QLabel>
#include <QPainter>
#include <QPushButton>

#include "app/ground/theme.h"
#include "app/widgets/popover.h"

namespace mellow::app {

class PortsPill : public QPushButton {
    Q_OBJECT

 public:
    enum class State { none, well, ill };

    explicit PortsPill(QWidget* parent = nullptr) : QPushButton(parent) {
        setObjectName(QStringLiteral("ports"));
        setProperty("role", "pill");
        connect(this, &QPushButton::clicked, this, &PortsPill::open);
    }

    /// word: one or two; sentences: all that there is to say.
    void say(State state, const QString& word, const QStringList& sentences) {
        state_ = state;
        word_ = word;
        sentences_ = sentences;
        setAccessibleName(tr("Ports: %1").arg(word));
        setToolTip(sentences.join(QStringLiteral(".\n")));
        refresh();
    }
    /// Where there is little room, the dot is left.
    void showWord(bool shown) {
        isShort_ = !shown;
        refresh();
    }
    [[nodiscard]] const QString& word() const { return word_; }
    [[nodiscard]] QString sentences() const { return sentences_.join(QStringLiteral(" · ")); }

 signals:
    void portsAsked();

 protected:
    void changeEvent(QEvent* event) override {
        QPushButton::changeEvent(event);
        if (event->type() == QEvent::StyleChange) setIcon(dot());
    }

 private:
    void refresh() {
        setText(isShort_ ? QString() : word_);
        setIcon(dot());
    }

    [[nodiscard]] QIcon dot() const {
        const int size = scaled(9);
        QPixmap picture(QSize(size, size) * devicePixelRatioF());
        picture.setDevicePixelRatio(devicePixelRatioF());
        picture.fill(Qt::transparent);
        QPainter painter(&picture);
        painter.setRenderHint(QPainter::Antialiasing);
        const QColor color = state_ == State::well  ? theme().sky
                             : state_ == State::ill ? theme().clay
                                                    : theme().dim;
        painter.setPen(Qt::NoPen);
        painter.setBrush(color);
        painter.drawEllipse(QRectF(1, 1, size - 2.0, size - 2.0));
        return picture;
    }

    void open() {
        auto* about = new Popover(this);
        constexpr int wide = 320;
        for (const QString& sentence : sentences_) {
            auto* line = new QLabel(sentence + QLatin1Char('.'));
            line->setWordWrap(true);
            line->setFixedWidth(scaled(wide));
            line->setTextInteractionFlags(Qt::TextSelectableByMouse);
            about->column()->addWidget(line);
        }
        auto* gear = new QPushButton(tr("Ports and connections, on Gear"));
        gear->setObjectName(QStringLiteral("portsOnGear"));
        connect(gear, &QPushButton::clicked, this, [this, about] {
            about->close();
            emit portsAsked();
        });
        about->column()->addWidget(gear);
        about->openAt(*this, rect());
    }

    State state_ = State::none;
    QString word_;
    QStringList sentences_;
    bool isShort_ = false;
};

}  // namespace mellow::app
