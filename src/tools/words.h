// What the words of a program are, whichever library reads them: so that its man page and what shells
// complete are made from the descriptions that the program itself has, and cannot say otherwise.
#pragma once

#include <string>
#include <vector>

namespace mellow::tools {

struct Option {
    std::vector<std::string> names;  ///< with their dashes: "-o", "--output"
    std::string value;               ///< what follows it, in capitals; empty: nothing does
    std::string help;
    std::vector<std::string> choices;  ///< where the value is one of these
    bool takesFile = false;
    bool required = false;
};

struct Operand {
    std::string name;
    std::string help;
    bool required = false;
    bool repeated = false;
};

/// A program, or one of its calls.
struct Command {
    std::string name;
    std::string help;
    std::vector<Operand> operands;
    std::vector<Option> options;
    std::vector<Command> calls;
};

/// The page of section 1 of the manual, in man(7). prose: what stands after the options, in man(7) too.
std::string manPage(const Command& program, const std::string& version, const std::string& date,
                    const std::string& prose);
/// What bash-completion and zsh load when the program's name is typed.
std::string bashCompletion(const Command& program);
std::string zshCompletion(const Command& program);

}  // namespace mellow::tools
