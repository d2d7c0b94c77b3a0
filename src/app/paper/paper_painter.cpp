// Laying out is done twice, the first time without painting, to know how many pages there will be.
#include "app/paper/paper_painter.h"

#include <QBuffer>
#include <QFontMetricsF>
#include <QHash>
#include <QPainter>
#include <QPdfWriter>
#include <QTextLayout>
#include <algorithm>
#include <memory>

namespace mellow::app {

namespace {

constexpr int dotsPerInch = 144;
constexpr double marginMm = 15;
constexpr int boxesAcross = 3;
constexpr std::size_t mostBoxLines = 22;
const QColor ink(0x1c, 0x1c, 0x1c);
const QColor grey(0x5a, 0x5a, 0x5a);
const QColor hairline(0xb4, 0xb4, 0xb4);

QString toText(const std::string& text) {
    return QString::fromStdString(text);
}

QFont fontOf(double points, QFont::Weight weight = QFont::Normal) {
    QFont font(QStringLiteral("Manrope"));
    font.setStyleHint(QFont::SansSerif);
    font.setPointSizeF(points);
    font.setWeight(weight);
    // Letters that stand apart are never joined to one sign, and so can be searched for and copied.
    constexpr double apart = 0.06;
    font.setLetterSpacing(QFont::AbsoluteSpacing, apart);
    return font;
}

/// Words of one font, measured on the device; widths are remembered, since most words come again.
class Words {
 public:
    Words(const QFont& font, QPaintDevice& device)
        : font_(font, &device), metrics_(font_, &device), device_(&device) {}

    [[nodiscard]] const QFont& font() const { return font_; }
    [[nodiscard]] double lineHeight() const { return metrics_.height(); }
    double width(const QString& text) {
        const auto found = widths_.constFind(text);
        if (found != widths_.cend()) return *found;
        return *widths_.insert(text, metrics_.horizontalAdvance(text));
    }
    double height(const QString& text, double within) {
        return width(text) <= within ? lineHeight() : laidOut(text, within)->boundingRect().height();
    }
    /// Broken between words, and within one only where it is longer than a line.
    std::unique_ptr<QTextLayout> laidOut(const QString& text, double within) {
        auto layout = std::make_unique<QTextLayout>(text, font_, device_);
        QTextOption option;
        option.setWrapMode(QTextOption::WrapAtWordBoundaryOrAnywhere);
        layout->setTextOption(option);
        layout->beginLayout();
        for (double y = 0;; y += lineHeight()) {
            QTextLine line = layout->createLine();
            if (!line.isValid()) break;
            line.setLineWidth(within);
            line.setPosition({0, y});
        }
        layout->endLayout();
        return layout;
    }

 private:
    QFont font_;
    QFontMetricsF metrics_;
    QPaintDevice* device_;
    QHash<QString, double> widths_;
};

class Layout {
 public:
    Layout(QPagedPaintDevice& device, const sheet::Paper& paper)
        : device_(device),
          paper_(paper),
          title_(fontOf(20, QFont::Bold), device),
          chapter_(fontOf(14, QFont::Bold), device),
          section_(fontOf(10.5, QFont::Bold), device),
          body_(fontOf(8.5), device),
          strong_(fontOf(8.5, QFont::DemiBold), device),
          small_(fontOf(7.5), device),
          page_(QPointF(0, 0), QSizeF(device.width(), device.height())),
          unit_(device.logicalDpiY() / 72.0) {
        bottom_ = page_.bottom() - 3 * small_.lineHeight();
        for (const sheet::Chapter& chapter : paper.chapters) steps_ += chapter.sections.size();
    }

    /// painter: nullptr only counts pages. False when it was left.
    bool run(QPainter* painter, const PaperProgress& progress, double from, double to) {
        painter_ = painter;
        pages_ = 1;
        y_ = page_.top();
        again_ = {};
        text(title_, toText(paper_.title.empty() ? "Ensemble" : paper_.title), page_.left(), page_.width(),
             ink);
        if (!paper_.subtitle.empty()) text(body_, toText(paper_.subtitle), page_.left(), page_.width(), grey);
        std::size_t done = 0;
        for (const sheet::Chapter& chapter : paper_.chapters) {
            chapterTitle(chapter);
            for (const sheet::PaperSection& section : chapter.sections) {
                this->section(section);
                ++done;
                const double share =
                    steps_ == 0 ? 1 : static_cast<double>(done) / static_cast<double>(steps_);
                if (progress && !progress(from + (to - from) * share)) return false;
            }
        }
        foot();
        total_ = pages_;
        return true;
    }

 private:
    [[nodiscard]] double points(double count) const { return count * unit_; }

