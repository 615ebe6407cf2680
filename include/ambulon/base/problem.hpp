#pragma once

#include <cstdio>
#include <cstdlib>
#include <source_location>
#include <string>
#include <utility>

#include <tl/expected.hpp>

#include "ambulon/base/public.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The reason for a failure: one sentence that says what is wrong, where, how far off, and what to do.
struct Problem {
  std::string text;
};

/// A value, or the problem that prevented it.
template <class T>
using Expected = tl::expected<T, Problem>;

/// Returns the value. If there is a problem instead, prints its sentence and the location of the call to
/// standard error and aborts. For tests, tools, and values that only a programmer error can make invalid.
template <class T>
T must(Expected<T> result, std::source_location where = std::source_location::current()) {
  if (!result) {
    std::fprintf(stderr, "%s:%u: %s\n", where.file_name(), static_cast<unsigned>(where.line()),
                 result.error().text.c_str());
    std::abort();
  }
  if constexpr (!std::is_void_v<T>) return *std::move(result);
}

/// Returns a problem, for functions that return `Expected`.
inline tl::unexpected<Problem> problem(std::string text) {
  return tl::unexpected<Problem>(Problem{std::move(text)});
}

}  // namespace ambulon
