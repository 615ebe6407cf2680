#pragma once

#include <algorithm>
#include <cstdint>
#include <optional>
#include <span>
#include <vector>

namespace ambulon {

/// The latest changes of a ground: where each was, and of which revision.
template <class Box>
class Edits {
 public:
  struct Edit {
    std::uint64_t revision = 0;
    Box box;
    bool opens = false;  ///< there may be more ground in the box than before, or cheaper ground
  };

  /// Raises the revision; what has changed lies in `box`.
  void add(const Box& box, bool opens) {
    if (edits_.size() == kept) {
      forgotten_ = edits_[kept / 2 - 1].revision;
      edits_.erase(edits_.begin(), edits_.begin() + kept / 2);
    }
    edits_.push_back({++revision_, box, opens});
  }

  /// Starts at 1.
  std::uint64_t revision() const { return revision_; }
  /// The changes since that revision; nothing when it is too long ago to tell.
  std::optional<std::span<const Edit>> since(std::uint64_t revision) const {
    if (revision < forgotten_) return std::nullopt;
    return std::span(std::ranges::upper_bound(edits_, revision, {}, &Edit::revision), edits_.end());
  }

 private:
  static constexpr std::size_t kept = 256;

  std::vector<Edit> edits_;
  std::uint64_t forgotten_ = 0;  // revision of the last edit that is not in there any more
  std::uint64_t revision_ = 1;
};

}  // namespace ambulon
