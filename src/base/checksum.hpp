#pragma once

#include <cstddef>
#include <cstdint>
#include <span>

namespace ambulon {

/// Returns the 64-bit FNV-1a hash of `bytes` (G. Fowler, L. C. Noll, K.-P. Vo; RFC 9923). It detects
/// accidental changes, not deliberate ones.
inline std::uint64_t checksum(std::span<const std::byte> bytes) {
  std::uint64_t sum = 0xcbf29ce484222325;
  for (const std::byte each : bytes) sum = (sum ^ static_cast<std::uint64_t>(each)) * 0x100000001b3;
  return sum;
}

}  // namespace ambulon
