#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <memory_resource>
#include <span>
#include <vector>

#include "ambulon/base/vec.hpp"

namespace ambulon {

/// Who is near a place: points sorted into square cells, which are found by a hash of their
/// coordinates, so the points may lie anywhere. Building allocates nothing once it has seen as many
/// points. Answers come cell by cell and within a cell in the order the points were given in, so the
/// same points give the same order.
class NeighbourIndex {
 public:
  explicit NeighbourIndex(std::pmr::memory_resource* memory = std::pmr::get_default_resource())
      : starts_(memory), sorted_(memory), buckets_(memory) {}

  /// A point, and what it is called.
  struct Entry {
    vec2 at{0.f};
    std::uint32_t name = 0;
  };

  /// Forgets what it held and takes in `points` (finite). `cell`: metres (> 0), best near the radius
  /// most asked for.
  void build(std::span<const Entry> points, float cell);

  /// Calls `visit(Entry)` for each point at most `radius` metres (>= 0) from `centre`.
  template <class Visit>
  void near(vec2 centre, float radius, Visit&& visit) const {
    const std::int64_t left = row(centre.x - radius), right = row(centre.x + radius);
    const std::int64_t low = row(centre.y - radius), high = row(centre.y + radius);
    const auto tried = [&](const Entry& entry) {
      const vec2 off = entry.at - centre;
      if (glm::dot(off, off) <= radius * radius) visit(entry);
    };
    // Asking for more cells than there are points costs more than asking each point.
    if (static_cast<double>(right - left + 1) * static_cast<double>(high - low + 1) >
        static_cast<double>(sorted_.size())) {
      std::for_each(sorted_.begin(), sorted_.end(), tried);
      return;
    }
    for (std::int64_t y = low; y <= high; ++y)
      for (std::int64_t x = left; x <= right; ++x) {
        const std::uint32_t bucket = bucket_of(x, y);
        for (std::uint32_t i = starts_[bucket]; i < starts_[bucket + 1]; ++i)
          if (row(sorted_[i].at.x) == x && row(sorted_[i].at.y) == y) tried(sorted_[i]);
      }
  }

 private:
  std::int64_t row(float metres) const { return static_cast<std::int64_t>(std::floor(metres * per_metre_)); }
  std::uint32_t bucket_of(std::int64_t x, std::int64_t y) const {
    const auto mixed = static_cast<std::uint64_t>(x) * 0x9E3779B97F4A7C15ULL ^
                       static_cast<std::uint64_t>(y) * 0xC2B2AE3D27D4EB4FULL;
    return static_cast<std::uint32_t>(mixed >> 32U) & mask_;
  }

  std::pmr::vector<std::uint32_t> starts_;  // of each bucket in `sorted_`, and the end of the last
  std::pmr::vector<Entry> sorted_;
  std::pmr::vector<std::uint32_t> buckets_;  // of each point given
  std::uint32_t mask_ = 0;
  float per_metre_ = 1.f;
};

}  // namespace ambulon
