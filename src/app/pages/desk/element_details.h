// The details of what is selected while the desk is arranged: an element, or the page.
#pragma once

#include <QScrollArea>
#include <string>

#include "app/acts/details/form.h"
#include "app/acts/workspace.h"
#include "core/model/desk.h"

namespace mellow::app {

class ElementDetails : public QWidget {
    Q_OBJECT

 public:
    explicit ElementDetails(Workspace& workspace);
    /// element: its id; empty: the page.
    void show(const std::string& page, const std::string& element, int selected);
    /// Lets what an axis of the element is to move be found by typing, several at once too.
    void findTarget(Axis axis, QWidget* at);

 private:
    void rebuild();
    void buildPage(Form& form);
    void buildElement(Form& form, const DeskElement& element);
    void addTargets(Form& form, const DeskElement& element);
    void lead(Axis axis, const std::vector<std::string>& targets);

    Workspace& workspace_;
    QScrollArea* scroll_;
    Form* form_ = nullptr;
    std::string page_;
    std::string element_;
    int selected_ = 0;
    std::string shape_;  ///< of what the form was made for
};

}  // namespace mellow::app
