// The form is made anew where what it is about is another thing; an edit of a value only loads it.
#include "app/pages/desk/element_details.h"

#include <QVBoxLayout>

#include "app/acts/desk_addresses.h"
#include "app/ground/theme.h"
#include "app/ground/words.h"
#include "app/pages/desk/arranging.h"
#include "app/pages/desk/surface.h"
#include "app/widgets/finder.h"
#include "core/desk/element_targets.h"
#include "core/model/edit.h"
#include "core/model/edit_desk.h"
#include "core/model/resolve.h"

namespace mellow::app {

namespace {

/// What an element can be told, by its id.
auto elementAt(std::string id) {
    return [id = std::move(id)](auto& e) { return findElement(e.desk, id); };
}

}  // namespace

ElementDetails::ElementDetails(Workspace& workspace) : workspace_(workspace), scroll_(new QScrollArea) {
    setObjectName(QStringLiteral("elementDetails"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, scaled(8), 0);
    scroll_->setWidgetResizable(true);
    scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    column->addWidget(scroll_);
    connect(&workspace_.document, &Document::changed, this, [this] { show(page_, element_, selected_); });
}

void ElementDetails::show(const std::string& page, const std::string& element, int selected) {
    page_ = page;
    element_ = element;
    selected_ = selected;
    const DeskElement* now = findElement(workspace_.document.ensemble().desk, element);
    std::string shape = page + "\n" + element + "\n" + std::to_string(selected);
    if (now != nullptr) {
        shape += std::to_string(static_cast<int>(now->kind));
        const desk::ElementTargets targets = desk::elementTargets(workspace_.document.ensemble());
        const auto its = targets.find(element);
        for (std::size_t i = 0; its != targets.end() && i < its->second.size(); ++i)
            shape += its->second[i].owner + its->second[i].chain + its->second[i].name;
    }
    if (shape == shape_ && form_ != nullptr) return form_->load();
    shape_ = std::move(shape);
    rebuild();
}

void ElementDetails::rebuild() {
    auto* form = new Form(workspace_.document);
    const DeskElement* element = findElement(workspace_.document.ensemble().desk, element_);
    if (selected_ > 1) {
        form->section(tr("%n element(s)", nullptr, selected_));
        form->help(
            tr("Arrows move them, Shift with arrows sizes them. Ctrl+D copies them with their chains, "
               "Delete removes them."));
    } else if (element != nullptr) {
        buildElement(*form, *element);
    } else {
        buildPage(*form);
    }
    form->load();
    form_ = form;
    scroll_->setWidget(form);
}

void ElementDetails::buildPage(Form& form) {
    const auto at = [id = page_](auto& e) { return findById(e.desk.pages, id); };
    form.section(tr("Page"));
    if (findById(workspace_.document.ensemble().desk.pages, page_) == nullptr) {
        form.help(tr("Make a page with +."));
        return;
    }
    form.text(
            tr("Name"), [at](const Ensemble& e) { return at(e) ? toQt(nameOf(*at(e))) : QString(); },
            [at](Ensemble& e, const QString& name) {
                if (at(e)) at(e)->name = name.toStdString();
            })
        ->setObjectName(QStringLiteral("pageName"));
    const auto size = [&](const QString& label, int DeskPage::*member, int most) {
        form.number(
            label, {}, {1.0, static_cast<double>(most), 1, true, false},
            [at, member](const Ensemble& e) { return at(e) ? at(e)->*member : 1; },
            [at, member](Ensemble& e, double value) {
                if (at(e)) at(e)->*member = static_cast<int>(value);
            });
    };
    size(tr("Columns"), &DeskPage::columns, mostColumns);
    size(tr("Rows"), &DeskPage::rows, mostRows);
    form.help(
        tr("Draw an element on the grid, or press Enter to put one at the first free place. Tab goes from "
           "one to the next."));
    form.act(tr("Remove the page"), tr("Remove the page with its elements; chains stay"),
             QStringLiteral("removeDeskPage"), [id = page_](Ensemble& e) {
                 std::erase_if(e.desk.pages, [&id](const DeskPage& page) { return page.id == id; });
             });
}

void ElementDetails::buildElement(Form& form, const DeskElement& element) {
    const auto at = elementAt(element.id);
    form.section(nameOfKind(element.kind));
    form.text(
            tr("Name"), [at](const Ensemble& e) { return at(e) ? toQt(nameOf(*at(e))) : QString(); },
            [at](Ensemble& e, const QString& name) {
                if (at(e)) at(e)->name = name.toStdString();
            })
        ->setObjectName(QStringLiteral("elementName"));
    if (element.kind == ElementKind::articulations) {
        form.text(
                tr("Tiles"), [at](const Ensemble& e) { return at(e) ? joined(at(e)->names) : QString(); },
                [at](Ensemble& e, const QString& names) {
                    if (at(e)) at(e)->names = parted(names);
                })
            ->setToolTip(tr("Names of articulations, separated by commas"));
    } else if (element.kind == ElementKind::keys) {
        form.number(
                tr("Lowest key"), {}, {0, mostLowestKey, 1, true, false},
                [at](const Ensemble& e) { return at(e) ? at(e)->lowestKey : 0; },
                [at](Ensemble& e, double value) {
                    if (at(e)) at(e)->lowestKey = static_cast<int>(value);
                })
            ->setToolTip(
                tr("The first key that is drawn; 60 is middle C. As many are drawn as there is room for."));
        return;
    } else {
        form.number(
            tr("Rests at"), QStringLiteral("%"), {0, 1, 0.01, false, false},
            [at](const Ensemble& e) { return at(e) ? at(e)->rest : 0; },
            [at](Ensemble& e, double value) {
                if (at(e)) at(e)->rest = value;
            });
        if (element.kind == ElementKind::button) {
            form.flag(
                tr("Stays until pressed again"), [at](const Ensemble& e) { return at(e) && at(e)->latching; },
                [at](Ensemble& e, bool on) {
                    if (at(e)) at(e)->latching = on;
                });
        } else {
            form.flag(
                tr("Springs back when let go"), [at](const Ensemble& e) { return at(e) && at(e)->springs; },
                [at](Ensemble& e, bool on) {
                    if (at(e)) at(e)->springs = on;
                });
        }
    }
    form.choice(
        tr("Tone"), [](const Ensemble&) { return toneNames(); },
        [at](const Ensemble& e) {
            return at(e) ? std::max(0, static_cast<int>(toneNames().indexOf(toQt(at(e)->tone)))) : 0;
        },
        [at](Ensemble& e, int index) {
            if (at(e)) at(e)->tone = index == 0 ? std::string() : toneNames()[index].toStdString();
        });
    form.text(
            tr("Keys"), [at](const Ensemble& e) { return at(e) ? joined(at(e)->keys) : QString(); },
            [at](Ensemble& e, const QString& keys) {
                if (at(e)) at(e)->keys = parted(keys);
            })
        ->setToolTip(
            tr("Keys of the computer keyboard that press it, such as Z; of tiles one each, separated by "
               "commas. They come before letters that play notes."));
    if (isSource(element)) addTargets(form, element);
}

/// What it leads to, each a button that shows the chain; and more.
void ElementDetails::addTargets(Form& form, const DeskElement& element) {
    const desk::ElementTargets all = desk::elementTargets(workspace_.document.ensemble());
    const auto its = all.find(element.id);
    const bool isPad = element.kind == ElementKind::pad;
    const std::array<QString, axisCount> axes{tr("across"), tr("up"), tr("touch")};
    form.section(tr("Leads to"));
    if (its == all.end()) form.help(tr("Nothing yet."));
    for (std::size_t i = 0; its != all.end() && i < its->second.size(); ++i) {
        const desk::ElementTarget& target = its->second[i];
        const QString where = placeOf(target);
        auto* show = new QPushButton(
            isPad ? QStringLiteral("%1: %2").arg(axes.at(static_cast<std::size_t>(target.axis)), where)
                  : where);
        show->setToolTip(tr("Show the chain"));
        connect(show, &QPushButton::clicked, this,
                [this, owner = target.owner, chain = target.chain, branch = target.branch] {
                    workspace_.show(Selected{owner, chain, Part::branch, static_cast<int>(branch), 0});
                });
        form.whole(show);
    }
    for (std::size_t i = 0; i < axesOf(element); ++i) {
        auto* add = new QPushButton(isPad ? tr("+ Target for %1").arg(axes.at(i)) : tr("+ Target"));
        add->setObjectName(QStringLiteral("leadElement%1").arg(i));
        add->setToolTip(tr("Find what it is to move, by typing"));
        connect(add, &QPushButton::clicked, this,
                [this, add, axis = static_cast<Axis>(i)] { findTarget(axis, add); });
        form.whole(add);
    }
}

namespace {

/// "owner/target", as shared chains name them; the hand is the shared chains' own.
std::string keyOf(const std::string& owner, const std::string& target) {
    return owner == sharedOwner ? target : owner + "/" + target;
}

}  // namespace

/// Every parameter of every instrument, those in hand first, and who is in hand.
void ElementDetails::findTarget(Axis axis, QWidget* at) {
    const auto search = [this, axis](const QString& typed) {
        std::vector<Found> found;
        const auto offer = [&](const QString& text, const std::string& key) {
            if (hasWords(text, typed))
                found.push_back({text, {}, {}, [this, axis, key] { lead(axis, {key}); }, key});
        };
        const Ensemble& ensemble = workspace_.document.ensemble();
        for (const bool inHand : {true, false}) {
            for (const Instrument& instrument : ensemble.instruments) {
                if (workspace_.live.readings().instrument(instrument.id).inHand != inHand) continue;
                for (const Parameter& parameter : instrument.parameters)
                    offer(nameToShow(nameOf(instrument) + " " + nameOf(parameter)),
                          keyOf(instrument.id, parameter.id));
            }
        }
        if (!ensemble.handOrder.empty())
            offer(tr("Hand: who is in hand"), keyOf(sharedOwner, std::string(handTarget)));
        return found;
    };
    Finder::open(at, tr("Instrument and parameter"), search,
                 [this, axis](const std::vector<std::string>& keys) { lead(axis, keys); });
}

/// An element that nobody has named is called after the first that it leads to.
void ElementDetails::lead(Axis axis, const std::vector<std::string>& targets) {
    workspace_.document.edit(tr("Lead an element"), [&](Ensemble& e) {
        for (const std::string& key : targets) {
            const Target led = targetOf(std::as_const(e), nullptr, key);
            DeskElement* element = findElement(e.desk, element_);
            if (element == nullptr || !led.exists()) return;
            const bool own = led.parameter != nullptr;  // An instrument's, and no shared chain's.
            const std::string owner = own ? led.instrument->id : std::string(sharedOwner);
            const std::string target = own ? led.parameter->id : key;
            const bool unnamed = toQt(element->name) == nameOfKind(element->kind);
            if (unnamed && own && element->kind != ElementKind::pad) element->name = nameOf(*led.parameter);
            leadElement(e, element_, axis, owner, target);
        }
    });
}

}  // namespace mellow::app
