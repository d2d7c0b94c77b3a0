// Text for three readers, each with letters that mean something to it and are guarded here: man(7) a
// backslash, a dash and a dot or quote that begins a line; bash what stands in double quotes; zsh besides
// these the colon and brackets of its own descriptions.
#include "tools/words.h"

#include <algorithm>
#include <cctype>

namespace mellow::tools {

namespace {

std::string upper(std::string text) {
    std::transform(text.begin(), text.end(), text.begin(), [](unsigned char c) { return std::toupper(c); });
    return text;
}

std::string manual(const std::string& text) {
    std::string guarded;
    for (const char letter : text) {
        if (letter == '\\') {
            guarded += "\\e";
        } else if (letter == '-') {
            guarded += "\\-";
        } else {
            guarded += letter;
        }
    }
    if (!guarded.empty() && (guarded.front() == '.' || guarded.front() == '\'')) guarded.insert(0, "\\&");
    return guarded;
}

std::string bold(const std::string& text) {
    return "\\fB" + manual(text) + "\\fR";
}
std::string italic(const std::string& text) {
    return "\\fI" + manual(text) + "\\fR";
}

std::string sentence(std::string text) {
    if (text.empty()) return text;
    text.front() = static_cast<char>(std::toupper(static_cast<unsigned char>(text.front())));
    if (text.back() != '.') text += '.';
    return text;
}

std::string usage(const Command& command, const std::string& before) {
    std::string line = bold(before + command.name);
    if (!command.options.empty()) line += " [" + italic("option") + "]\\&.\\|.\\|.";
    for (const Operand& each : command.operands)
        line += (each.required ? " " + italic(each.name) : " [" + italic(each.name) + "]") +
                (each.repeated ? "\\&.\\|.\\|." : "");
    return line + "\n";
}

std::string entry(const std::string& head, const std::string& help) {
    return ".TP\n" + head + "\n" + manual(sentence(help)) + "\n";
}

std::string optionEntries(const Command& command) {
    std::string text;
    for (const Operand& each : command.operands) text += entry(italic(each.name), each.help);
    for (const Option& each : command.options) {
        std::string head;
        for (const std::string& name : each.names) head += (head.empty() ? "" : ", ") + bold(name);
        if (!each.value.empty()) head += " " + italic(each.value);
        text += entry(head, each.help + (each.required ? " (required)" : ""));
    }
    return text;
}

std::string namesOf(const std::vector<Option>& options) {
    std::string names;
    for (const Option& each : options) {
        for (const std::string& name : each.names) names += (names.empty() ? "" : " ") + name;
    }
    return names;
}

std::string joined(const std::vector<std::string>& words, const char* between) {
    std::string text;
    for (const std::string& word : words) text += (text.empty() ? "" : between) + word;
    return text;
}

std::string functionName(std::string text) {
    std::replace(text.begin(), text.end(), '-', '_');
    return "_" + text;
}

/// What bash offers after an option that has a value.
std::string bashValues(const std::vector<Option>& options, const std::string& margin) {
    std::string text;
    for (const Option& each : options) {
        if (each.value.empty()) continue;
        text += margin + joined(each.names, "|") + ") ";
        if (!each.choices.empty()) {
            text += "mapfile -t COMPREPLY < <(compgen -W \"" + joined(each.choices, " ") + "\" -- \"$cur\")";
        } else if (each.takesFile) {
            text += "_filedir";
        } else {
            text += ":";
        }
        text += "; return ;;\n";
    }
    return text;
}

std::string bashOffer(const Command& command, const std::string& margin) {
    std::string text;
    if (const std::string values = bashValues(command.options, margin + "    "); !values.empty())
        text += margin + "case \"$prev\" in\n" + values + margin + "esac\n";
    text += margin + "if [[ \"$cur\" == -* ]]; then\n" + margin +
            "    mapfile -t COMPREPLY < <(compgen -W \"" + namesOf(command.options) + "\" -- \"$cur\")\n" +
            margin + "else\n" + margin + (command.operands.empty() ? "    :\n" : "    _filedir\n") + margin +
            "fi\n";
    return text;
}

std::string zshText(const std::string& text) {
    std::string guarded;
    for (const char letter : text) {
        if (letter == '\'') {
            guarded += "'\\''";
        } else {
            if (letter == '[' || letter == ']' || letter == ':' || letter == '\\') guarded += '\\';
            guarded += letter;
        }
    }
    return guarded;
}

std::string zshArguments(const Command& command, const std::string& margin) {
    std::string text = margin + "_arguments -s -S";
    const std::string next = " \\\n" + margin + "    ";
    for (const Option& each : command.options) {
        std::string action;
        if (!each.choices.empty()) {
            action = "(" + joined(each.choices, " ") + ")";
        } else if (each.takesFile) {
            action = "_files";
        }
        const std::string value = each.value.empty() ? "" : ":" + zshText(each.value) + ":" + action;
        const std::string about = "[" + zshText(each.help) + "]" + value + "'";
        for (const std::string& name : each.names) text.append(next).append("'").append(name).append(about);
    }
    for (const Operand& each : command.operands)
        text += next + "'" + (each.repeated ? "*" : "") + ":" + zshText(each.name) + ":_files'";
    return text + "\n";
}

}  // namespace

std::string manPage(const Command& program, const std::string& version, const std::string& date,
                    const std::string& prose) {
    std::string page = ".\\\" Made from the program's own descriptions.\n.TH " + upper(program.name) + " 1 " +
                       date + " \"Mellow Lever " + version + "\" \"User commands\"\n.SH NAME\n" +
                       manual(program.name) + " \\- " + manual(program.help) + "\n.SH SYNOPSIS\n";
    if (program.calls.empty()) page += usage(program, "");
    for (const Command& call : program.calls) page += usage(call, program.name + " ") + ".br\n";
    if (!program.calls.empty()) page.resize(page.size() - 4);
    const std::size_t after = prose.find(".SH AFTER\n");
    page += prose.substr(0, after);
    page += ".SH OPTIONS\n" + optionEntries(program);
    if (!program.calls.empty()) page += ".SH CALLS\n";
    for (const Command& call : program.calls)
        page += ".SS " + manual(call.name) + "\n" + manual(sentence(call.help)) + "\n" + optionEntries(call);
    constexpr std::size_t markLength = 10;
    return after == std::string::npos ? page : page + prose.substr(after + markLength);
}

std::string bashCompletion(const Command& program) {
    const std::string function = functionName(program.name);
    std::string text = "# bash completion for " + program.name +
                       ", made from the program's own descriptions\n" + function +
                       "() {\n    local cur prev words cword\n    _init_completion || return\n";
    if (program.calls.empty()) {
        text += bashOffer(program, "    ");
    } else {
        std::string names;
        for (const Command& call : program.calls) names += (names.empty() ? "" : " ") + call.name;
        text += "    if ((cword == 1)); then\n        mapfile -t COMPREPLY < <(compgen -W \"" + names + " " +
                namesOf(program.options) +
                "\" -- \"$cur\")\n        return\n    fi\n    case \"${words[1]}\" in\n";
        for (const Command& call : program.calls)
            text += "        " + call.name + ")\n" + bashOffer(call, "            ") + "            ;;\n";
        text += "    esac\n";
    }
    return text + "} &&\n    complete -F " + function + " " + program.name + "\n";
}

std::string zshCompletion(const Command& program) {
    std::string text = "#compdef " + program.name + "\n# made from the program's own descriptions\n\n";
    if (program.calls.empty()) return text + zshArguments(program, "");
    text += "local -a calls=(\n";
    for (const Command& call : program.calls) text += "    '" + call.name + ":" + zshText(call.help) + "'\n";
    text += ")\nlocal curcontext=\"$curcontext\" state\n\n_arguments -C \\\n";
    for (const Option& each : program.options) {
        for (const std::string& name : each.names)
            text += "    '" + name + "[" + zshText(each.help) + "]' \\\n";
    }
    text +=
        "    '1:call:->call' \\\n    '*::word:->words'\n\ncase \"$state\" in\n"
        "    call) _describe -t calls call calls ;;\n    words)\n        case \"${words[1]}\" in\n";
    for (const Command& call : program.calls)
        text += "            " + call.name + ")\n" + zshArguments(call, "                ") +
                "                ;;\n";
    return text + "        esac\n        ;;\nesac\n";
}

}  // namespace mellow::tools
