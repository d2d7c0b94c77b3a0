// The parser is given an iterator that counts lines as it passes them, and calls the builder for each value;
// the builder appends a node and, where a list or object ends, writes into its first node where that was.
// Walking goes from node to node by those ends.
#include "core/store/json_tree.h"

#include <algorithm>
#include <iterator>
#include <nlohmann/json.hpp>
#include <vector>

namespace mellow::store {

namespace {

using Library = nlohmann::json;

/// As JSON; what is not UTF-8 is replaced, since nothing is thrown here.
std::string shown(std::string_view text) {
    return Library(text).dump(-1, ' ', false, Library::error_handler_t::replace);
}

/// Where the parser stands, so that what it reports can be given a line.
struct Reading {
    const char* at = nullptr;
    std::size_t line = 1;  ///< of the next character

    /// The line of what was reported last; of a number the parser has seen the character behind it too.
    [[nodiscard]] std::size_t lineOfLast() const { return at[-1] == '\n' ? line - 1 : line; }
};

/// The characters of a text, which note where the parser stands as it takes them.
class Characters {
 public:
    using iterator_category = std::input_iterator_tag;
    using value_type = char;
    using difference_type = std::ptrdiff_t;
    using pointer = const char*;
    using reference = const char&;

    explicit Characters(Reading* reading) : reading_(reading) {}
    explicit Characters(const char* end) : end_(end) {}
    reference operator*() const { return *reading_->at; }
    Characters& operator++() {
        if (*reading_->at++ == '\n') ++reading_->line;
        return *this;
    }
    bool operator==(const Characters& end) const { return reading_->at == end.end_; }

 private:
    Reading* reading_ = nullptr;
    const char* end_ = nullptr;
};

}  // namespace

/// What the parser calls as it reads (nlohmann::json, "SAX interface"); false ends the reading.
class JsonBuilder {
 public:
    JsonBuilder(JsonTree& tree, std::string_view text, const Reading& reading, std::size_t deepest)
        : tree_(tree), text_(text), reading_(reading), deepest_(deepest) {}

    bool null() {
        add(JsonView::Type::null);
        return true;
    }
    bool boolean(bool value) {
        add(JsonView::Type::boolean).count = value ? 1 : 0;
        return true;
    }
    bool number_integer(std::int64_t value) {
        add(JsonView::Type::whole).whole = value;
        return true;
    }
    bool number_unsigned(std::uint64_t value) {
        add(JsonView::Type::unsignedWhole).unsignedWhole = value;
        return true;
    }
    bool number_float(double value, const std::string&) {
        add(JsonView::Type::number).number = value;
        return true;
    }
    bool string(std::string& value) {
        addText(value);
        return true;
    }
    bool binary(std::vector<std::uint8_t>&) { return false; }
    bool key(std::string& value) {
        addText(value);
        --tree_.nodes_[open_.back()].count;  // A key is no member of its own.
        return true;
    }
    bool start_object(std::size_t) { return start(JsonView::Type::object); }
    bool start_array(std::size_t) { return start(JsonView::Type::list); }
    bool end_object() { return end(); }
    bool end_array() { return end(); }
    bool parse_error(std::size_t byte, const std::string&, const Library::exception& error) {
        constexpr int outOfRange = 406;
        const std::string line = "line " + std::to_string(byte == 0 ? 1 : reading_.lineOfLast());
        if (byte > text_.size()) {
            problem = Problem{line, "the document ends before it is complete",
                              "open a whole copy of it, or an earlier save"};
            return false;
        }
        const std::string what = error.id == outOfRange ? "a number is too large" : "this is not JSON";
        problem = Problem{line, what + " (byte " + std::to_string(byte) + ")",
                          "open a file that Mellow Lever saved, or mend that line"};
        return false;
    }

    std::optional<Problem> problem;

