// Edits hold the ensemble before and after by pointer; since copies share what they have in common, a long
// history costs what was changed. Findings are worked out with every change, here, so that nobody shows old
// ones.
#include "app/document.h"

#include <QFile>

#include "core/store/ensemble_json.h"
#include "core/files/files.h"

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

Document::Document(QObject* parent) : QObject(parent), ensemble_(std::make_shared<Ensemble>()) {
    connect(&stack_, &QUndoStack::cleanChanged, this, &Document::stateChanged);
}

void Document::edit(const QString& text, const std::function<void(Ensemble&)>& change, Gesture gesture) {
    auto after = std::make_shared<Ensemble>(*ensemble_);
    change(*after);
    if (*after == *ensemble_) return;
    stack_.push(new EditCommand(*this, text, std::move(after), gesture));
}

Gesture Document::newGesture() {
    static Gesture last = 0;
    return ++last;
}

void Document::set(std::shared_ptr<const Ensemble> ensemble) {
    ensemble_ = std::move(ensemble);
    findings_ = check(*ensemble_);
    emit changed();
}

void Document::replace(Ensemble ensemble, const QString& path) {
    stack_.clear();
    path_ = path;
    emit replaced();
    set(std::make_shared<Ensemble>(std::move(ensemble)));
    emit stateChanged();
}

Outcome Document::open(const QString& path) {
    const std::string file = QFile::encodeName(path).toStdString();
    auto text = files::readTextFile(file);
    if (!text) return text.problem();
    auto ensemble = store::parseEnsemble(*text);
    if (!ensemble) {
        Problem problem = ensemble.problem();
        problem.where = file + ", " + problem.where;
        return problem;
    }
    replace(std::move(*ensemble), path);
    return Done{};
}

Outcome Document::save(const QString& path) {
    const auto saved =
        files::writeFile(QFile::encodeName(path).toStdString(), store::printEnsemble(*ensemble_));
    if (!saved) return saved;
    path_ = path;
    stack_.setClean();
    emit stateChanged();
    return saved;
}

}  // namespace mellow::app
