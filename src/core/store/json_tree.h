// A JSON document in memory, small.
//
// The text is read by nlohmann::json's parser, which knows the grammar, escapes and UTF-8 (RFC 8259); what it
// reports is kept as one list of nodes of sixteen bytes in document order, and its texts end to end. A tree
// of objects takes ten times that for a file of empty lists, and a hostile file is one. A node that has
// members or elements says where the next one behind it is, so that whoever looks for one can step over the
// others.
#pragma once

#include <cstddef>
#include <cstdint>
#include <deque>
#include <optional>
#include <string>
#include <string_view>

#include "core/result.h"

namespace mellow::store {

class JsonTree;

/// A value of a tree, which must outlive it; or none.
class JsonView {
 public:
    enum class Type : std::uint8_t { null, boolean, whole, unsignedWhole, number, text, list, object };

    JsonView() = default;
    explicit operator bool() const { return tree_ != nullptr; }

    [[nodiscard]] Type type() const;
    [[nodiscard]] bool isObject() const { return type() == Type::object; }
    [[nodiscard]] bool isList() const { return type() == Type::list; }
    [[nodiscard]] bool isText() const { return type() == Type::text; }
    [[nodiscard]] bool isNumber() const;
    [[nodiscard]] bool isFlag() const { return type() == Type::boolean; }
    [[nodiscard]] double number() const;
    [[nodiscard]] bool flag() const;
    [[nodiscard]] std::string_view text() const;
    /// The line of the text on which it begins; of a number, text or word, ends.
    [[nodiscard]] std::size_t line() const;
    /// How many elements or members it has.
    [[nodiscard]] std::size_t size() const;

    /// The first element, or the first member's value; none where there is none.
    [[nodiscard]] JsonView first() const;
    /// The one behind it in the same list or object.
    [[nodiscard]] JsonView next() const;
    /// Of a member's value.
    [[nodiscard]] std::string_view key() const;
    /// The last member with a key.
    [[nodiscard]] JsonView find(std::string_view key) const;

    /// It as JSON text, without spaces.
    [[nodiscard]] std::string print() const;

 private:
    friend class JsonTree;
    JsonView(const JsonTree* tree, std::uint32_t node, std::uint32_t stop, bool member)
        : tree_(tree), node_(node), stop_(stop), member_(member) {}
    void printTo(std::string& out) const;

    const JsonTree* tree_ = nullptr;
    std::uint32_t node_ = 0;
    std::uint32_t stop_ = 0;  ///< behind the last node of what it is part of
    bool member_ = false;     ///< of an object: its key stands in the node before it
};

/// The text of a member; empty: there is none.
inline std::string textAt(JsonView object, std::string_view key) {
    const JsonView value = object.find(key);
    return value && value.isText() ? std::string(value.text()) : std::string();
}

class JsonTree {
 public:
    /// Error: text that is not JSON, with the line. deepest: how deep lists and objects may be nested.
    static Result<JsonTree> parse(std::string_view text, std::size_t deepest);
    [[nodiscard]] JsonView root() const {
        return {this, 0, static_cast<std::uint32_t>(nodes_.size()), false};
    }

 private:
    friend class JsonView;
    friend class JsonBuilder;
    struct Stretch {
        std::uint32_t offset;  ///< in texts_
        std::uint32_t length;
    };
    struct Node {
        std::uint32_t end = 0;  ///< the node behind it and all that is in it
        std::uint32_t line : 24;
        JsonView::Type type : 8;
        union {
            double number = 0;
            std::int64_t whole;
            std::uint64_t unsignedWhole;
            Stretch text;
            std::uint64_t count;  ///< of elements or members
        };
    };
    static_assert(sizeof(Node) == 16);

    std::deque<Node> nodes_;
    std::string texts_;
};

}  // namespace mellow::store