 private:
    JsonTree::Node& add(JsonView::Type type) {
        if (!open_.empty()) ++tree_.nodes_[open_.back()].count;
        JsonTree::Node& node = tree_.nodes_.emplace_back();
        node.type = type;
        constexpr std::size_t lastLine = (1U << 24) - 1;
        node.line = static_cast<std::uint32_t>(std::min(reading_.lineOfLast(), lastLine));
        node.end = static_cast<std::uint32_t>(tree_.nodes_.size());
        return node;
    }
    void addText(const std::string& value) {
        JsonTree::Node& node = add(JsonView::Type::text);
        node.text = {static_cast<std::uint32_t>(tree_.texts_.size()),
                     static_cast<std::uint32_t>(value.size())};
        tree_.texts_ += value;
    }
    bool start(JsonView::Type type) {
        add(type).count = 0;
        open_.push_back(static_cast<std::uint32_t>(tree_.nodes_.size() - 1));
        if (open_.size() <= deepest_) return true;
        problem = Problem{"the document", "lists are nested deeper than an ensemble's ever are",
                          "choose an ensemble"};
        return false;
    }
    bool end() {
        tree_.nodes_[open_.back()].end = static_cast<std::uint32_t>(tree_.nodes_.size());
        open_.pop_back();
        return true;
    }

    JsonTree& tree_;
    std::string_view text_;
    const Reading& reading_;
    std::size_t deepest_;
    std::vector<std::uint32_t> open_;  ///< nodes of the lists and objects that the next value is in
};

Result<JsonTree> JsonTree::parse(std::string_view text, std::size_t deepest) {
    JsonTree tree;
    Reading reading{text.data()};
    JsonBuilder builder(tree, text, reading, deepest);
    if (!Library::sax_parse(Characters(&reading), Characters(text.data() + text.size()), &builder) ||
        builder.problem)
        return builder.problem.value_or(Problem{"line 1", "this is not JSON", "choose an ensemble"});
    return tree;
}

JsonView::Type JsonView::type() const {
    return tree_ == nullptr ? Type::null : tree_->nodes_[node_].type;
}

std::size_t JsonView::line() const {
    return tree_->nodes_[node_].line;
}

bool JsonView::isNumber() const {
    return type() == Type::whole || type() == Type::unsignedWhole || type() == Type::number;
}

double JsonView::number() const {
    const JsonTree::Node& node = tree_->nodes_[node_];
    if (node.type == Type::whole) return static_cast<double>(node.whole);
    if (node.type == Type::unsignedWhole) return static_cast<double>(node.unsignedWhole);
    return node.number;
}

bool JsonView::flag() const {
    return tree_->nodes_[node_].count != 0;
}

std::string_view JsonView::text() const {
    const auto& at = tree_->nodes_[node_].text;
    return std::string_view(tree_->texts_).substr(at.offset, at.length);
}

std::size_t JsonView::size() const {
    return isObject() || isList() ? tree_->nodes_[node_].count : 0;
}

JsonView JsonView::first() const {
    if (size() == 0) return {};
    const std::uint32_t stop = tree_->nodes_[node_].end;
    return isObject() ? JsonView(tree_, node_ + 2, stop, true) : JsonView(tree_, node_ + 1, stop, false);
}

JsonView JsonView::next() const {
    const std::uint32_t behind = tree_->nodes_[node_].end;
    if (behind >= stop_) return {};
    return {tree_, behind + (member_ ? 1 : 0), stop_, member_};
}

std::string_view JsonView::key() const {
    return JsonView(tree_, node_ - 1, stop_, false).text();
}

JsonView JsonView::find(std::string_view wanted) const {
    JsonView found;
    for (JsonView each = isObject() ? first() : JsonView(); each; each = each.next()) {
        if (each.key() == wanted) found = each;
    }
    return found;
}

std::string JsonView::print() const {
    std::string out;
    printTo(out);
    return out;
}

void JsonView::printTo(std::string& out) const {
    const JsonTree::Node& node = tree_->nodes_[node_];
    switch (node.type) {
        case Type::null:
            out += "null";
            break;
        case Type::boolean:
            out += flag() ? "true" : "false";
            break;
        case Type::whole:
            out += std::to_string(node.whole);
            break;
        case Type::unsignedWhole:
            out += std::to_string(node.unsignedWhole);
            break;
        case Type::number:
            out += Library(node.number).dump();
            break;
        case Type::text:
            out += shown(text());
            break;
        case Type::list:
        case Type::object: {
            out += isObject() ? '{' : '[';
            for (JsonView each = first(); each;) {
                if (isObject()) out += shown(each.key()) + ":";
                each.printTo(out);
                each = each.next();
                if (each) out += ',';
            }
            out += isObject() ? '}' : ']';
            break;
        }
    }
}

}  // namespace mellow::store
