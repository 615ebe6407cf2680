#include "ambulon/world/selection.hpp"

#include <algorithm>
#include <limits>
#include <numeric>

#include <fmt/format.h>

#include "ambulon/base/angle.hpp"
#include "ambulon/errand/squad.hpp"
#include "ambulon/world/camera.hpp"
#include "ambulon/world/world.hpp"

#include "base/geometry.hpp"
#include "world/spots_around.hpp"

namespace ambulon {
namespace {

constexpr int max_rings = 8;  // around a place, where free room is searched

/// Discs on the ground that are occupied.
struct Taken {
  std::vector<std::pair<vec3, float>> discs;

  bool free(vec3 at, const Body& body) const {
    return std::ranges::none_of(discs, [&](const auto& disc) {
      return flat_distance(disc.first, at) < disc.second + body.radius - 1e-3f &&
             std::abs(disc.first.z - at.z) < body.height;
    });
  }
};

/// Returns the free spot nearest to a place: the place itself, or one on rings around it.
vec3 free_spot(const Ground& ground, const Spot& middle, vec2 offset, const Body& body, const Taken& taken) {
  const auto at = [&](vec2 way) { return ground.straight(middle, way).end.position; };
  const vec3 place = at(offset);
  if (taken.free(place, body)) return place;
  for (int ring = 1; ring <= max_rings; ++ring)
    for (int i = 0; i < 6 * ring; ++i) {
      const float turn = 2.f * pi * static_cast<float>(i) / static_cast<float>(6 * ring);
      const vec3 beside =
          at(flat(place - middle.position) + 2.1f * body.radius * static_cast<float>(ring) * unit(turn));
      if (taken.free(beside, body)) return beside;
    }
  return place;
}

bool same(const ClickToMoveOptions& a, const ClickToMoveOptions& b) {
  return a.within == b.within && a.every == b.every && a.unreachable == b.unreachable;
}

}  // namespace

std::vector<vec3> spots_around(const Ground& ground, vec3 goal, std::span<const PlaceFor> places) {
  std::vector<std::size_t> turn(places.size());  // the member nearest to the centre chooses first
  std::iota(turn.begin(), turn.end(), std::size_t{0});
  std::ranges::stable_sort(turn, {}, [&](std::size_t i) { return glm::length(places[i].offset); });
  std::vector<vec3> spots(places.size());
  Taken taken;
  for (const std::size_t i : turn) {
    const Body body = places[i].npc.body();
    const Spot here =
        ground.snap(places[i].npc.position(), std::numeric_limits<float>::infinity(), body).spot;
    const Snap middle = ground.nearest_reachable(here, goal);
    spots[i] = free_spot(ground, middle.found ? middle.spot : here, places[i].offset, body, taken);
    taken.discs.emplace_back(spots[i], body.radius);
  }
  return spots;
}

void Selection::add(Npc npc) {
  if (npc.alive() && !holds(npc)) members_.push_back({.npc = npc});
}

void Selection::remove(Npc npc) {
  std::erase_if(members_, [&](const Member& member) { return member.npc == npc; });
}

void Selection::clear() {
  members_.clear();
  held_ = false;
}

void Selection::add_box(World& world, const Camera& camera, vec2 corner, vec2 opposite) {
  const vec2 low = glm::min(corner, opposite), high = glm::max(corner, opposite);
  world.each([&](Npc npc) {
    for (const float height : {0.f, 0.5f * npc.body().height})
      if (const auto seen = camera.point_of(npc.position() + vec3(0.f, 0.f, height)))
        if (seen->x >= low.x && seen->x <= high.x && seen->y >= low.y && seen->y <= high.y) add(npc);
  });
}

void Selection::add_tagged(World& world, Tags tags) {
  world.each([&](Npc npc) {
    if (npc.tags().meet(tags)) add(npc);
  });
}

bool Selection::holds(Npc npc) const {
  return std::ranges::any_of(members_, [&](const Member& member) { return member.npc == npc; });
}

std::size_t Selection::size() {
  drop_gone();
  return members_.size();
}

std::vector<Npc> Selection::npcs() {
  drop_gone();
  std::vector<Npc> all;
  for (const Member& member : members_) all.push_back(member.npc);
  return all;
}

void Selection::drop_gone() {
  std::erase_if(members_, [](const Member& member) { return !member.npc.alive(); });
}

Expected<void> Selection::form(Formation formation, float spacing) {
  if (!Range{0.1f, 100.f}.holds(spacing))
    return problem(
        fmt::format("the spacing of a formation is {:g}; it must lie between 0.1 and 100 metres", spacing));
  formation_ = formation;
  spacing_ = spacing;
  return {};
}

/// Stores the members' places relative to each other, or for `goal`.
void Selection::take_places(vec3 goal) {
  if (!finite(goal)) return;  // no one is sent
  vec3 middle(0.f);
  for (const Member& member : members_) middle += member.npc.position() / static_cast<float>(members_.size());
  if (formation_ == Formation::as_they_are) {
    for (Member& member : members_) member.place = flat(member.npc.position() - middle);
    return;
  }
  std::vector<vec2> from, places = places_in(formation_, members_.size(), spacing_);
  const float heading = heading_of(flat(goal - middle));
  for (vec2& place : places) place = rotated(place, heading);
  for (const Member& member : members_) from.push_back(flat(member.npc.position() - goal));
  const auto taken = assign(from, places);
  for (std::size_t i = 0; i < members_.size(); ++i) members_[i].place = places[taken[i]];
}

Expected<void> Selection::march(vec3 at, const MarchOptions& options) {
  drop_gone();
  if (members_.empty()) return problem("no NPC is selected");
  const Formation formation = formation_ == Formation::as_they_are ? Formation::block : formation_;
  const auto squad = Squad::make({.formation = formation, .spacing = spacing_});
  if (!squad) return tl::unexpected(squad.error());
  if (auto sent = (*squad)->go_to(at); !sent) return sent;
  for (Member& member : members_) {
    member.clicks.reset();
    member.order = member.npc.march(*squad, options);
  }
  return {};
}

Expected<void> Selection::click(vec3 at, const ClickToMoveOptions& options) {
  drop_gone();
  take_places(at);
  held_ = false;
  return send(at, options, &Clicks::click);
}

Expected<void> Selection::add_click(vec3 at, const ClickToMoveOptions& options) {
  drop_gone();
  // Members on their way keep their places.
  if (std::ranges::none_of(members_, [](const Member& member) { return member.order.running(); }))
    take_places(at);
  held_ = false;
  return send(at, options, &Clicks::add);
}

Expected<void> Selection::hold(vec3 at, const ClickToMoveOptions& options) {
  drop_gone();
  if (!held_) take_places(at);
  held_ = true;
  return send(at, options, &Clicks::hold);
}

void Selection::release() {
  held_ = false;
  for (const Member& member : members_)
    if (member.clicks) member.clicks->release();
}

Expected<void> Selection::send(vec3 at, const ClickToMoveOptions& options,
                               Expected<void> (Clicks::*how)(vec3)) {
  if (!finite(at)) return problem("the place clicked is not finite; no NPC was sent");
  if (members_.empty()) return problem("no NPC is selected");
  std::vector<PlaceFor> places;
  for (const Member& member : members_) places.push_back({member.npc, member.place});
  const std::vector<vec3> spots = spots_around(members_.front().npc.world()->ground(), at, places);
  for (std::size_t i = 0; i < members_.size(); ++i) {
    Member& member = members_[i];
    const bool alone = members_.size() == 1;  // then the errand reports an unreachable goal
    // Added places continue the order; otherwise a new order is given.
    const bool running =
        member.clicks && member.order.running() && (how == &Clicks::add || same(member.options, options));
    if (!running) member.clicks = std::make_shared<Clicks>();
    (void)(member.clicks.get()->*how)(alone ? at : spots[i]);  // they are finite
    if (running) continue;
    member.options = options;
    member.order = member.npc.click_to_move(member.clicks, options);
  }
  return {};
}

}  // namespace ambulon