    /// Writes a text below what is there.
    void text(Words& words, const QString& said, double x, double width, const QColor& colour) {
        const double height = words.height(said, width);
        draw(words, said, QRectF(x, y_, width, height), colour);
        y_ += height;
    }
    void draw(Words& words, const QString& said, const QRectF& where, const QColor& colour) {
        if (painter_ == nullptr) return;
        painter_->setFont(words.font());
        painter_->setPen(colour);
        if (words.width(said) <= where.width()) {
            painter_->drawText(where, Qt::AlignLeft | Qt::AlignTop | Qt::TextDontClip, said);
        } else {
            words.laidOut(said, where.width())->draw(painter_, where.topLeft());
        }
    }
    void line(double y, const QColor& colour, double thick) {
        if (painter_ == nullptr) return;
        painter_->setPen(QPen(colour, points(thick)));
        painter_->drawLine(QPointF(page_.left(), y), QPointF(page_.right(), y));
    }

    void foot() {
        if (painter_ == nullptr) return;
        painter_->setFont(small_.font());
        painter_->setPen(grey);
        const QRectF where(page_.left(), page_.bottom() - small_.lineHeight(), page_.width(),
                           small_.lineHeight());
        painter_->drawText(where, Qt::AlignLeft, toText(paper_.title));
        painter_->drawText(where, Qt::AlignRight,
                           QStringLiteral("%1 / %2").arg(pages_).arg(std::max(pages_, total_)));
    }
    void newPage() {
        foot();
        ++pages_;
        if (painter_ != nullptr) device_.newPage();
        y_ = page_.top();
        // What goes on says of what it is.
        if (!again_.isEmpty()) {
            text(section_, again_, page_.left(), page_.width(), grey);
            y_ += points(3);
        }
    }
    /// Room for this much on the page, or else the next one. True when it is another page.
    bool need(double height) {
        if (y_ + height <= bottom_ || y_ <= page_.top() + points(30)) return false;
        newPage();
        return true;
    }

    void chapterTitle(const sheet::Chapter& chapter) {
        again_.clear();
        y_ += points(16);
        need(chapter_.lineHeight() + points(90));
        text(chapter_, toText(chapter.title), page_.left(), page_.width(), ink);
        y_ += points(2);
        line(y_, ink, 1);
        y_ += points(4);
    }

    void section(const sheet::PaperSection& section) {
        again_.clear();
        y_ += points(8);
        need(section_.lineHeight() + body_.lineHeight() + points(46));
        text(section_, toText(section.title), page_.left(), page_.width(), ink);
        if (!section.caption.empty())
            text(small_, toText(section.caption), page_.left(), page_.width(), grey);
        y_ += points(3);
        again_ = toText(section.title) + QStringLiteral(" …");
        boxes(section.boxes);
        if (!section.table.heads.empty()) table(section.table);
        again_.clear();
    }

    /// A long box goes on in others.
    static std::vector<sheet::Box> parted(const std::vector<sheet::Box>& boxes) {
        std::vector<sheet::Box> all;
        for (const sheet::Box& box : boxes) {
            if (box.does.size() <= mostBoxLines) {
                all.push_back(box);
                continue;
            }
            for (std::size_t at = 0; at < box.does.size(); at += mostBoxLines) {
                sheet::Box part{box.name + (at == 0 ? "" : " …"), box.message, {}};
                const std::size_t end = std::min(box.does.size(), at + mostBoxLines);
                part.does.assign(box.does.begin() + static_cast<std::ptrdiff_t>(at),
                                 box.does.begin() + static_cast<std::ptrdiff_t>(end));
                all.push_back(std::move(part));
            }
        }
        return all;
    }

    void boxes(const std::vector<sheet::Box>& given) {
        const std::vector<sheet::Box> all = parted(given);
        const double gap = points(6);
        const double width = (page_.width() - gap * (boxesAcross - 1)) / boxesAcross;
        for (std::size_t i = 0; i < all.size(); i += boxesAcross) {
            const std::size_t end = std::min(all.size(), i + boxesAcross);
            double height = 0;
            for (std::size_t b = i; b < end; ++b) height = std::max(height, boxHeight(all[b], width));
            need(height);
            for (std::size_t b = i; b < end; ++b)
                drawBox(all[b],
                        QRectF(page_.left() + static_cast<double>(b - i) * (width + gap), y_, width, height));
            y_ += height + gap;
        }
    }
    double boxHeight(const sheet::Box& box, double width) {
        const double inside = width - points(12);
        double height = points(10) + strong_.height(toText(box.name), inside);
        if (!box.message.empty()) height += small_.height(toText(box.message), inside);
        for (const std::string& does : box.does) height += small_.height(toText(does), inside) + points(2);
        return box.does.empty() ? height + small_.lineHeight() : height;
    }
    void drawBox(const sheet::Box& box, const QRectF& where) {
        if (painter_ == nullptr) return;
        painter_->setPen(QPen(box.does.empty() ? hairline : ink, points(0.6)));
        painter_->drawRoundedRect(where, points(5), points(5));
        const double inside = where.width() - points(12);
        QRectF at(where.left() + points(6), where.top() + points(5), inside, 0);
        const auto write = [&](Words& words, const QString& said, const QColor& colour) {
            at.setHeight(words.height(said, inside));
            draw(words, said, at, colour);
            at.moveTop(at.bottom());
        };
        write(strong_, toText(box.name), ink);
        if (!box.message.empty()) write(small_, toText(box.message), grey);
        for (const std::string& does : box.does) {
            at.translate(0, points(2));
            write(small_, toText(does), ink);
        }
        if (box.does.empty()) write(small_, QStringLiteral("free"), grey);
    }

