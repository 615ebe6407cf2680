#pragma once

#include <cstdio>
#include <cstdlib>

/// Checks what only a mistake in the calling program can break, such as a spot of another ground. On in debug
/// and sanitizer builds (the CMake option AMBULON_ASSERTIONS): then the program ends with a sentence.
/// Otherwise nothing is checked, and the call answers harmlessly, as its comment says.
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
