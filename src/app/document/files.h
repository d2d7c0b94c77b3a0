// Opening and saving the document, with what may be lost on the way, and the documents opened last.
#pragma once

#include <QMenu>
#include <QObject>
#include <QSettings>
#include <functional>

#include "app/document/beside.h"
#include "app/document/document.h"
#include "app/document/keeper.h"
#include "app/widgets/notice_bar.h"

namespace mellow::app {

class Files : public QObject {
    Q_OBJECT

 public:
    /// What a person answers when unsaved work would be lost. Tests answer without a dialog.
    enum class Answer { save, discard, cancel };
    using Ask = std::function<Answer(QWidget*)>;
    /// What to do with a document that another window has.
    enum class Shared { look, takeOver, cancel };
    using AskShared = std::function<Shared(QWidget*)>;
    /// What to do where a file is other than it was opened.
    enum class Changed { overwrite, elsewhere, cancel };
    using AskChanged = std::function<Changed(QWidget*)>;
    /// A path to save to, or empty when the person thought better of it.
    using AskPath = std::function<QString(QWidget*, const QString& suggestion)>;

    /// window: above which questions are asked.
    Files(Document& document, Keeper& keeper, NoticeBar& notice, QWidget* window);
    /// What lies beside the document goes along when it is saved.
    void carry(Beside& beside) { beside_.push_back(&beside); }

    void onAsk(Ask ask) { ask_ = std::move(ask); }
    void onAskShared(AskShared ask) { askShared_ = std::move(ask); }
    void onAskChanged(AskChanged ask) { askChanged_ = std::move(ask); }
    void onAskPath(AskPath ask) { askPath_ = std::move(ask); }

    /// False when the person would rather keep what is not saved.
    bool mayLose();
    /// The same, and an empty ensemble takes its place.
    bool begin();
    bool open(const QString& path);
    /// Lets a template be found by typing, and begins with it.
    void findTemplate(QWidget* at);
    /// Begins an ensemble that is as a file says and belongs to none.
    bool beginFrom(const QString& path);
    /// Asks for a name, and keeps the document as a template.
    void keepTemplate();
    bool keepTemplate(const QString& name);
    /// Begins an ensemble that has a file from the start, under a title.
    bool beginAt(const QString& path, const QString& title);
    /// A session manager's session keeps the document in its file from now on: nothing else is opened in its
    /// place, and it is not moved. session: as people call it.
    void stayIn(const QString& session) { session_ = session; }
    [[nodiscard]] bool isInSession() const { return !session_.isEmpty(); }
    /// Asks for an ensemble, and has the document be what that is, with all that lies beside it.
    void takeIn();
    bool takeIn(const QString& path);
    /// While nobody is there to be asked: a document that another window has is not opened, and a file that
    /// something else changed is written over, which keeps it among the versions.
    void setUnattended(bool unattended) { unattended_ = unattended; }
    /// Asks which.
    void open();
    bool save();
    bool saveAs();
    /// Brings back what a window that is gone had not saved, of a document that never was; says which others
    /// have unsaved work.
    void bringBack();
    /// Takes the document over from the window that has it.
    void takeOver();
    /// Puts the documents opened last into a menu.
    void fillRecent(QMenu& menu);

 signals:
    /// Another document, of the person's own, has taken the place of the one before.
    void opened();
    /// And what was not saved of it is back.
    void settled();
    /// The document is in its file.
    void wasSaved();
    /// The document may be closed: what is under way is to end.
    void aboutToLose();
    /// A person does not want what was not saved.
    void discarded();

 private:
    bool mayLeave();
    bool replaceFrom(const QString& path);
    bool saveTo(const QString& path);
    std::optional<bool> insteadOfWriting(const QString& path);
    void bringBack(store::Journaled work);
    void watchKeeper();
    void remember(const QString& path);

    Document& document_;
    std::vector<Beside*> beside_;
    Keeper& keeper_;
    NoticeBar& notice_;
    QWidget* window_;
    QSettings settings_;
    QString session_;
    bool unattended_ = false;
    Ask ask_;
    AskShared askShared_;
    AskChanged askChanged_;
    AskPath askPath_;
};

}  // namespace mellow::app
