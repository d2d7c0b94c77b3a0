#include "app/frame/learn_banner.h"

#include <QHBoxLayout>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>

#include "app/acts/target_finder.h"
#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "core/assignments/users.h"
#include "core/describe/heard.h"
#include "core/describe/sentence.h"
#include "core/model/resolve.h"

namespace mellow::app {

namespace {

constexpr std::size_t mostOthers = 2;
constexpr double worthShowing = 0.2;

}  // namespace

SureBar::SureBar(QWidget* parent) : QWidget(parent) {
    setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
}

void SureBar::show(double sure) {
    if (sure == sure_) return;
    sure_ = sure;
    setToolTip(tr("%1 % sure").arg(static_cast<int>(sure * 100)));
    setAccessibleName(toolTip());
    update();
}

QSize SureBar::sizeHint() const {
    return {scaled(60), scaled(8)};
}

void SureBar::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    const QRectF whole = QRectF(rect()).adjusted(0, 1, 0, -1);
    painter.setBrush(theme().line);
    painter.drawRoundedRect(whole, whole.height() / 2, whole.height() / 2);
    painter.setBrush(theme().honey);
    const QRectF part(whole.left(), whole.top(), whole.width() * sure_, whole.height());
    painter.drawRoundedRect(part, whole.height() / 2, whole.height() / 2);
}

LearnBanner::LearnBanner(Workspace& workspace, QWidget* parent)
    : QFrame(parent),
      workspace_(workspace),
      learn_(workspace.learn),
      title_(new FewLines(1, FewLines::Role::body)),
      found_(new FewLines(1, FewLines::Role::caption)),
      sure_(new SureBar),
      before_(new QPushButton(QStringLiteral("◂"))),
      target_(new QPushButton),
      after_(new QPushButton(QStringLiteral("▸"))),
      next_(new QPushButton(tr("Next (L)"))) {
    setObjectName(QStringLiteral("learnBanner"));
    setAttribute(Qt::WA_StyledBackground);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(scaled(12), 0, scaled(6), 0);
    row->setSpacing(scaled(5));
    title_->setObjectName(QStringLiteral("learnGoal"));
    found_->setObjectName(QStringLiteral("learnFound"));
    auto* words = new QVBoxLayout;
    words->setSpacing(0);
    words->addStretch(1);
    words->addWidget(title_);
    auto* second = new QHBoxLayout;
    second->setSpacing(scaled(8));
    second->addWidget(sure_);
    second->addWidget(found_, 1);
    words->addLayout(second);
    words->addStretch(1);
    row->addLayout(words, 1);
    const auto button = [&](QPushButton* made, const QString& name, const QString& tip, auto act) {
        made->setObjectName(name);
        made->setProperty("role", "compact");
        made->setToolTip(tip);
        row->addWidget(made);
        connect(made, &QPushButton::clicked, this, act);
    };
    for (std::size_t i = 0; i < mostOthers; ++i) {
        auto* other = new QPushButton;
        otherButtons_.push_back(other);
        button(other, QStringLiteral("learnOther%1").arg(i), {},
               [this, other] { learn_.take(other->property("candidate").toULongLong()); });
    }
    button(before_, QStringLiteral("learnTargetBefore"), tr("The parameter before"),
           [this] { learn_.stepTarget(-1); });
    button(target_, QStringLiteral("learnTarget"), tr("Where it leads; click to choose another"), [this] {
        findTarget(workspace_, target_,
                   learn_.targetName().isEmpty() ? TargetFor::anotherBranch : TargetFor::selectedBranch);
    });
    button(after_, QStringLiteral("learnTargetAfter"), tr("The next parameter"),
           [this] { learn_.stepTarget(1); });
    button(next_, QStringLiteral("learnNext"), tr("Learn one more new chain"), [this] { learn_.next(); });
    button(new QPushButton(tr("Done (Esc)")), QStringLiteral("endLearning"), tr("Learning ends"),
           [this] { learn_.stop(); });
    connect(&learn_, &Learn::changed, this, &LearnBanner::follow);
    follow();
}

