// Errors are values. Whatever can fail for a reason outside the program (a file, a port, a field that
// somebody typed) returns a Result: the thing itself, or a Problem that says where it is, what is wrong, and
// how to mend it. Nothing in the core throws across its own boundary, so a caller that compiles has seen
// every way in which a call can end.
#pragma once

#include <string>
#include <utility>
#include <variant>

namespace mellow {

/// Something that a person has to know and can act on. Every part is plain English without a final full stop.
struct Problem {
    std::string where;  ///< the place: a file and byte, a JSON path, "Glass harmonium, Swell, branch 2"
    std::string what;   ///< what is wrong there
    std::string mend;   ///< what to do about it; may be empty where nothing can be done

    /// One printable sentence, of a length that can be read: "where: what; mend".
    [[nodiscard]] std::string sentence() const;
};

/// A value, or the Problem that kept it from being one.
template<class Value>
class [[nodiscard]] Result {
 public:
    Result(Value value) : content_(std::move(value)) {}        // NOLINT(google-explicit-constructor)
    Result(Problem problem) : content_(std::move(problem)) {}  // NOLINT(google-explicit-constructor)

    explicit operator bool() const { return content_.index() == 0; }
    Value& operator*() { return *std::get_if<0>(&content_); }
    const Value& operator*() const { return *std::get_if<0>(&content_); }
    Value* operator->() { return std::get_if<0>(&content_); }
    const Value* operator->() const { return std::get_if<0>(&content_); }
    [[nodiscard]] const Problem& problem() const { return *std::get_if<1>(&content_); }

 private:
    std::variant<Value, Problem> content_;
};

struct Done {};
using Outcome = Result<Done>;

}  // namespace mellow
