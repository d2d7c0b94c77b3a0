// Opening and saving the document, with what may be lost on the way, and the documents opened last.
#pragma once

#include <QMenu>
#include <QObject>
#include <QSettings>
#include <functional>

#include "app/document.h"
#include "app/widgets/notice_bar.h"

namespace mellow::app {

class Files : public QObject {
    Q_OBJECT

 public:
    /// What a person answers when unsaved work would be lost. Tests answer without a dialog.
    enum class Answer { save, discard, cancel };
    using Ask = std::function<Answer(QWidget*)>;
    /// A path to save to, or empty when the person thought better of it.
    using AskPath = std::function<QString(QWidget*, const QString& suggestion)>;

    /// window: above which questions are asked.
    Files(Document& document, NoticeBar& notice, QWidget* window);

    void onAsk(Ask ask) { ask_ = std::move(ask); }
    void onAskPath(AskPath ask) { askPath_ = std::move(ask); }

    /// False when the person would rather keep what is not saved.
    bool mayLose();
    /// The same, and an empty ensemble takes its place.
    bool begin();
    bool open(const QString& path);
    /// Asks which.
    void open();
    bool save();
    bool saveAs();
    /// Puts the documents opened last into a menu.
    void fillRecent(QMenu& menu);

 signals:
    /// Another document, of the person's own, has taken the place of the one before.
    void opened();

 private:
    bool saveTo(const QString& path);
    void remember(const QString& path);

    Document& document_;
    NoticeBar& notice_;
    QWidget* window_;
    QSettings settings_;
    Ask ask_;
    AskPath askPath_;
};

}  // namespace mellow::app
