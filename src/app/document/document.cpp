// Edits hold the ensemble before and after by pointer; since copies share what they have in common, a long
// history costs what was changed. A timer of a few milliseconds lets the picture of an edit come first, and
// makes a drag look at what it does some forty times a second and not with each movement of the mouse.
#include "app/document/document.h"

#include <QFile>
#include <QFileInfo>
#include <utility>

#include "app/ground/aside.h"
#include "core/describe/names.h"
#include "core/files/files.h"
#include "core/files/sidecars.h"
#include "core/filling/filling.h"
#include "core/model/edit_articulations.h"
#include "core/store/ensemble_json.h"

namespace mellow::app {

class EditCommand : public QUndoCommand {
 public:
    EditCommand(Document& document, const QString& text, std::shared_ptr<const Ensemble> after,
                Gesture gesture)
        : QUndoCommand(text),
          document_(document),
          before_(document.ensemble_),
          after_(std::move(after)),
          gesture_(gesture) {}

    [[nodiscard]] const std::shared_ptr<const Ensemble>& before() const { return before_; }
    [[nodiscard]] const std::shared_ptr<const Ensemble>& after() const { return after_; }
    void undo() override { document_.set(before_); }
    void redo() override { document_.set(after_); }
    [[nodiscard]] int id() const override { return gesture_ == 0 ? -1 : gesture_; }
    bool mergeWith(const QUndoCommand* other) override {
        after_ = static_cast<const EditCommand*>(other)->after_;
        setObsolete(*after_ == *before_);
        return true;
    }

 private:
    Document& document_;
    std::shared_ptr<const Ensemble> before_;
    std::shared_ptr<const Ensemble> after_;
    Gesture gesture_;
};

namespace {

constexpr int settleAfter = 25;  // ms

/// The ensemble with a change made, and all that follows from it.
std::shared_ptr<const Ensemble> withChange(const Ensemble& before,
                                           const std::function<void(Ensemble&)>& change) {
    auto after = std::make_shared<Ensemble>(before);
    change(*after);
    followArticulations(before, *after);
    describe::followNames(before, *after);
    filling::followInstruments(before, *after);
    return after;
}

}  // namespace

Document::Document(QObject* parent) : QObject(parent), ensemble_(std::make_shared<Ensemble>()) {
    settle_.setSingleShot(true);
    connect(&settle_, &QTimer::timeout, this, &Document::findingsChanged);
    connect(&stack_, &QUndoStack::cleanChanged, this, &Document::stateChanged);
}

void Document::edit(const QString& text, const std::function<void(Ensemble&)>& change, Gesture gesture) {
    if (readOnly_) {
        emit editRefused();
        return;
    }
    push(text, withChange(*ensemble_, change), gesture);
}

bool Document::editAside(const QString& text, const QString& saying,
                         const std::function<void(Ensemble&)>& change) {
    if (readOnly_) {
        emit editRefused();
        return false;
    }
    const auto before = ensemble_;
    auto after = doneUnlessLeft({saying}, [before, change] { return withChange(*before, change); });
    if (!after) return false;
    // What a hand that is learnt, or a surface, edited meanwhile stays.
    if (ensemble_ != before) {
        edit(text, change);
    } else {
        push(text, std::move(*after), 0);
    }
    return true;
}

void Document::push(const QString& text, std::shared_ptr<const Ensemble> after, Gesture gesture) {
    if (*after != *ensemble_) stack_.push(new EditCommand(*this, text, std::move(after), gesture));
}

std::shared_ptr<const Ensemble> Document::before() const {
    for (int i = stack_.index() - 1; i >= 0; --i) {
        if (const auto* command = dynamic_cast<const EditCommand*>(stack_.command(i)))
            return command->before();
    }
    return nullptr;
}

void Document::forEachState(const std::function<void(const Ensemble&)>& each) const {
    each(*ensemble_);
    for (int i = 0; i < stack_.count(); ++i) {
        const auto* command = dynamic_cast<const EditCommand*>(stack_.command(i));
        if (command == nullptr) continue;
        each(*command->before());
        each(*command->after());
    }
}

Gesture Document::newGesture() {
    static Gesture last = 0;
    return ++last;
}

void Document::mend(const Mend& mend) {
    edit(QString::fromStdString(mend.name), mend.edit);
}

void Document::set(std::shared_ptr<const Ensemble> ensemble, bool another) {
    const auto before = std::exchange(ensemble_, std::move(ensemble));
    Change change = differenceOf(*before, *ensemble_);
    change.everything = another;
    emit changed(change);
    if (!settle_.isActive()) settle_.start(settleAfter);
}

const FindingRefs& Document::findings() const {
    if (checked_ != ensemble_) {
        findings_ = &checker_.check(ensemble_);
        checked_ = ensemble_;
    }
    return *findings_;
}

void Document::replace(Ensemble ensemble, const QString& path) {
    stack_.clear();
    path_ = path;
    readOnly_ = false;
    acceptDisk();
    emit replaced();
    auto opened = std::make_shared<Ensemble>(std::move(ensemble));
    saved_ = opened;
    set(std::move(opened), true);
    emit stateChanged();
}

void Document::setReadOnly(bool readOnly) {
    if (std::exchange(readOnly_, readOnly) != readOnly) emit stateChanged();
}

namespace {

std::optional<files::FileStamp> stampOf(const QString& path, const QString& saying) {
    if (path.isEmpty()) return std::nullopt;
    return doneAside({saying.arg(QFileInfo(path).fileName())},
                     [file = QFile::encodeName(path).toStdString()] { return files::stampOf(file); });
}

}  // namespace

bool Document::isChanged(const std::optional<files::FileStamp>& now) const {
    return now && now != stamp_;
}

bool Document::isChangedOnDisk() const {
    return isChanged(stampOf(path_, tr("Saving %1")));
}

void Document::acceptDisk() {
    stamp_ = stampOf(path_, tr("Opening %1"));
}

Result<Ensemble> Document::read(const QString& path) {
    const std::string file = QFile::encodeName(path).toStdString();
    auto text = files::readTextFile(file);
    if (!text) return text.problem();
    auto ensemble = store::parseEnsemble(*text);
    if (!ensemble) return files::inFile(file, ensemble.problem());
    return ensemble;
}

Outcome Document::open(const QString& path) {
    auto ensemble = read(path);
    if (!ensemble) return ensemble.problem();
    replace(std::move(*ensemble), path);
    return Done{};
}

Outcome Document::save(const QString& path) {
    const std::string file = QFile::encodeName(path).toStdString();
    const auto ensemble = ensemble_;
    std::optional<files::FileStamp> stamp;
    auto saved = doneAside({tr("Saving %1").arg(QFileInfo(path).fileName())}, [&]() -> Outcome {
        // What cannot be kept beside it must not keep the work from being saved.
        (void)files::keepVersion(file);
        auto written = files::writeFile(file, store::printEnsemble(*ensemble));
        if (written) stamp = files::stampOf(file);
        return written;
    });
    if (!saved) return saved;
    if (path != path_) readOnly_ = false;
    path_ = path;
    stamp_ = stamp;
    saved_ = ensemble;
    // Unless a hand that is learnt, or a surface, edited it meanwhile.
    if (ensemble_ == ensemble) stack_.setClean();
    emit stateChanged();
    return saved;
}

}  // namespace mellow::app
