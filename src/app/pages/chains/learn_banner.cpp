#include "app/pages/chains/learn_banner.h"

#include <QHBoxLayout>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>

#include "app/theme/theme.h"
#include "app/words.h"
#include "core/describe/heard.h"
#include "core/describe/sentence.h"
#include "core/learning/users.h"
#include "core/model/resolve.h"

namespace mellow::app {

namespace {

constexpr std::size_t mostOthers = 3;
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
    return {scaled(90), scaled(10)};
}

void SureBar::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    const QRectF whole = QRectF(rect()).adjusted(0, 1, 0, -1);
    painter.setBrush(blend(theme().honey, theme().ground, 0.35));
    painter.drawRoundedRect(whole, whole.height() / 2, whole.height() / 2);
    painter.setBrush(theme().ground);
    const QRectF part(whole.left(), whole.top(), whole.width() * sure_, whole.height());
    painter.drawRoundedRect(part, whole.height() / 2, whole.height() / 2);
}

LearnBanner::LearnBanner(Workspace& workspace, QWidget* parent)
    : QFrame(parent),
      workspace_(workspace),
      learn_(workspace.learn),
      title_(new QLabel),
      found_(new QLabel),
      sure_(new SureBar),
      users_(new QLabel),
      others_(new QWidget) {
    setObjectName(QStringLiteral("learnBanner"));
    setAttribute(Qt::WA_StyledBackground);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(scaled(14), scaled(8), scaled(14), scaled(8));
    column->setSpacing(scaled(3));
    auto* first = new QHBoxLayout;
    title_->setObjectName(QStringLiteral("learnGoal"));
    title_->setWordWrap(true);
    auto* end = new QPushButton(tr("Done (Esc)"));
    end->setObjectName(QStringLiteral("endLearning"));
    connect(end, &QPushButton::clicked, &learn_, &Learn::stop);
    first->addWidget(title_, 1);
    first->addWidget(end, 0, Qt::AlignTop);
    column->addLayout(first);
    auto* second = new QHBoxLayout;
    found_->setObjectName(QStringLiteral("learnFound"));
    second->addWidget(found_);
    second->addSpacing(scaled(8));
    second->addWidget(sure_);
    second->addSpacing(scaled(12));
    users_->setObjectName(QStringLiteral("learnUsers"));
    users_->setWordWrap(true);
    second->addWidget(users_, 1);
    column->addLayout(second);
    auto* row = new QHBoxLayout(others_);
    row->setContentsMargins(0, 0, 0, 0);
    auto* caption = new QLabel(tr("Or was it"));
    row->addWidget(caption);
    for (std::size_t i = 0; i < mostOthers; ++i) {
        auto* button = new QPushButton;
        button->setObjectName(QStringLiteral("learnOther%1").arg(i));
        row->addWidget(button);
        otherButtons_.push_back(button);
        connect(button, &QPushButton::clicked, this,
                [this, button] { learn_.take(button->property("candidate").toULongLong()); });
    }
    row->addStretch(1);
    column->addWidget(others_);
    connect(&learn_, &Learn::changed, this, &LearnBanner::follow);
    follow();
}

QString LearnBanner::nameOfCandidate(const learning::Candidate& candidate) const {
    const Ensemble& ensemble = workspace_.document.ensemble();
    const QString name = toQt(describe::sourceName(ensemble, candidate.source));
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
    for (const learning::User& user : learning::usersOf(ensemble, candidate.source)) {
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
    setVisible(learn_.isOn());
    if (!learn_.isOn()) return;
    const auto& candidates = learn_.candidates();
    const auto taken = learn_.taken();
    title_->setText(
        learn_.isDone()
            ? tr("Learned %1. Select the next chain, or press L to learn it again.").arg(learn_.goal())
        : taken                ? tr("Learning %1…").arg(learn_.goal())
        : learn_.isForTarget() ? tr("Learning %1: move it on the instrument’s own panel.").arg(learn_.goal())
                               : tr("Learning %1: move the control that you want.").arg(learn_.goal()));
    const learning::Candidate* shown = taken                ? &candidates[*taken]
                                       : candidates.empty() ? nullptr
                                                            : &candidates.front();
    const bool some = shown != nullptr && (taken || shown->sure >= worthShowing);
    found_->setVisible(some);
    sure_->setVisible(some);
    users_->setVisible(some);
    if (some) {
        found_->setText(taken ? nameOfCandidate(*shown)
                              : tr("%1? Move it once more.").arg(nameOfCandidate(*shown)));
        sure_->show(shown->sure);
        users_->setText(usersOf(*shown));
    }
    showOthers();
}

void LearnBanner::showOthers() {
    const auto& candidates = learn_.candidates();
    const auto taken = learn_.taken();
    std::size_t used = 0;
    for (std::size_t i = 0; i < candidates.size() && used < otherButtons_.size(); ++i) {
        const bool isShown = taken ? i == *taken : i == 0;
        if (isShown || candidates[i].sure < worthShowing) continue;
        QPushButton* button = otherButtons_[used++];
        button->setText(nameOfCandidate(candidates[i]));
        button->setProperty("candidate", QVariant::fromValue<qulonglong>(i));
        button->show();
    }
    for (std::size_t i = used; i < otherButtons_.size(); ++i) otherButtons_[i]->hide();
    others_->setVisible(used > 0);
}

}  // namespace mellow::app
