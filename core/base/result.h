#pragma once
// The outcome of a call that can fail for a reason that a person should read.
// Threads: plain values; each thread has its own.
#include <string>
#include <utility>
#include <variant>

namespace hue {

/// Ids are short texts that survive renames. Empty means none.
using Id = std::string;

/// Where something is wrong: any part may be empty. `port` is a port of `node`, or a channel when `node` is empty.
struct Place {
    Id master;
    Id node;
    std::string port;
    bool operator==(const Place&) const = default;
};

/// What went wrong. `code` is stable and may be tested for; `sentence` says what happened, where, and what to do.
struct Error {
    std::string code;
    std::string sentence;
    Place place;
};

/// Either a value or an Error.
template <class T> class [[nodiscard]] Result {
  public:
    Result(T value) : m_content(std::move(value)) {}
    Result(Error error) : m_content(std::move(error)) {}
    explicit operator bool() const { return m_content.index() == 0; }
    T& operator*() { return std::get<0>(m_content); }
    const T& operator*() const { return std::get<0>(m_content); }
    T* operator->() { return &std::get<0>(m_content); }
    const T* operator->() const { return &std::get<0>(m_content); }
    const Error& error() const { return std::get<1>(m_content); }

  private:
    std::variant<T, Error> m_content;
};

struct Done {};
using Outcome = Result<Done>;

} // namespace hue
