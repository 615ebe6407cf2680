#include "ambulon/errand/beat.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/allowed.hpp"
#include "base/geometry.hpp"
#include "route/curve.hpp"

namespace ambulon {
namespace {

std::optional<Problem> wrong(const Waypoint& waypoint) {
  if (!finite(waypoint.position)) return Problem{"a coordinate of the waypoint is not a finite number"};
  if (waypoint.facing && !std::isfinite(*waypoint.facing))
    return Problem{"the waypoint's facing is not a finite number"};
  if (!Range{0.f, 1e6f}.holds(waypoint.weight))
    return Problem{
        fmt::format("the waypoint's weight is {:g}; it must lie between 0 and 1e6", waypoint.weight)};
  if (waypoint.within != 0.f && !allowed::arrival_distances.holds(waypoint.within))
    return Problem{fmt::format("the waypoint's within is {:g} m; it must lie between 0.001 and 1000, or be 0",
                               waypoint.within)};
  const Range pause = waypoint.pause;
  if (!allowed::durations.holds(pause.min) || !Range{pause.min, allowed::durations.max}.holds(pause.max))
    return Problem{
        fmt::format("the waypoint's pause is {:g} to {:g} s; it must run from less to more, within 0 to 1e6",
                    pause.min, pause.max)};
  return std::nullopt;
}

tl::unexpected<Problem> no_such(WaypointId id) {
  return problem(fmt::format("the beat has no waypoint with id {}; it may have been removed",
                             static_cast<std::uint32_t>(id)));
}

}  // namespace

Beat::Beat(BeatOrder order, BeatPath path, std::pmr::memory_resource* memory)
    : entries_(memory), order_(order), path_(path) {}

Beat::Beat(const Beat& other)
    : entries_(other.entries_), order_(other.order_), path_(other.path_), next_id_(other.next_id_) {
  changed();
}

const Curve& Beat::curve() const {
  static const Curve none;
  return curve_ ? *curve_ : none;
}

void Beat::changed() {
  ++revision_;
  if (path_ != BeatPath::curve) return;
  std::pmr::memory_resource* memory = entries_.get_allocator().resource();
  std::pmr::vector<vec3> points(memory);
  for (const Entry& entry : entries_) points.push_back(entry.waypoint.position);
  const auto curve = std::allocate_shared<Curve>(std::pmr::polymorphic_allocator<Curve>(memory), memory);
  curve->lay(points, order_ == BeatOrder::around);
  curve_ = curve;
}

Expected<WaypointId> Beat::add(const Waypoint& waypoint, std::optional<WaypointId> before) {
  if (auto why = wrong(waypoint)) return tl::unexpected(*why);
  std::size_t index = size();
  if (before) {
    const auto found = find(*before);
    if (!found) return no_such(*before);
    index = *found;
  }
  const auto id = WaypointId{next_id_++};
  entries_.insert(entries_.begin() + static_cast<std::ptrdiff_t>(index), {waypoint, id});
  changed();
  return id;
}

Expected<void> Beat::append(std::span<const Waypoint> waypoints) {
  for (const Waypoint& each : waypoints)
    if (auto why = wrong(each)) return tl::unexpected(*why);
  entries_.reserve(entries_.size() + waypoints.size());
  for (const Waypoint& each : waypoints) entries_.push_back({each, WaypointId{next_id_++}});
  changed();
  return {};
}

Expected<void> Beat::change(WaypointId id, const Waypoint& waypoint) {
  if (auto why = wrong(waypoint)) return tl::unexpected(*why);
  const auto index = find(id);
  if (!index) return no_such(id);
  entries_[*index].waypoint = waypoint;
  changed();
  return {};
}

Expected<void> Beat::move(WaypointId id, vec3 position) {
  const auto index = find(id);
  if (!index) return no_such(id);
  Waypoint moved = (*this)[*index];
  moved.position = position;
  return change(id, moved);
}

bool Beat::remove(WaypointId id) {
  const auto index = find(id);
  if (!index) return false;
  entries_.erase(entries_.begin() + static_cast<std::ptrdiff_t>(*index));
  changed();
  return true;
}

std::optional<std::size_t> Beat::find(WaypointId id) const {
  const auto place = std::ranges::find(entries_, id, &Entry::id);
  if (place == entries_.end()) return std::nullopt;
  return static_cast<std::size_t>(place - entries_.begin());
}

Expected<std::shared_ptr<Beat>> make_beat(std::span<const vec3> points, BeatOrder order, BeatPath path,
                                          std::pmr::memory_resource* memory) {
  auto beat = std::allocate_shared<Beat>(std::pmr::polymorphic_allocator<Beat>(memory), order, path, memory);
  std::pmr::vector<Waypoint> waypoints(memory);
  waypoints.reserve(points.size());
  for (const vec3 point : points) waypoints.push_back({.position = point});
  if (auto added = beat->append(waypoints); !added) return tl::unexpected(added.error());
  return beat;
}

std::string_view name(BeatOrder order) {
  switch (order) {
    case BeatOrder::around:
      return "around";
    case BeatOrder::back_and_forth:
      return "back_and_forth";
    case BeatOrder::once:
      return "once";
    case BeatOrder::shuffled:
      return "shuffled";
  }
  return "";
}

std::string_view name(BeatPath path) { return path == BeatPath::curve ? "curve" : "straight"; }

}  // namespace ambulon
