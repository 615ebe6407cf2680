#pragma once

#include <algorithm>
#include <cstdint>
#include <optional>
#include <span>
#include <vector>

namespace ambulon {

/// A log of the last changes of a ground, with the box and the revision of each.
template <class Box>
class Edits {
 public:
  struct Edit {
    std::uint64_t revision = 0;
    Box box;
    bool opens = false;  ///< ground may have opened or become cheaper
  };

  /// Increments the revision, for a change within `box`.
  void add(const Box& box, bool opens) {
    if (edits_.size() == kept) {
      forgotten_ = edits_[kept / 2 - 1].revision;
      edits_.erase(edits_.begin(), edits_.begin() + kept / 2);
    }
    edits_.push_back({++revision_, box, opens});
  }

  /// Returns the revision; the first one is 1.
  std::uint64_t revision() const { return revision_; }
  /// Returns the changes since a revision; nothing if the log does not reach back to it.
  std::optional<std::span<const Edit>> since(std::uint64_t revision) const {
    if (revision < forgotten_) return std::nullopt;
    return std::span(std::ranges::upper_bound(edits_, revision, {}, &Edit::revision), edits_.end());
  }

 private:
  static constexpr std::size_t kept = 256;

  std::vector<Edit> edits_;
  std::uint64_t forgotten_ = 0;  // revision of the last edit that was dropped
  std::uint64_t revision_ = 1;
};

}  // namespace ambulon
