#include "errand/thread.hpp"

#include <algorithm>

#include "base/geometry.hpp"

namespace ambulon {
namespace {

constexpr std::array<vec2, 4> sides = {{{1.f, 0.f}, {0.f, 1.f}, {-1.f, 0.f}, {0.f, -1.f}}};

Cell beyond(Cell cell, vec2 side) {
  return {cell.x + static_cast<int>(side.x), cell.y + static_cast<int>(side.y)};
}

}  // namespace

Step Thread::step(const View& see, float seconds) {
  if (!begun_ || jumps_ != see.jumps)
    if (const auto why = begin(see)) return ended(*why);
  if (const auto why = look(see)) return ended(*why);
  const vec2 start = flat(see.me.position);
  speed_ = std::min(see.gait.speed, speed_ + see.gait.acceleration * seconds);
  vec2 end = start;
  go(see, speed_ * seconds, end);
  if (options_.choices > 0 && chosen_ >= options_.choices)
    return ended(
        {.ending = Ending::done, .cause = Cause::as_often_as_asked, .value = static_cast<float>(chosen_)});
  if (end == start) speed_ = 0.f;
  const vec2 along = heading_ != vec2(0.f) ? heading_ : direction(end - start, see.me.facing);
  return {.intent = {.velocity = (end - start) / seconds,
                     .facing = turned(see.me.facing, along, see.gait.turn_rate * seconds),
                     .lasts = seconds,
                     .direct = true}};
}

std::optional<Outcome> Thread::begin(const View& see) {
  const bool aims = options_.choice == ThreadChoice::toward || options_.choice == ThreadChoice::away;
  const bool after_somebody = options_.target.npc.generation != 0 || !options_.target.tags.empty();
  if (aims && !after_somebody && !options_.point && options_.chooser == nullptr)
    return refusal(Cause::no_target);
  if (options_.point && !finite(*options_.point))
    return refusal(Cause::not_finite, "a coordinate of the target");
  const Spot spot = see.spot();
  const TileMap* cells = see.ground.tiles(spot);
  if (cells == nullptr) return refusal(Cause::no_tiles);
  from_ = to_ = cells->cell_of(spot.piece);
  heading_ = vec2(0.f);
  entering_ = begun_ = true;
  jumps_ = see.jumps;
  return std::nullopt;
}

/// Updates the point that it goes toward or away from.
std::optional<Outcome> Thread::look(const View& see) {
  target_ = options_.point ? std::optional(flat(*options_.point)) : std::nullopt;
  if (options_.target.npc.generation == 0 && options_.target.tags.empty()) return std::nullopt;
  const auto found = tracker_.look(see);
  if (!found) return found.error();
  target_ = flat(found->position);
  return std::nullopt;
}

/// Advances `at` by `metres`, from cell centre to cell centre.
void Thread::go(const View& see, float metres, vec2& at) {
  const TileMap& cells = *see.ground.tiles(see.spot());
  if (!cells.free(to_) && !entering_) {  // blocked while it was on its way there
    std::swap(from_, to_);
    heading_ = -heading_;
  }
  while (metres > 0.f) {
    const vec2 way = cells.middle(to_) - at;
    const float left = glm::length(way);
    if (left > metres) {
      at += metres * (entering_ ? direction(way) : heading_);
      return;
    }
    at = cells.middle(to_);
    metres -= left;
    entering_ = false;
    from_ = to_;
    heading_ = choose(see, cells, from_);
    if (heading_ == vec2(0.f) || (options_.choices > 0 && chosen_ >= options_.choices)) return;
    to_ = beyond(from_, heading_);
  }
}

/// Returns the direction from the centre of a cell; zero if all sides are blocked.
vec2 Thread::choose(const View& see, const TileMap& cells, Cell here) {
  Junction junction{.cell = here, .at = lift(cells.middle(here)), .heading = heading_, .ways = {}};
  int open = 0;
  bool straight_on = false;
  for (const vec2 side : sides) {
    if (!cells.free(beyond(here, side))) continue;
    ++open;
    straight_on = straight_on || side == heading_;
    if (side != -heading_) junction.ways[static_cast<std::size_t>(junction.count++)] = side;
  }
  if (open == 0) return vec2(0.f);
  if (junction.count == 0) return -heading_;         // dead end
  if (straight_on && open < 3) return heading_;      // no choice
  if (junction.count == 1) return junction.ways[0];  // corner
  ++chosen_;
  return chosen_of(junction, see);
}

vec2 Thread::chosen_of(const Junction& junction, const View& see) {
  const auto last = static_cast<std::size_t>(junction.count) - 1;
  if (options_.chooser != nullptr) {
    const int choice = options_.chooser->choose(junction, see.random);
    return junction.ways[choice < 0 ? last : std::min(last, static_cast<std::size_t>(choice))];
  }
  if (options_.choice == ThreadChoice::random)
    return junction.ways[see.random.below(static_cast<std::uint32_t>(junction.count))];
  // The direction with the lowest rank is taken; of equals, the first.
  const auto rank = [&](vec2 way) {
    const vec2 heading = junction.heading == vec2(0.f) ? see.me.facing : junction.heading;
    const float to_left = angle_between(heading, way);
    switch (options_.choice) {
      case ThreadChoice::left:
        return -to_left;
      case ThreadChoice::right:
        return to_left;
      default:
        break;
    }
    const float off = glm::length(*target_ - (flat(junction.at) + way));
    return options_.choice == ThreadChoice::toward ? off : -off;
  };
  return *std::min_element(junction.ways.begin(), junction.ways.begin() + junction.count,
                           [&](vec2 a, vec2 b) { return rank(a) < rank(b); });
}

}  // namespace ambulon
