#pragma once

#include <cstdint>
#include <cstdlib>

inline void require(bool holds) {
  if (!holds) std::abort();
}

/// The input, number by number; zeros after its end.
struct Numbers {
  const std::uint8_t* data;
  std::size_t size;
  int next(int below) {
    if (size == 0) return 0;
    --size;
    return *data++ % below;
  }
  bool empty() const { return size == 0; }
};
