#pragma once

#include <string>

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

inline tl::unexpected<Problem> problem(std::string text) {
  return tl::unexpected<Problem>(Problem{std::move(text)});
}

}  // namespace ambulon
