// What is selected: an address, and for each page the address that was selected there last, so that coming
// back to a page finds what one left.
#pragma once

#include <QObject>
#include <array>
#include <utility>
#include <variant>

#include "app/address.h"

namespace mellow::app {

class Selection : public QObject {
    Q_OBJECT

 public:
    using QObject::QObject;

    [[nodiscard]] const Address& address() const { return address_; }
    /// What is, or was, selected on the page whose alternative this is.
    template<class OnPage>
    [[nodiscard]] const OnPage& on() const {
        return std::get<OnPage>(last_[Address(OnPage{}).index()]);
    }
    /// What is selected on the Chains page, which the ensemble list shows too.
    [[nodiscard]] const Selected& now() const { return on<Selected>(); }

    /// The address that was selected last on the page of another address.
    [[nodiscard]] const Address& lastOn(const Address& alternative) const {
        return last_[alternative.index()];
    }

    void go(const Address& address) {
        if (address == address_) return;
        address_ = address;
        last_[address.index()] = address;
        emit changed();
    }
    void set(const Selected& selected) { go(selected); }
    /// Selects something instead of what is gone, without leaving the page that is shown for it.
    void amend(const Address& address) {
        if (address.index() == address_.index()) return go(address);
        last_[address.index()] = address;
    }

 signals:
    void changed();

 private:
    using Addresses = std::array<Address, std::variant_size_v<Address>>;
    /// One of each alternative, naming nothing.
    template<std::size_t... places>
    static Addresses nothingOnAny(std::index_sequence<places...>) {
        return {Address(std::in_place_index<places>)...};
    }

    Address address_;
    Addresses last_ = nothingOnAny(std::make_index_sequence<std::variant_size_v<Address>>());
};

}  // namespace mellow::app
