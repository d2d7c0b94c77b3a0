// A chain that names a parameter, a controller, a control, a tie line or an instrument that does not exist.
#include "core/checks/rules.h"
#include "core/text/printable.h"

namespace mellow::checks {

namespace {

using text::quoted;

constexpr int modWheel = 1;

/// What a source refers to that does not exist, and the mend; empty when all of it does.
std::pair<std::string, std::string> missingIn(const Directory& directory, const Source& source) {
    const Controller* controller = directory.controller(source.controller);
    if (source.kind == SourceKind::control && source.controller.empty())
        return {"names a control without its controller", "choose a controller and a control"};
    if (!source.controller.empty() && controller == nullptr)
        return {"names the controller " + quoted(source.controller) + ", which does not exist",
                "choose a controller, or any port"};
    if (source.kind == SourceKind::control && findById(controller->controls, source.control) == nullptr)
        return {"names the control " + quoted(source.control) + ", which " + nameOf(*controller) +
                    " does not have",
                "choose one of its controls"};
    if (source.kind == SourceKind::tieLine && directory.tieLine(source.tieLine) == nullptr)
        return {"names the tie line " + quoted(source.tieLine) + ", which does not exist",
                "choose a tie line, or another source"};
    if (source.kind == SourceKind::desk) {
        const DeskElement* element = directory.deskElement(elementOf(source));
        if (element == nullptr)
            return {"names the desk element " + quoted(elementOf(source)) + ", which does not exist",
                    "choose an element of the desk, or another source"};
        if (!isSource(*element))
            return {(element->kind == ElementKind::keys ? "names the practice keys "
                                                        : "names the articulation tiles ") +
                        nameOf(*element) + ", which have no position",
                    "choose another element of the desk"};
    }
    return {};
}

/// Makes sources that are like one refer to nothing that is missing.
Mend forget(const ChainAt& at, const Source& source) {
    if (source.kind == SourceKind::tieLine)
        return {"Make the tie line", [id = source.tieLine](Ensemble& ensemble) {
                    if (findById(ensemble.tieLines, id) == nullptr)
                        ensemble.tieLines.push_back({id, "", 0, {}});
                }};
    if (source.kind == SourceKind::control || source.kind == SourceKind::desk)
        return mendSources(at, "Listen to the mod wheel instead", [source](Source& mended) {
            if (mended == source) mended = makeSource(SourceKind::cc), mended.number = modWheel;
        });
    return mendSources(at, "Listen to any port", [source](Source& mended) {
        if (mended == source) mended.controller.clear();
    });
}

void lookAtSources(const ChainAt& at, Findings& findings) {
    std::optional<std::size_t> branch;  // at hand; none: what the branches share
    const auto look = [&](const Source& source, const std::string& which) {
        const auto [what, mend] = missingIn(at.directory, source);
        if (what.empty()) return;
        findings.push_back(about(at, branch, Severity::trouble, branch ? Stops::branch : Stops::chain,
                                 which + " " + what, mend, {forget(at, source)}));
    };
    look(at.chain.source, "its source");
    if (at.chain.fan.by) look(*at.chain.fan.by, "the chooser of its fan");
    const auto lookAtSteps = [&](const std::vector<Step>& steps) {
        for (const Step& step : steps) {
            if (step.on && step.with) look(*step.with, "a combine step of it");
        }
    };
    lookAtSteps(at.chain.steps);
    for (std::size_t b = 0; b < at.chain.branches.size(); ++b) {
        branch = b;
        if (at.chain.branches[b].on) lookAtSteps(at.chain.branches[b].steps);
    }
}

void lookAtTargets(const ChainAt& at, Findings& findings) {
    for (std::size_t b = 0; b < at.chain.branches.size(); ++b) {
        const std::string& target = at.chain.branches[b].target;
        if (targetOf(at, at.chain.branches[b]).exists()) continue;
        std::string what = "it leads to ";
        if (const auto line = tieLineOf(target)) {
            what += "the tie line " + quoted(*line) + ", which does not exist";
        } else if (at.instrument == nullptr) {
            what += quoted(target) + ", and there is no such instrument and parameter";
        } else {
            what +=
                "the parameter " + quoted(target) + ", which " + nameOf(*at.instrument) + " does not have";
        }
        findings.push_back(about(at, b, Severity::trouble, Stops::branch, what,
                                 "choose another target or remove the branch", {removeBranch(at, b)}));
    }
}

void lookAtChain(const ChainAt& at, Findings& findings) {
    lookAtSources(at, findings);
    lookAtTargets(at, findings);
}

/// Ids in lists beside the instruments.
void lookAtLists(const Whole& whole, Findings& findings) {
    const Ensemble& ensemble = whole.ensemble();
    const auto tell = [&](const std::string& where, const std::string& what, const std::string& mend,
                          Mend cure) {
        findings.push_back({Severity::trouble, Stops::nothing, {}, {where, what, mend}, {std::move(cure)}});
    };
    const auto isInstrument = [&](const std::string& id) {
        return whole.directory().instrument(id) != nullptr;
    };
    for (const std::string& id : ensemble.inHand.value_or(std::vector<std::string>())) {
        if (isInstrument(id)) continue;
        tell("In hand", "the instrument " + quoted(id) + " does not exist", "take it out of hand",
             {"Take it out of hand", [id](Ensemble& mended) {
                  if (mended.inHand) std::erase(*mended.inHand, id);
              }});
    }
    for (const Section& section : ensemble.sections) {
        for (const std::string& id : section.instruments) {
            if (isInstrument(id)) continue;
            tell("Section " + nameOf(section), "the instrument " + quoted(id) + " does not exist",
                 "take it out of the section",
                 {"Take it out of the section", [id, in = section.id](Ensemble& mended) {
                      if (Section* found = findById(mended.sections, in)) std::erase(found->instruments, id);
                  }});
        }
    }
    for (const std::string& id : ensemble.handOrder) {
        if (isInstrument(id) || findById(ensemble.sections, id) != nullptr) continue;
        tell("Hand order", quoted(id) + " is neither an instrument nor a section", "take it out of the order",
             {"Take it out of the order", [id](Ensemble& mended) { std::erase(mended.handOrder, id); }});
    }
}

}  // namespace

extern const Rule referenceToNothing{.chain = lookAtChain, .whole = lookAtLists, .stops = true};

}  // namespace mellow::checks
