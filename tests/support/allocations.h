// Counts what a thread allocates while it is told to. It replaces the program's operators, so it is included
// by one file of a test program.
#pragma once

#include <cstdint>
#include <cstdlib>
#include <new>

namespace mellow::test {

inline thread_local bool counting = false;
inline thread_local std::uint64_t allocations = 0;

/// How often act() allocates, on this thread.
template<class Act>
std::uint64_t allocationsOf(Act&& act) {
    allocations = 0;
    counting = true;
    act();
    counting = false;
    return allocations;
}

inline void* counted(std::size_t size) {
    if (counting) ++allocations;
    if (void* memory = std::malloc(size)) return memory;
    std::abort();
}

}  // namespace mellow::test

void* operator new(std::size_t size) {
    return mellow::test::counted(size);
}
void* operator new[](std::size_t size) {
    return mellow::test::counted(size);
}
void* operator new(std::size_t size, const std::nothrow_t&) noexcept {
    return mellow::test::counted(size);
}
void operator delete(void* memory) noexcept {
    std::free(memory);
}
void operator delete[](void* memory) noexcept {
    std::free(memory);
}
void operator delete(void* memory, std::size_t) noexcept {
    std::free(memory);
}
void operator delete[](void* memory, std::size_t) noexcept {
    std::free(memory);
}