    /// Columns as wide as their longest word wants, as far as there is room.
    std::vector<double> widthsOf(const sheet::PaperTable& table) {
        constexpr std::size_t mostMeasured = 400;
        std::vector<double> widths;
        for (const std::string& head : table.heads) widths.push_back(small_.width(toText(head)));
        for (std::size_t r = 0; r < std::min(table.rows.size(), mostMeasured); ++r) {
            for (std::size_t c = 0; c < widths.size(); ++c)
                widths[c] = std::max(widths[c], body_.width(toText(table.rows[r][c])));
        }
        for (double& width : widths) width = std::max(width + points(8), points(34));
        // Where there is too little room the widest give way, down to one width.
        double cap = page_.width();
        const auto sum = [&] {
            double all = 0;
            for (const double width : widths) all += std::min(width, cap);
            return all;
        };
        while (sum() > page_.width() && cap > points(20)) cap -= points(2);
        constexpr double mostStretch = 1.6;
        const double stretch = std::min(page_.width() / sum(), mostStretch);
        for (double& width : widths) width = std::min(width, cap) * stretch;
        return widths;
    }

    void heads(const sheet::PaperTable& table, const std::vector<double>& widths) {
        double x = page_.left();
        for (std::size_t c = 0; c < widths.size(); ++c) {
            draw(small_, toText(table.heads[c]), QRectF(x, y_, widths[c], small_.lineHeight()), grey);
            x += widths[c];
        }
        y_ += small_.lineHeight() + points(1);
        line(y_, grey, 0.5);
        y_ += points(2);
    }

    void table(const sheet::PaperTable& table) {
        const std::vector<double> widths = widthsOf(table);
        need(small_.lineHeight() + 2 * body_.lineHeight());
        heads(table, widths);
        for (const auto& row : table.rows) {
            double height = body_.lineHeight();
            for (std::size_t c = 0; c < widths.size(); ++c)
                height = std::max(height, body_.height(toText(row[c]), widths[c] - points(6)));
            if (need(height + points(4))) heads(table, widths);
            double x = page_.left();
            for (std::size_t c = 0; c < widths.size(); ++c) {
                draw(body_, toText(row[c]), QRectF(x, y_, widths[c] - points(6), height), ink);
                x += widths[c];
            }
            y_ += height + points(2);
            line(y_, hairline, 0.35);
            y_ += points(2);
        }
    }

    QPagedPaintDevice& device_;
    const sheet::Paper& paper_;
    Words title_, chapter_, section_, body_, strong_, small_;
    QRectF page_;
    double unit_;
    double bottom_ = 0;
    QPainter* painter_ = nullptr;
    double y_ = 0;
    int pages_ = 1;
    int total_ = 0;
    std::size_t steps_ = 0;
    QString again_;  ///< the section that goes on where a page ends
};

}  // namespace

bool paintPaper(QPagedPaintDevice& device, const sheet::Paper& paper, const PaperProgress& progress) {
    QPainter painter;
    if (!painter.begin(&device)) return false;
    constexpr double half = 0.5;
    Layout layout(device, paper);
    return layout.run(nullptr, progress, 0, half) && layout.run(&painter, progress, half, 1);
}

QByteArray pdfOf(const sheet::Paper& paper, QPageSize::PageSizeId size, const PaperProgress& progress) {
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    QPdfWriter writer(&buffer);
    writer.setTitle(QString::fromStdString(paper.title));
    writer.setCreator(QStringLiteral("Mellow Lever"));
    writer.setResolution(dotsPerInch);
    writer.setPageSize(QPageSize(size));
    writer.setPageMargins(QMarginsF(marginMm, marginMm, marginMm, marginMm), QPageLayout::Millimeter);
    const bool done = paintPaper(writer, paper, progress);
    buffer.close();
    return done ? bytes : QByteArray();
}

}  // namespace mellow::app
