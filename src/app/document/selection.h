// What is selected: an address, and for each page the address that was selected there last, so that coming
// back to a page finds what one left.
//
// On the Chains page several of a kind can be selected together: instruments, chains of one owner, or
// branches of one chain. One of them is the address, and all of them are everySelected().
#pragma once

#include <QObject>
#include <algorithm>
#include <array>
#include <utility>
#include <variant>
#include <vector>

#include "app/document/address.h"

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
        if (address == address_ && together_.empty()) return;
        together_.clear();
        address_ = address;
        last_[address.index()] = address;
        emit changed();
    }
    void set(const Selected& selected) { go(selected); }
    /// Another document: nothing of the one before is selected on any page; the page that is shown stays.
    void forget() {
        last_ = nothingOnAny(std::make_index_sequence<std::variant_size_v<Address>>());
        together_.clear();
        address_ = last_[address_.index()];
        emit changed();
    }
    /// Selects several of a kind, of which one is shown: the others are of its kind and have its owner.
    void setTogether(const Selected& shown, std::vector<Selected> all) {
        if (all.size() < 2) all.clear();
        if (Address(shown) == address_ && all == together_) return;
        together_ = std::move(all);
        address_ = shown;
        last_[address_.index()] = address_;
        emit changed();
    }
    /// Whatever is selected together, in its order; otherwise now() alone.
    [[nodiscard]] std::vector<Selected> everySelected() const {
        return together_.empty() ? std::vector<Selected>{now()} : together_;
    }
    [[nodiscard]] bool isAmong(const Selected& one) const {
        return std::find(together_.begin(), together_.end(), one) != together_.end();
    }
    [[nodiscard]] bool areSeveral() const { return !together_.empty(); }
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
    std::vector<Selected> together_;  ///< empty: one is selected
    Addresses last_ = nothingOnAny(std::make_index_sequence<std::variant_size_v<Address>>());
};

}  // namespace mellow::app
