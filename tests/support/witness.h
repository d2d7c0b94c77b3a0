// What a window heard and sent.
#pragma once

#include <algorithm>
#include <vector>

#include "support/window.h"

namespace mellow::test {

/// Everything that came in and went out while it lives.
class Witness {
 public:
    explicit Witness(Window& window) : window_(window) {
        connection_ = QObject::connect(
            &window->live(), &app::Live::happened,
            [this](const io::Happening& happening) { (happening.out ? out : in).push_back(happening); });
    }
    ~Witness() { QObject::disconnect(connection_); }

    bool came(int status, int first, int second = -1) const { return any(in, status, first, second); }
    bool sent(const std::string& instrument, int status, int first, int second = -1) const {
        return std::any_of(out.begin(), out.end(), [&](const io::Happening& each) {
            return window_->live().readings().instrumentId(each.instrument) == instrument &&
                   fits(each, status, first, second);
        });
    }

    std::vector<io::Happening> in, out;

 private:
    static bool fits(const io::Happening& each, int status, int first, int second) {
        const auto& data = each.message.data;
        return data[0] == status && data[1] == first && (second < 0 || data[2] == second);
    }
    static bool any(const std::vector<io::Happening>& list, int status, int first, int second) {
        return std::any_of(list.begin(), list.end(),
                           [&](const io::Happening& each) { return fits(each, status, first, second); });
    }

    Window& window_;
    QMetaObject::Connection connection_;
};

}  // namespace mellow::test
