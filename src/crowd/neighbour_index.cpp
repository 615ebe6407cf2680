#include "ambulon/crowd/neighbour_index.hpp"

#include <bit>
#include <utility>

namespace ambulon {

void NeighbourIndex::build(std::span<const Entry> points, float cell) {
  constexpr std::uint32_t least_bits = 4;
  per_metre_ = 1.f / cell;
  const auto wanted = static_cast<std::uint32_t>(std::bit_width(points.size()));  // a cell for each, or more
  bits_ = std::max(least_bits, (wanted + 1) / 2);
  mask_ = (1U << bits_) - 1;
  starts_.assign((std::size_t{1} << 2 * bits_) + 1, 0);
  buckets_.resize(points.size());
  sorted_.resize(points.size());
  // A counting sort: how many are in each cell, where each cell begins, and everybody into place.
  for (std::size_t i = 0; i < points.size(); ++i) ++starts_[buckets_[i] = bucket_of(points[i].at)];
  std::uint32_t before = 0;
  for (std::uint32_t& start : starts_) before += std::exchange(start, before);
  for (std::size_t i = 0; i < points.size(); ++i) sorted_[starts_[buckets_[i]]++] = points[i];
  // Each start has come to stand where its cell ends, which is where the next one begins.
  std::shift_right(starts_.begin(), starts_.end(), 1);
  starts_.front() = 0;
}

}  // namespace ambulon
