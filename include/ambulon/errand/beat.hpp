#pragma once

#include <cstdint>
#include <memory>
#include <memory_resource>
#include <optional>
#include <span>
#include <string_view>
#include <vector>

#include "ambulon/base/heap_optional.hpp"
#include "ambulon/base/problem.hpp"
#include "ambulon/base/range.hpp"
#include "ambulon/route/curve.hpp"

namespace ambulon {

/// A point of a beat, and what is done there.
struct Waypoint {
  vec3 position{0.f};                ///< metres
  Range pause{};                     ///< seconds to stand there, drawn anew each time; 0 to 1e6
  std::optional<float> facing = {};  ///< heading to turn to on arrival, radians
  float weight = 1.f;                ///< how often `hop` chooses it, compared to others; 0 to 1e6
};

/// Names a waypoint of a beat; stays good while others are added, moved and removed.
enum class WaypointId : std::uint32_t {};

/// In which order the waypoints are visited.
enum class BeatOrder : std::uint8_t {
  around,          ///< first to last, then the first again
  back_and_forth,  ///< first to last and back
  once,            ///< first to last, where the patrol ends
  shuffled,        ///< at random, never the same twice in a row
};

/// How one gets from waypoint to waypoint.
enum class BeatPath : std::uint8_t {
  straight,  ///< by the shortest way
  curve,     ///< along one smooth curve through all of them
};

std::string_view name(BeatOrder order);
std::string_view name(BeatPath path);

/// Waypoints that any number of NPCs patrol. It may be changed while they do: each goes on towards
/// the waypoint it was heading for, or, when that one was removed, to the one now in its place.
class Beat {
 public:
  explicit Beat(BeatOrder order = BeatOrder::around, BeatPath path = BeatPath::straight,
                std::pmr::memory_resource* memory = std::pmr::get_default_resource());

  /// The same waypoints, with the same ids; changing one beat leaves the other as it is.
  Beat(const Beat& other);
  Beat& operator=(const Beat&) = delete;

  /// Adds a waypoint at the end, or before another. The problem says what is wrong with it.
  Expected<WaypointId> add(const Waypoint& waypoint, std::optional<WaypointId> before = std::nullopt);
  /// Adds several waypoints at the end. The path is laid once, so n of them cost O(n), one by one O(n^2) on a
  /// curve. The problem, and no change, if one is invalid.
  Expected<void> append(std::span<const Waypoint> waypoints);
  /// Puts other values in the place of a waypoint's.
  Expected<WaypointId> change(WaypointId id, const Waypoint& waypoint);
  /// Moves a waypoint.
  Expected<WaypointId> move(WaypointId id, vec3 position);
  /// Takes a waypoint out; false when there is none of that id.
  bool remove(WaypointId id);

  std::size_t size() const { return entries_.size(); }
  const Waypoint& operator[](std::size_t index) const { return entries_[index].waypoint; }
  WaypointId id(std::size_t index) const { return entries_[index].id; }
  std::optional<std::size_t> find(WaypointId id) const;

  BeatOrder order() const { return order_; }
  BeatPath path() const { return path_; }
  /// The curve through the waypoints; of length 0 when the path is straight.
  const Curve& curve() const;
  /// Grows with each change.
  std::uint32_t revision() const { return revision_; }

 private:
  struct Entry {
    Waypoint waypoint;
    WaypointId id;
  };
  void changed();

  std::pmr::vector<Entry> entries_;
  HeapOptional<Curve> curve_;  // none when the path is straight
  BeatOrder order_;
  BeatPath path_;
  std::uint32_t next_id_ = 1;
  std::uint32_t revision_ = 1;
};

/// A beat as it is handed to patrols, which share it.
using BeatPtr = std::shared_ptr<const Beat>;

/// A beat of plain waypoints, with neither pauses nor facings; the problem when one is not finite.
Expected<std::shared_ptr<Beat>> make_beat(
    std::span<const vec3> points, BeatOrder order = BeatOrder::around, BeatPath path = BeatPath::straight,
    std::pmr::memory_resource* memory = std::pmr::get_default_resource());

}  // namespace ambulon
