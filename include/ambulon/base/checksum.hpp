#pragma once

#include <cstddef>
#include <cstdint>
#include <span>

namespace ambulon {

/// A number by which to tell whether bytes are still the same: G. Fowler, L. C. Noll and K.-P. Vo's hash of
/// 64 bits (FNV-1a, RFC 9923).
inline std::uint64_t checksum(std::span<const std::byte> bytes) {
  std::uint64_t sum = 0xcbf29ce484222325;
  for (const std::byte each : bytes) sum = (sum ^ static_cast<std::uint64_t>(each)) * 0x100000001b3;
  return sum;
}

}  // namespace ambulon
