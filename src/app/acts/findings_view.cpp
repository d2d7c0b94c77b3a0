// Rows are built anew when other words are to be shown, and left alone otherwise, so that a button keeps the
// focus while a value is dragged. More than a handful of findings are counted, not listed.
#include "app/acts/findings_view.h"

#include <QBoxLayout>
#include <QPushButton>
#include <algorithm>

#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/widgets/flow_layout.h"

namespace mellow::app {

namespace {

constexpr std::size_t mostTroubles = 3;
constexpr std::size_t mostNotes = 1;  // where there is no trouble
constexpr std::size_t mostOfAll = 100;
constexpr std::size_t mostMends = 2;

/// A sentence with its buttons beside it, or below it where there is little room.
class Row : public QWidget {
 public:
    Row() : line_(new QBoxLayout(QBoxLayout::LeftToRight, this)) {
        line_->setContentsMargins(0, 0, 0, 0);
        line_->setSpacing(scaled(6));
    }
    void add(QWidget* sentence, QWidget* buttons) {
        line_->addWidget(sentence, 3);
        line_->addWidget(buttons, 2);
    }

 protected:
    void resizeEvent(QResizeEvent* event) override {
        constexpr int roomForBoth = 420;
        line_->setDirection(width() < scaled(roomForBoth) ? QBoxLayout::TopToBottom
                                                          : QBoxLayout::LeftToRight);
        QWidget::resizeEvent(event);
    }

 private:
    QBoxLayout* line_;
};

bool sayTheSame(const Findings& a, const Findings& b) {
    return std::equal(a.begin(), a.end(), b.begin(), b.end(), [](const Finding& one, const Finding& other) {
        return one.severity == other.severity && one.place == other.place &&
               one.problem.what == other.problem.what && one.problem.mend == other.problem.mend &&
               one.problem.where == other.problem.where && one.mends.size() == other.mends.size();
    });
}

}  // namespace

FindingsView::FindingsView(Document& document, Of of, QWidget* parent)
    : QWidget(parent), document_(document), of_(of), rows_(new QVBoxLayout(this)) {
    setObjectName(QStringLiteral("findings"));
    rows_->setContentsMargins(0, 0, 0, 0);
    rows_->setSpacing(scaled(4));
    hide();
}

void FindingsView::show(Findings findings) {
    std::stable_sort(findings.begin(), findings.end(), [](const Finding& a, const Finding& b) {
        return a.severity == Severity::trouble && b.severity != Severity::trouble;
    });
    if (sayTheSame(findings, shown_)) {
        shown_ = std::move(findings);  // Their edits are of the newest ensemble.
        return;
    }
    shown_ = std::move(findings);
    while (QLayoutItem* item = rows_->takeAt(0)) {
        if (item->widget() != nullptr) item->widget()->deleteLater();
        delete item;
    }
    const auto troubles =
        static_cast<std::size_t>(std::count_if(shown_.begin(), shown_.end(), [](const Finding& finding) {
            return finding.severity == Severity::trouble;
        }));
    const std::size_t rows = of_ == Of::everything ? std::min(shown_.size(), mostOfAll)
                             : troubles > 0        ? std::min(troubles, mostTroubles)
                                                   : std::min(shown_.size(), mostNotes);
    for (std::size_t i = 0; i < rows; ++i) rows_->addWidget(rowOf(shown_[i]));
    if (shown_.size() > rows) {
        auto* more = new QPushButton(tr("and %n more", nullptr, static_cast<int>(shown_.size() - rows)));
        more->setObjectName(QStringLiteral("moreFindings"));
        more->setProperty("role", "chip");
        connect(more, &QPushButton::clicked, this, [this, more, rows] {
            for (std::size_t i = rows; i < shown_.size(); ++i) rows_->addWidget(rowOf(shown_[i]));
            more->hide();
        });
        rows_->addWidget(more, 0, Qt::AlignLeft);
    }
    setVisible(!shown_.empty());
}

QString FindingsView::trouble() const {
    const bool any = !isHidden() && !shown_.empty() && shown_.front().severity == Severity::trouble;
    return any ? toQt(shown_.front().problem.what) : QString();
}

QWidget* FindingsView::rowOf(const Finding& finding) {
    auto* row = new Row;
    const bool trouble = finding.severity == Severity::trouble;
    const QString where = of_ == Of::everything  ? toQt(finding.problem.where) + QStringLiteral(": ")
                          : finding.place.branch ? tr("Branch %1: ").arg(*finding.place.branch + 1)
                          : !finding.place.chain && !finding.place.instrument
                              ? toQt(finding.problem.where) + QStringLiteral(": ")
                              : QString();
    const QString words = where + toQt(finding.problem.what + "; " + finding.problem.mend) + QLatin1Char('.');
    auto* text = new QLabel(QStringLiteral("<span style=\"color:%1\">%2</span> %3")
                                .arg((trouble ? theme().clay : theme().dim).name(),
                                     trouble ? tr("Trouble.") : tr("Note."), words.toHtmlEscaped()));
    text->setObjectName(QStringLiteral("finding"));
    text->setWordWrap(true);
    text->setTextInteractionFlags(Qt::TextSelectableByMouse);
    auto* acts = new QWidget;
    auto* actRow = new FlowLayout(scaled(4));
    acts->setLayout(actRow);
    row->add(text, acts);
    const std::size_t place = static_cast<std::size_t>(&finding - shown_.data());
    const auto button = [actRow](const QString& label, const char* name) {
        auto* made = new QPushButton(label);
        made->setObjectName(QLatin1String(name));
        made->setProperty("role", "chip");
        actRow->addWidget(made);
        return made;
    };
    for (std::size_t m = 0; m < std::min(finding.mends.size(), mostMends); ++m) {
        auto* cure = button(toQt(finding.mends[m].name), "mend");
        cure->setToolTip(tr("Make this edit; it can be undone"));
        connect(cure, &QPushButton::clicked, this, [this, place, m] {
            if (place < shown_.size() && m < shown_[place].mends.size())
                document_.mend(Mend(shown_[place].mends[m]));
        });
    }
    if (finding.place.chain || of_ == Of::everything) {
        auto* show = button(of_ == Of::everything  ? tr("Show it")
                            : finding.place.branch ? tr("Show the branch")
                                                   : tr("Show the source"),
                            "showFinding");
        connect(show, &QPushButton::clicked, this, [this, at = finding.place] { emit placeAsked(at); });
    }
    return row;
}

}  // namespace mellow::app
