// A name that nothing else has.
#pragma once

#include <string>

namespace mellow {

/// The wanted name, or with the first number behind it, from 2 on, that makes it one which is not taken.
template<class Taken>
std::string freshName(const std::string& wanted, Taken&& taken) {
    std::string name = wanted;
    for (int number = 2; taken(name); ++number) name = wanted + " " + std::to_string(number);
    return name;
}

}  // namespace mellow
