#pragma once

#include <cstdint>
#include <memory>
#include <memory_resource>
#include <optional>
#include <span>
#include <string_view>
#include <vector>

#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/base/range.hpp"
#include "ambulon/base/vec.hpp"

namespace AMBULON_PUBLIC ambulon {

class Curve;

/// A point of a beat, and what an NPC does there.
struct Waypoint {
  vec3 position{0.f};                ///< metres
  Range pause{};                     ///< seconds to stand, drawn at each visit; 0 to 1e6
  std::optional<float> facing = {};  ///< radians: heading to turn to on arrival
  float within = 0.f;  ///< metres from it that count as arrived, up to 1000; 0: as the order says
  float weight = 1.f;  ///< relative probability that `hop` chooses it, 0 to 1e6
};

/// The id of a waypoint. It stays valid while other waypoints are added, moved and removed.
enum class WaypointId : std::uint32_t {};

/// How far a patrol has got on its beat.
struct BeatPosition {
  WaypointId waypoint = {};  ///< the waypoint that it is heading for; 0: none
  bool reversed = false;     ///< it walks a `back_and_forth` beat from last to first
  friend bool operator==(const BeatPosition&, const BeatPosition&) = default;
};

/// The order in which waypoints are visited.
enum class BeatOrder : std::uint8_t {
  around,          ///< first to last, then from the first again
  back_and_forth,  ///< first to last and back
  once,            ///< first to last, where the patrol ends
  shuffled,        ///< random, never the same twice in a row
};

/// The path between waypoints.
enum class BeatPath : std::uint8_t {
  straight,  ///< the shortest route
  curve,     ///< one smooth curve through all waypoints
};

/// Returns the word of scene files.
std::string_view name(BeatOrder order);
/// Returns the word of scene files.
std::string_view name(BeatPath path);

/// Waypoints that any number of NPCs patrol. It may change meanwhile: each NPC continues to the waypoint it
/// was heading for or, if that was removed, to the one now in its place.
///
///     const auto beat = *ambulon::make_beat(points, ambulon::BeatOrder::back_and_forth);
///     lamplighter.patrol(beat);
class Beat {
 public:
  explicit Beat(BeatOrder order = BeatOrder::around, BeatPath path = BeatPath::straight,
                std::pmr::memory_resource* memory = std::pmr::get_default_resource());

  /// Copies the waypoints and their ids. Later changes of one beat do not affect the other.
  Beat(const Beat& other);
  Beat& operator=(const Beat&) = delete;

  /// Adds a waypoint at the end, or before another. Returns a problem if it is invalid.
  Expected<WaypointId> add(const Waypoint& waypoint, std::optional<WaypointId> before = std::nullopt);
  /// Adds several waypoints at the end. The curve is computed once: O(n), where n calls of `add` are O(n^2).
  /// Returns a problem, and adds none, if one is invalid.
  Expected<void> append(std::span<const Waypoint> waypoints);
  /// Replaces a waypoint. Returns a problem if there is none of that id, or if the new one is invalid.
  Expected<void> change(WaypointId id, const Waypoint& waypoint);
  /// Moves a waypoint to `position` (metres).
  Expected<void> move(WaypointId id, vec3 position);
  /// Removes a waypoint. Returns false if there is none of that id.
  bool remove(WaypointId id);

  std::size_t size() const { return entries_.size(); }
  const Waypoint& operator[](std::size_t index) const { return entries_[index].waypoint; }
  WaypointId id(std::size_t index) const { return entries_[index].id; }
  std::optional<std::size_t> find(WaypointId id) const;

  BeatOrder order() const { return order_; }
  BeatPath path() const { return path_; }
  /// Returns the curve through the waypoints, of length 0 if the path is straight. The type is the library's
  /// own.
  const Curve& curve() const;
  /// Returns a number that grows with each change.
  std::uint32_t revision() const { return revision_; }

 private:
  struct Entry {
    Waypoint waypoint;
    WaypointId id;
  };
  void changed();

  std::pmr::vector<Entry> entries_;
  std::shared_ptr<const Curve> curve_;  // null if the path is straight
  BeatOrder order_;
  BeatPath path_;
  std::uint32_t next_id_ = 1;
  std::uint32_t revision_ = 1;
};

/// A beat as patrols share it.
using BeatPtr = std::shared_ptr<const Beat>;

/// Makes a beat of points (metres) without pauses and facings. Returns a problem if a point is not finite.
Expected<std::shared_ptr<Beat>> make_beat(
    std::span<const vec3> points, BeatOrder order = BeatOrder::around, BeatPath path = BeatPath::straight,
    std::pmr::memory_resource* memory = std::pmr::get_default_resource());

}  // namespace ambulon
