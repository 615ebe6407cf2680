#include "world/detail.hpp"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>

#include <fmt/format.h>

#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr std::uint64_t bedtime = 32;  // ticks between two checks for NPCs that may sleep
constexpr std::size_t rings = 512;     // around viewers; squared radii grow by half

/// Returns the ring of a squared distance (metres squared, >= 0), from the exponent and the first mantissa
/// bit: the same on any machine.
std::size_t ring_of(float square) { return std::bit_cast<std::uint32_t>(square) >> 22U; }
float inner_edge(std::size_t ring) { return std::bit_cast<float>(static_cast<std::uint32_t>(ring) << 22U); }

/// Returns the ticks between decisions at a distance: doubled with each doubling of the near distance.
std::uint32_t ticks_at(float square, float near_square, std::uint32_t max_interval) {
  std::uint32_t ticks = 1;
  for (float edge = near_square; ticks < max_interval && square > edge; edge *= 4.f) ticks *= 2;
  return std::min(ticks, max_interval);
}

float nearest_square(std::span<const vec3> viewers, vec3 at) {
  float min = std::numeric_limits<float>::infinity();
  for (const vec3 eye : viewers) min = std::min(min, glm::dot(at - eye, at - eye));
  return min;
}

}  // namespace

Expected<void> LevelOfDetail::set_viewers(std::span<const vec3> viewers, const Detail& detail) {
  if (!Range{0.f, 1e6f}.holds(detail.near))
    return problem(fmt::format("near is {:g} m; it must lie between 0 and 1e6", detail.near));
  if (detail.max_interval < 1 || detail.max_interval > 64)
    return problem(
        fmt::format("max_interval is {} ticks; it must lie between 1 and 64", detail.max_interval));
  if (!std::ranges::all_of(viewers, [](vec3 eye) { return finite(eye); }))
    return problem("a coordinate of a viewer is not a finite number");
  viewers_.assign(viewers.begin(), viewers.end());
  detail_ = detail;
  return {};
}

void LevelOfDetail::update_near_distance() {
  near_square_ = detail_.near * detail_.near;
  if (viewers_.empty() || detail_.budget == 0) return;
  std::array<std::uint32_t, rings> in_ring{};
  std::size_t first = rings, last = 0;
  for (const std::uint32_t slot : state_.surroundings.awake()) {
    const std::size_t ring = ring_of(nearest_square(viewers_, state_.npcs[slot].motion.position));
    ++in_ring[ring];
    first = std::min(first, ring);
    last = std::max(last, ring);
  }
  const auto deciding = [&](float square) {
    double sum = 0;
    for (std::size_t ring = first; ring <= last; ++ring)
      sum +=
          in_ring[ring] / static_cast<double>(ticks_at(inner_edge(ring + 1), square, detail_.max_interval));
    return sum;
  };
  while (first < rings && near_square_ > inner_edge(first) && deciding(near_square_) > detail_.budget)
    near_square_ = std::min(0.8f * near_square_, inner_edge(last + 1));
}

std::uint32_t LevelOfDetail::ticks_between(std::uint32_t slot) const {
  if (viewers_.empty()) return 1;
  const float square = nearest_square(viewers_, state_.npcs[slot].motion.position);
  const std::uint32_t ticks = ticks_at(square, near_square_, detail_.max_interval);
  return ticks - (static_cast<std::uint32_t>(state_.clock.ticks) + slot) % ticks;
}

void LevelOfDetail::wake_in_the_way(std::uint32_t slot, float reach) {
  const vec3 here = state_.npcs[slot].motion.position;
  const Body& body = state_.npcs[slot].traits->body;
  state_.surroundings.each_near_asleep(
      flat(here), body.radius + reach, [&](std::uint32_t place, vec2, std::uint32_t sleeper) {
        const Surroundings::NeighbourState& other = state_.surroundings.neighbour_states()[place];
        if (share_height(other.z - here.z, body.height, other.height)) waking_.push_back(sleeper);
      });
}

bool LevelOfDetail::wake_up() {
  if (waking_.empty()) return false;
  for (const std::uint32_t slot : waking_) state_.mark_fresh(slot);
  waking_.clear();
  return true;
}

void LevelOfDetail::fall_asleep() {
  if (state_.clock.ticks % bedtime != 0) return;
  tired_.clear();
  for (const std::uint32_t slot : state_.surroundings.awake())
    if (may_sleep(slot)) tired_.push_back(slot);
  state_.surroundings.fall_asleep(tired_);
}

bool LevelOfDetail::may_sleep(std::uint32_t slot) const {
  const Mover& mover = state_.npcs[slot];
  return !mover.errand && !mover.fresh && !mover.pushed && !mover.displaced && mover.drive == Drive::own &&
         !mover.aboard && !mover.crossing && mover.traits->body.deck == vec2(0.f) && mover.held == 0.f &&
         mover.motion.velocity == vec2(0.f) && mover.motion.stance == Stance::idle &&
         mover.motion.position == state_.surroundings.seen_at(slot);
}

}  // namespace ambulon
