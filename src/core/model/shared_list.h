// A list whose copies share their elements until one of them changes.
//
// An ensemble is copied for every edit, kept for undo, and compared with what was played before. Nearly all
// of it is the same each time. So elements are held by reference, and whoever wants to change one gets a copy
// of its own first, unless nobody else holds it. Copying a list then costs a pointer an element, and two
// lists that hold the same element are equal there without looking. Whoever keeps an element (share()) can
// see later by its address that it is still the same, which is how the compiler leaves alone what an edit
// left alone.
//
// Sharing is never seen otherwise: this is a sequence of values. Asking for an element of a list that may be
// changed counts as changing it, so look at lists through const, and change by findById(). Copies that
// different threads change must be copied in one of them first.
#pragma once

#include <atomic>
#include <cstddef>
#include <iterator>
#include <memory>
#include <type_traits>
#include <utility>
#include <vector>

namespace mellow {

template<class T>
class SharedList {
    /// A random-access iterator by place, so that looking through it can tell reading from changing.
    template<class List, class Value>
    class Walker {
     public:
        using iterator_category = std::random_access_iterator_tag;
        using value_type = T;
        using difference_type = std::ptrdiff_t;
        using pointer = Value*;
        using reference = Value&;

        Walker() = default;
        Walker(List* list, std::ptrdiff_t place) : list_(list), place_(place) {}
        /// One that changes can stand for one that reads.
        operator Walker<const SharedList, const T>() const { return {list_, place_}; }

        reference operator*() const { return (*list_)[static_cast<std::size_t>(place_)]; }
        pointer operator->() const { return &**this; }
        reference operator[](std::ptrdiff_t by) const { return *(*this + by); }
        Walker& operator+=(std::ptrdiff_t by) {
            place_ += by;
            return *this;
        }
        Walker& operator-=(std::ptrdiff_t by) { return *this += -by; }
        Walker& operator++() { return *this += 1; }
        Walker& operator--() { return *this += -1; }
        Walker operator++(int) { return std::exchange(*this, *this + 1); }
        Walker operator--(int) { return std::exchange(*this, *this - 1); }
        friend Walker operator+(Walker walker, std::ptrdiff_t by) { return walker += by; }
        friend Walker operator+(std::ptrdiff_t by, Walker walker) { return walker += by; }
        friend Walker operator-(Walker walker, std::ptrdiff_t by) { return walker -= by; }
        friend std::ptrdiff_t operator-(const Walker& a, const Walker& b) { return a.place_ - b.place_; }
        friend bool operator==(const Walker& a, const Walker& b) { return a.place_ == b.place_; }
        friend auto operator<=>(const Walker& a, const Walker& b) { return a.place_ <=> b.place_; }

     private:
        List* list_ = nullptr;
        std::ptrdiff_t place_ = 0;
    };

 public:
    using value_type = T;
    using iterator = Walker<SharedList, T>;
    using const_iterator = Walker<const SharedList, const T>;

    SharedList() = default;
    SharedList(std::initializer_list<T> values) : SharedList(std::vector<T>(values)) {}
    SharedList(std::vector<T> values) {
        elements_.reserve(values.size());
        for (T& value : values) push_back(std::move(value));
    }

    [[nodiscard]] std::size_t size() const { return elements_.size(); }
    [[nodiscard]] bool empty() const { return elements_.empty(); }
    [[nodiscard]] const T& operator[](std::size_t place) const { return *elements_[place]; }
    [[nodiscard]] const T& front() const { return *elements_.front(); }
    [[nodiscard]] const T& back() const { return *elements_.back(); }
    [[nodiscard]] const_iterator begin() const { return {this, 0}; }
    [[nodiscard]] const_iterator end() const { return {this, static_cast<std::ptrdiff_t>(size())}; }

    /// Each of these makes the element this list's own.
    T& operator[](std::size_t place) {
        std::shared_ptr<T>& element = elements_[place];
        if (element.use_count() > 1) {
            element = std::make_shared<T>(*element);
        } else {
            // Whoever let go of it last has read it to the end.
            std::atomic_thread_fence(std::memory_order_acquire);
        }
        return *element;
    }
    T& front() { return (*this)[0]; }
    T& back() { return (*this)[size() - 1]; }
    iterator begin() { return {this, 0}; }
    iterator end() { return {this, static_cast<std::ptrdiff_t>(size())}; }

    void push_back(T value) { elements_.push_back(std::make_shared<T>(std::move(value))); }
    iterator insert(const_iterator before, T value) {
        const std::ptrdiff_t place = before - std::as_const(*this).begin();
        elements_.insert(elements_.begin() + place, std::make_shared<T>(std::move(value)));
        return begin() + place;
    }
    iterator erase(const_iterator gone) {
        const std::ptrdiff_t place = gone - std::as_const(*this).begin();
        elements_.erase(elements_.begin() + place);
        return begin() + place;
    }
    void resize(std::size_t count) {
        while (size() < count) push_back({});
        elements_.resize(count);
    }
    void clear() { elements_.clear(); }
    template<class Predicate>
    friend std::size_t erase_if(SharedList& list, Predicate&& goes) {
        return std::erase_if(list.elements_,
                             [&goes](const auto& element) { return goes(std::as_const(*element)); });
    }

    /// Appends an element of another list, which from then on both have.
    void share(const SharedList& other, std::size_t place) { elements_.push_back(other.elements_[place]); }
    /// Keeps an element as it is now, whatever becomes of the list.
    [[nodiscard]] std::shared_ptr<const T> share(std::size_t place) const { return elements_[place]; }

    bool operator==(const SharedList& other) const {
        if (size() != other.size()) return false;
        for (std::size_t i = 0; i < size(); ++i) {
            if (elements_[i] != other.elements_[i] && !(*elements_[i] == *other.elements_[i])) return false;
        }
        return true;
    }

 private:
    std::vector<std::shared_ptr<T>> elements_;
};

}  // namespace mellow