QString LearnBanner::nameOfCandidate(const learning::Candidate& candidate) const {
    const Ensemble& ensemble = workspace_.document.ensemble();
    QString name = toQt(describe::sourceName(ensemble, candidate.source));
    if (candidate.source.kind == SourceKind::osc) return name;
    const QString message = toQt(describe::sourceMessage(candidate.source));
    const QString shape = toQt(describe::shapeName(candidate.heard));
    QString text = name == message ? name : QStringLiteral("%1 (%2)").arg(name, message);
    const bool says =
        candidate.heard.shape != midi::Shape::notes && candidate.heard.shape != midi::Shape::unknown;
    return says ? text + QStringLiteral(", ") + shape : text;
}

/// Chains beside the one that learns.
QString LearnBanner::usersOf(const learning::Candidate& candidate) const {
    const Ensemble& ensemble = workspace_.document.ensemble();
    const Chain* own = chainOf(ensemble, workspace_.selection.now());
    QStringList names;
    for (const User& user : mellow::usersOf(ensemble, candidate.source)) {
        if (user.chain == own) continue;
        names << (user.instrument == nullptr
                      ? nameToShow(nameOf(*user.chain))
                      : QStringLiteral("%1 · %2").arg(nameToShow(nameOf(*user.instrument)),
                                                      nameToShow(nameOf(*user.chain))));
    }
    if (names.isEmpty()) return tr("nobody else uses it");
    constexpr qsizetype most = 3;
    const QString listed = names.mid(0, most).join(QStringLiteral(", "));
    return names.size() <= most
               ? tr("also moves %1").arg(listed)
               : tr("also moves %1 and %n more", nullptr, static_cast<int>(names.size() - most)).arg(listed);
}

void LearnBanner::follow() {
    if (!learn_.isOn()) return;
    const auto& candidates = learn_.candidates();
    const auto taken = learn_.taken();
    title_->setText(
        learn_.isDone() && learn_.madeAChain() ? tr("Learned %1. L learns the next one.").arg(learn_.goal())
        : learn_.isDone()
            ? tr("Learned %1. Select the next chain, or press L to learn it again.").arg(learn_.goal())
        : taken                ? tr("Learning %1…").arg(learn_.goal())
        : learn_.isForTarget() ? tr("Learning %1: move it on the instrument’s own panel.").arg(learn_.goal())
                               : tr("Learning %1: move the control that you want.").arg(learn_.goal()));
    const learning::Candidate* shown = taken                ? &candidates[*taken]
                                       : candidates.empty() ? nullptr
                                                            : &candidates.front();
    const bool some = shown != nullptr && (taken || shown->sure >= worthShowing);
    sure_->setVisible(some);
    if (some) sure_->show(shown->sure);
    found_->setText(!some   ? tr("Nothing has moved yet.")
                    : taken ? QStringLiteral("%1 · %2").arg(nameOfCandidate(*shown), usersOf(*shown))
                            : tr("%1? Move it once more.").arg(nameOfCandidate(*shown)));
    const bool leads = learn_.hasTarget();
    for (QWidget* each : std::initializer_list<QWidget*>{before_, target_, after_}) each->setVisible(leads);
    if (leads) {
        const QString name = learn_.targetName();
        target_->setText(cut(name.isEmpty() ? tr("leads nowhere yet…") : tr("leads to %1").arg(name)));
        target_->setAccessibleName(name);
    }
    next_->setVisible(learn_.isDone() && learn_.madeAChain());
    showOthers();
}

/// A name on a button here has little room; all of it is said by tooltips and in the details.
QString LearnBanner::cut(const QString& text) const {
    constexpr int most = 130;
    return QFontMetrics(captionFont()).elidedText(text, Qt::ElideRight, scaled(most));
}

void LearnBanner::showOthers() {
    const auto& candidates = learn_.candidates();
    const auto taken = learn_.taken();
    std::size_t used = 0;
    for (std::size_t i = 0; i < candidates.size() && used < otherButtons_.size(); ++i) {
        const bool isShown = taken ? i == *taken : i == 0;
        if (isShown || candidates[i].sure < worthShowing) continue;
        QPushButton* button = otherButtons_[used++];
        const QString name = nameOfCandidate(candidates[i]);
        button->setText(cut(tr("or %1").arg(name)));
        button->setToolTip(tr("It was %1").arg(name));
        button->setProperty("candidate", QVariant::fromValue<qulonglong>(i));
        button->show();
    }
    for (std::size_t i = used; i < otherButtons_.size(); ++i) otherButtons_[i]->hide();
}

}  // namespace mellow::app
