// mellow-lever-words: writes man pages and completions of the window and the command line, from the words
// that they read themselves. Run as an installation is made; not installed.
//
// usage: mellow-lever-words DATE PROSE_FOLDER OUT_FOLDER
#include <CLI/CLI.hpp>
#include <filesystem>
#include <fstream>
#include <iostream>
#include <set>
#include <sstream>

#include "app/frame/wishes.h"
#include "cli/file_options.h"
#include "cli/live_options.h"
#include "tools/words.h"
#include "version/version.h"

namespace {

using namespace mellow::tools;

/// The name of a value that a path is.
bool isFile(const std::string& option) {
    static const std::set<std::string> files{"--output",      "--wav",   "--sweep",
                                             "--write-sweep", "--hands", "--soundfont"};
    return files.contains(option);
}

std::string valueName(const std::string& option) {
    std::string name = option.substr(option.find_first_not_of('-'));
    for (char& letter : name) letter = static_cast<char>(std::toupper(static_cast<unsigned char>(letter)));
    return name;
}

/// "A or B or none" as a list: what a value is checked against, where that is a list.
std::vector<std::string> choicesOf(const CLI::Option& option) {
    std::string type = option.get_type_name();
    const auto open = type.find('{');
    const auto close = type.find('}');
    if (open == std::string::npos || close == std::string::npos) return {};
    std::vector<std::string> choices;
    std::istringstream list(type.substr(open + 1, close - open - 1));
    for (std::string word; std::getline(list, word, ',');) choices.push_back(word);
    return choices;
}

Option optionOf(const CLI::Option& option) {
    Option made;
    for (const std::string& name : option.get_snames()) made.names.push_back("-" + name);
    for (const std::string& name : option.get_lnames()) made.names.push_back("--" + name);
    made.help = option.get_description();
    made.required = option.get_required();
    made.choices = choicesOf(option);
    if (option.get_items_expected_max() > 0) {
        made.value = valueName(made.names.back());
        made.takesFile = isFile(made.names.back());
    }
    return made;
}

Command commandOf(const CLI::App& app) {
    Command command{app.get_name(), app.get_description(), {}, {}, {}};
    for (const CLI::Option* option : app.get_options()) {
        if (option->nonpositional()) {
            command.options.push_back(optionOf(*option));
        } else {
            command.operands.push_back(
                {option->get_name(true), option->get_description(), option->get_required(), false});
        }
    }
    for (const CLI::App* part : app.get_subcommands([](const CLI::App*) { return true; })) {
        // A group of options has no name of its own.
        if (part->get_name().empty()) {
            for (const CLI::Option* option : part->get_options())
                command.options.push_back(optionOf(*option));
        } else {
            command.calls.push_back(commandOf(*part));
        }
    }
    return command;
}

Command toolCommand() {
    static mellow::cli::FileCalls files;
    static mellow::cli::LiveCalls live;
    CLI::App app(mellow::cli::summary, "mellow-lever-cli");
    app.set_version_flag("--version", "");
    mellow::cli::addFileCalls(app, files);
    mellow::cli::addLiveCalls(app, live);
    Command command = commandOf(app);
    command.help = "run the chains of an ensemble without a window";
    return command;
}

Command windowCommand() {
    const auto [operand, help] = mellow::app::windowFiles();
    Command command{"mellow-lever",
                    "play with what you have, drive what you own",
                    {{operand.toStdString(), help.toStdString(), false, true}},
                    {},
                    {}};
    for (const QCommandLineOption& each : mellow::app::windowOptions()) {
        Option option;
        for (const QString& name : each.names()) option.names.push_back("--" + name.toStdString());
        option.value = valueName("--" + each.valueName().toStdString() + " ");
        option.value.pop_back();
        option.help = each.description().toStdString();
        option.takesFile = isFile(option.names.back());
        command.options.push_back(option);
    }
    command.options.push_back({{"-h", "--help"}, {}, "Print the options.", {}, false, false});
    command.options.push_back({{"-v", "--version"}, {}, "Print the version.", {}, false, false});
    return command;
}

std::string contentsOf(const std::filesystem::path& path) {
    std::ifstream file(path);
    std::ostringstream text;
    text << file.rdbuf();
    if (!file) throw std::runtime_error(path.string() + " cannot be read");
    return text.str();
}

void write(const std::filesystem::path& path, const std::string& text) {
    std::filesystem::create_directories(path.parent_path());
    std::ofstream file(path);
    file << text;
    if (!file.flush()) throw std::runtime_error(path.string() + " cannot be written");
}

void writeAll(const std::string& date, const std::filesystem::path& prose, const std::filesystem::path& out) {
    std::string version = mellow::versionText();
    version = version.substr(0, version.find(' '));
    for (const Command& command : {windowCommand(), toolCommand()}) {
        write(out / (command.name + ".1"),
              manPage(command, version, date, contentsOf(prose / (command.name + ".prose"))));
        write(out / "bash" / command.name, bashCompletion(command));
        write(out / "zsh" / ("_" + command.name), zshCompletion(command));
    }
}

}  // namespace

int main(int argc, char** argv) {
    if (argc != 4) {
        std::cerr << "usage: mellow-lever-words DATE PROSE_FOLDER OUT_FOLDER\n";
        return 2;
    }
    try {
        writeAll(argv[1], argv[2], argv[3]);
    } catch (const std::exception& error) {
        std::cerr << error.what() << '\n';
        return 2;
    }
    return 0;
}
