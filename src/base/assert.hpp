#pragma once

#include <cstdio>
#include <cstdlib>

/// Checks a precondition that only a programmer error can violate, such as a spot of another ground. Enabled
/// in debug and sanitizer builds (CMake option AMBULON_ASSERTIONS), where a violation prints `sentence` and
/// aborts. Disabled, it checks nothing, and the call has the harmless result that its comment states.
#ifdef AMBULON_ASSERTIONS
#define AMBULON_ASSERT(condition, sentence) \
  ((condition) ? void() : ::ambulon::assertion_failed(#condition, sentence, __FILE__, __LINE__))
#else
#define AMBULON_ASSERT(condition, sentence) static_cast<void>(sizeof((condition) ? 1 : 0))
#endif

namespace ambulon {

[[noreturn]] inline void assertion_failed(const char* condition, const char* sentence, const char* file,
                                          int line) {
  std::fprintf(stderr, "%s:%d: %s (%s)\n", file, line, sentence, condition);
  std::abort();
}

}  // namespace ambulon
