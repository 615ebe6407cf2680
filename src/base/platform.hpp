#pragma once
// What differs between compilers. AMBULON_PORTABLE (a CMake option) forces the portable fallbacks, which give
// the same results.

#if (defined(__GNUC__) || defined(__clang__)) && !defined(AMBULON_PORTABLE)
#define AMBULON_ALWAYS_INLINE [[gnu::always_inline]] inline
#define AMBULON_PACKED [[gnu::packed]]
#else
#define AMBULON_ALWAYS_INLINE inline
#define AMBULON_PACKED
#endif

namespace ambulon {

/// Loads a cache line that is needed soon. Does nothing where the compiler has no such instruction.
inline void prefetch_line(const void* address) {
#if (defined(__GNUC__) || defined(__clang__)) && !defined(AMBULON_PORTABLE)
  __builtin_prefetch(address);
#else
  (void)address;
#endif
}

/// As `prefetch_line`, for a line that is written.
inline void prefetch_for_writing(const void* address) {
#if (defined(__GNUC__) || defined(__clang__)) && !defined(AMBULON_PORTABLE)
  __builtin_prefetch(address, 1);
#else
  (void)address;
#endif
}

}  // namespace ambulon
