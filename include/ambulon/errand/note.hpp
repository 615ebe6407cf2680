#pragma once

#include <cstdint>
#include <string_view>

#include "ambulon/base/id.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/errand/outcome.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The events of the journal.
enum class Event : std::uint8_t {
  appeared,        ///< at `where`
  removed,         ///< at `where`
  ordered,         ///< an order: `errand`, with its goal `where` or its target `whom`
  ended,           ///< the order `errand`, with its `outcome`
  reached,         ///< waypoint `number` of `of`, at `where`
  pausing,         ///< stands for `value` seconds
  skipped,         ///< waypoint `number` of `of`, which cannot be reached: `outcome` says why
  late,            ///< a lap took `value` seconds instead of `other`
  lap,             ///< a lap took `value` seconds
  signalled,       ///< the signal `errand` was given
  pushed,          ///< a game-driven body was moved `value` metres off its route
  lags,            ///< a game-driven body moves at `value` of `other` metres per second
  held_fast,       ///< a game-driven body does not move; `other` metres per second were advised
  silent,          ///< the game has not reported the body for `value` seconds
  moving_again,    ///< a game-driven body follows the advice again
  sets_out,        ///< to `where`, a chosen spot
  visited,         ///< `where`, the `number`th spot of the order
  gave_up,         ///< the goal `where`, as `outcome` says; continues with another one
  new_target,      ///< `whom`, chosen of a group
  came_near,       ///< the target `whom`, at `value` metres
  moved_away,      ///< from the target `whom`, at `value` metres
  touched,         ///< the body of `whom`, at a closing speed of `value` metres per second
  turned_around,   ///< at `whom`, or at an edge of the ground, at `where`
  replans,         ///< plans its route again after `value` seconds without progress
  side_steps,      ///< steps aside after `value` seconds without progress
  knocked_back,    ///< by `Npc::push`, at `value` metres per second for `other` seconds, at `where`
  suspended,       ///< in the middle of its order
  resumed,         ///< its order, after `suspended`
  teleported,      ///< to `where`
  not_teleported,  ///< to `where`: `outcome` says why
  new_gait,        ///< speed `value`, metres per second
  new_body,        ///< radius `value` and height `other`, metres
  boarded,         ///< the deck of `whom`
  left_deck,       ///< the deck of `whom`
  no_place,        ///< a click hit nothing, so it was not sent
  held_up,         ///< by `whom`, and possibly others, at `where`, for `value` seconds so far
  waits,           ///< for a route to `where`; `outcome` says why there is none
  goes_on,         ///< after `value` seconds of waiting or being held up, at `where`
  gives_way,       ///< to oncoming NPCs before a place `value` metres wide, at `where`
  takes_detour,    ///< around a jam at `where`: a route of `value` metres instead of `other`
  route_opened,    ///< a shorter route of `value` metres instead of `other`, which it takes
  crosses,         ///< a crossing as `errand` says (jumps up, climbs, …): `value` metres up and `other` far,
                   ///< at `where`
};

/// Returns the event's name, as the journal's JSON writes it.
std::string_view name(Event event);

/// One event as plain data; `World::sentence` puts it into words.
struct Note {
  Event event = Event::appeared;
  std::uint32_t number = 0, of = 0;  ///< counted from 1
  NpcId who = {};                    ///< empty for a signal
  NpcId whom = {};                   ///< the other NPC that the event is about
  float value = 0.f, other = 0.f;    ///< what the event says
  vec3 where{0.f};                   ///< metres
  std::string_view errand = {};      ///< static text, or text the world keeps
  Outcome outcome = {};              ///< of `ended`
  double time = 0;                   ///< seconds since the world began
};

/// Receives notes.
class NoteTaker {
 public:
  virtual void take(const Note& note) = 0;

 protected:
  ~NoteTaker() = default;
};

}  // namespace ambulon
