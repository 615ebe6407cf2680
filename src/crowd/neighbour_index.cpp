#include "ambulon/crowd/neighbour_index.hpp"

#include <bit>

namespace ambulon {

void NeighbourIndex::build(std::span<const Entry> points, float cell) {
  per_metre_ = 1.f / cell;
  const std::size_t buckets = std::bit_ceil(std::max<std::size_t>(16, points.size()));
  mask_ = static_cast<std::uint32_t>(buckets - 1);
  starts_.assign(buckets + 1, 0);
  buckets_.resize(points.size());
  sorted_.resize(points.size());
  // A counting sort: how many are in each bucket, where each bucket begins, and everybody into place.
  for (std::size_t i = 0; i < points.size(); ++i) {
    buckets_[i] = bucket_of(row(points[i].at.x), row(points[i].at.y));
    ++starts_[buckets_[i] + 1];
  }
  for (std::size_t i = 1; i < starts_.size(); ++i) starts_[i] += starts_[i - 1];
  for (std::size_t i = points.size(); i-- > 0;) sorted_[--starts_[buckets_[i] + 1]] = points[i];
  // Each start stands where its bucket's end was counted, one further on; shift them back.
  for (std::size_t i = 0; i + 1 < starts_.size(); ++i) starts_[i] = starts_[i + 1];
  starts_.back() = static_cast<std::uint32_t>(points.size());
}

}  // namespace ambulon
