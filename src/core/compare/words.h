// Values of a document as a person reads them beside one another.
#pragma once

#include <array>
#include <map>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/model/ensemble.h"

namespace mellow::compare {

/// What a key of the document is called in a sentence: "keepOriginal" is "keep original".
std::string keyWords(std::string_view key);

std::string valueWords(bool value);
std::string valueWords(double value);
std::string valueWords(int value);
std::string valueWords(std::int64_t value);
std::string valueWords(const std::string& value);
std::string valueWords(const Level& value);
std::string valueWords(const Message& value);
std::string valueWords(const BranchWindow& value);
std::string valueWords(const Select& value);
std::string valueWords(const std::array<int, 2>& value);
std::string valueWords(const std::array<int, 4>& value);
std::string valueWords(const std::map<std::string, std::string>& value);

template<class Value>
std::string valueWords(const std::vector<Value>& values) {
    std::string all;
    for (const Value& value : values) all += (all.empty() ? "" : ", ") + valueWords(value);
    return all;
}

/// An enumerator by the words of its key.
template<class Enumerator>
std::string enumeratorWords(std::span<const std::string_view> words, Enumerator value) {
    const auto place = static_cast<std::size_t>(value);
    return place < words.size() ? keyWords(words[place]) : std::to_string(place);
}

/// "Bend +0.35", with every number that differs from another step of its kind.
std::string stepWords(const Step& step, const Step& other);

}  // namespace mellow::compare
