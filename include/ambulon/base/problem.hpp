#pragma once

#include <cstdio>
#include <cstdlib>
#include <source_location>
#include <string>
#include <utility>

#include <tl/expected.hpp>

namespace ambulon {

/// Why something could not be done: one sentence that says what is wrong, where, how far off, and
/// what would do.
struct Problem {
  std::string text;
};

/// A value, or the problem that stood in its way.
template <class T>
using Expected = tl::expected<T, Problem>;

/// The value. Where there is a problem instead, writes its sentence and the place of the call to the standard
/// error and ends the program: for tests, tools, and values that only a mistake in the code can make wrong.
template <class T>
T must(Expected<T> result, std::source_location where = std::source_location::current()) {
  if (!result) {
    std::fprintf(stderr, "%s:%u: %s\n", where.file_name(), static_cast<unsigned>(where.line()),
                 result.error().text.c_str());
    std::abort();
  }
  if constexpr (!std::is_void_v<T>) return *std::move(result);
}

inline tl::unexpected<Problem> problem(std::string text) {
  return tl::unexpected<Problem>(Problem{std::move(text)});
}

}  // namespace ambulon
