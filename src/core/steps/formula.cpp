// Formula: any expression in x, for the few who like them.
//
// Signal rules, section 2: the result is the expression's value; where that is not a number, the last good
// value stays, and 0 before any. So a formula remembers, but only where it has to: one that is a number for
// every value that can reach it is as stateless as a bend, and the compiler folds it.
//
// The expression is read by muParser (+ − * / ^, comparisons, ?:, sin to atanh, exp, ln, log2, log10, sqrt,
// abs, sign, rint, min, max, avg, sum, _pi, _e), always with a decimal point, whatever the locale.
#include <muParser.h>

#include <array>
#include <cmath>
#include <limits>

#include "core/model/scale.h"
#include "core/steps/kinds.h"
#include "core/text/printable.h"

namespace mellow {

namespace {

constexpr std::size_t longest = 500;
constexpr double notANumber = std::numeric_limits<double>::quiet_NaN();

constexpr std::array<Field, 1> fields{{
    {"text",
     "Formula",
     "",
     Field::Type::text,
     0,
     0,
     0,
     false,
     {},
     "An expression in x, where x and the result go from 0 to 1: x^2, or 0.5 + 0.5*sin(_pi*x). There are + - "
     "* / "
     "^, comparisons, a ? b : c, min, max, abs, sign, rint, sqrt, exp, ln, log2, log10, sin to atanh, _pi "
     "and "
     "_e."},
}};

/// What is wrong with an expression, in our own words; letters are counted from 1.
std::string flawIn(const mu::ParserError& error) {
    const std::string letter = " at letter " + std::to_string(error.GetPos() + 1);
    const std::string token = text::quoted(error.GetToken());
    switch (error.GetCode()) {
        case mu::ecUNEXPECTED_EOF:
            return "it ends too early";
        case mu::ecMISSING_PARENS:
            return "a bracket is not closed";
        case mu::ecUNEXPECTED_PARENS:
            return "there is a bracket too many" + letter;
        case mu::ecTOO_MANY_PARAMS:
            return token + letter + " is given too many values";
        case mu::ecTOO_FEW_PARAMS:
            return token + letter + " is given too few values";
        case mu::ecUNASSIGNABLE_TOKEN:
        case mu::ecINVALID_NAME:
        case mu::ecSTRING_EXPECTED:
        case mu::ecVAL_EXPECTED:
            return token + letter + " is not known; there are x, numbers, and functions such as sqrt and sin";
        case mu::ecMISSING_ELSE_CLAUSE:
        case mu::ecMISPLACED_COLON:
            return "a choice is written condition ? one : other" + letter;
        default:
            return (error.GetToken().empty() ? "it cannot be read on" : token + " does not fit") + letter;
    }
}

/// An expression that has been read. Evaluating it allocates nothing after the first time, which is done
/// here.
class Expression {
 public:
    explicit Expression(const std::string& text) {
        try {
            parser_.DefineVar("x", &x_);
            parser_.SetExpr(text);
            parser_.Eval();
        } catch (const mu::ParserError& error) {
            flaw_ = flawIn(error);
        }
    }

    [[nodiscard]] const std::string& flaw() const { return flaw_; }
    double at(double x) const {
        if (!flaw_.empty()) return notANumber;
        x_ = x;
        try {
            return parser_.Eval();
        } catch (const mu::ParserError&) {
            return notANumber;
        }
    }

 private:
    mutable double x_ = 0;
    mu::Parser parser_;
    std::string flaw_;
};

std::shared_ptr<const void> makeExpression(const Step& step) {
    return std::make_shared<const Expression>(textOf(step, 0));
}

double shape(const Step& step, double p) {
    if (step.prepared.made != nullptr) return static_cast<const Expression*>(step.prepared.made.get())->at(p);
    return Expression(textOf(step, 0)).at(p);
}

void take(const Step& step, StepState& state, double input, Microseconds) {
    const double value = shape(step, input);
    if (!std::isnan(value)) state.output = clampPosition(value);
    state.input = input;
    state.started = true;
}

std::string phrase(const Step& step, const PhraseContext&) {
    return "by the formula " + textOf(step, 0);
}

std::string flaw(const Step& step) {
    const std::string& text = textOf(step, 0);
    if (text.find_first_not_of(' ') == std::string::npos) return "there is no expression in it";
    if (text.size() > longest) return "it is longer than " + std::to_string(longest) + " letters";
    return Expression(text).flaw();
}

}  // namespace

const StepKind formulaStep = [] {
    StepKind kind{"formula", "Formula", "Any expression in x.", fields};
    kind.shape = shape;
    kind.take = take;
    kind.phrase = phrase;
    kind.flaw = flaw;
    kind.prepare = makeExpression;
    kind.example = [] { return std::vector<FieldValue>{std::string("abs(2*x-1)")}; };
    return kind;
}();

}  // namespace mellow
