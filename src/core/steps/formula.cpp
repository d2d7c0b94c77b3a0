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
     "An expression in x, where x and the result go from 0 to 1: x^2, or 0.5 + 0.5*sin(_pi*x)."},
}};

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
            flaw_ = error.GetMsg();
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
    std::string why = Expression(text).flaw();
    while (!why.empty() && (why.back() == '.' || why.back() == '\n')) why.pop_back();
    return why;
}

}  // namespace

const StepKind formulaStep = [] {
    StepKind kind{"formula", "Formula", "Any expression in x.", fields};
    kind.shape = shape;
    kind.take = take;
    kind.phrase = phrase;
    kind.flaw = flaw;
    kind.prepare = makeExpression;
    return kind;
}();

}  // namespace mellow
