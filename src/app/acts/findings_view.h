// What checks say of something, a line each, with the edits that would cure it as buttons.
#pragma once

#include <QLabel>
#include <QVBoxLayout>
#include <QWidget>

#include "app/document/document.h"

namespace mellow::app {

class FindingsView : public QWidget {
    Q_OBJECT

 public:
    /// Of one thing only the worst is listed, as beside it is little room; of everything all is, with its
    /// place.
    enum class Of { oneThing, everything };
    explicit FindingsView(Document& document, Of of = Of::oneThing, QWidget* parent = nullptr);

    /// Shows those of the document's findings for which wanted(finding) holds, and hides itself where there
    /// are none.
    template<class Wanted>
    void showThose(Wanted&& wanted) {
        Findings shown;
        for (const Finding* finding : document_.findings()) {
            if (wanted(*finding)) shown.push_back(*finding);
        }
        show(std::move(shown));
    }

    /// Shows none, without asking what there are.
    void showNone() { show({}); }

    /// What the first trouble is that is shown, in words; empty: there is none.
    [[nodiscard]] QString trouble() const;

 signals:
    /// Somebody wants to see where it is.
    void placeAsked(const mellow::Place& place);

 private:
    void show(Findings findings);
    QWidget* rowOf(const Finding& finding);

    Document& document_;
    Of of_;
    QVBoxLayout* rows_;
    Findings shown_;
};

}  // namespace mellow::app
