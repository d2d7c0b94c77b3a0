// A claim on a document: which of several windows may change it.
//
// The claim is a lock on a file beside the document, which the system takes away from whoever dies, however
// that happens. Another who wants the document writes a demand into the file; the owner, who looks now and
// then, gives it up.
#pragma once

#include <filesystem>

namespace mellow::io {

class Claim {
 public:
    Claim() = default;
    ~Claim() { release(); }
    Claim(const Claim&) = delete;
    Claim& operator=(const Claim&) = delete;

    enum class Taken { yes, byAnother, cannotTell };
    /// Takes a document's lock. cannotTell: there can be no file beside it, and then nobody is told apart.
    Taken take(const std::filesystem::path& lock);
    void release();
    /// Asks the owner of a lock to give it up.
    static void demand(const std::filesystem::path& lock);
    /// Whether somebody demands what is held here.
    [[nodiscard]] bool isDemanded() const;
    [[nodiscard]] bool holds() const { return descriptor_ >= 0; }

 private:
    std::filesystem::path lock_;
    int descriptor_ = -1;
};

}  // namespace mellow::io
