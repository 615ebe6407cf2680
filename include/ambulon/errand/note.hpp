#pragma once

#include <cstdint>
#include <string_view>

#include "ambulon/base/id.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/errand/outcome.hpp"

namespace AMBULON_PUBLIC ambulon {

/// The events of the journal.
enum class Event : std::uint8_t {
  appeared,       ///< at `where`
  removed,        ///< from `where`
  ordered,        ///< `errand`, with its goal `where` or after `whom`
  ended,          ///< `errand`, with its `outcome`
  reached,        ///< waypoint `number` of `of`, at `where`
  pausing,        ///< for `value` seconds
  skipped,        ///< waypoint `number` of `of`, to which there is no way: `outcome` says why
  late,           ///< a lap took `value` seconds instead of `other`
  lap,            ///< a lap took `value` seconds
  signalled,      ///< the signal `errand` was given
  pushed,         ///< the game's body went `value` metres astray
  lags,           ///< the game's body moves at `value` of `other` metres per second
  held_fast,      ///< the game's body does not move, though `other` metres per second were advised
  silent,         ///< the game has not reported its body for `value` seconds
  moving_again,   ///< the game's body follows the advice again
  sets_out,       ///< for `where`, a spot it has chosen
  visited,        ///< `where`, the `number`th spot of its kind
  gave_up,        ///< going to `where`, as its `outcome` says; it goes on elsewhere
  new_target,      ///< `whom`, the one of a group it has chosen
  came_near,      ///< to `whom`: `value` metres
  moved_away,     ///< from `whom`: `value` metres
  touched,        ///< the body of `whom`, closing in at `value` metres per second
  turned_around,   ///< before `whom`, or at an edge of the ground, at `where`
  replans,        ///< its way, for it has made no progress for `value` seconds
  side_steps,     ///< for the same reason
  suspended,      ///< in the middle of its order
  resumed,        ///< its order
  teleported,  ///< at `where`, without walking
  not_teleported,        ///< elsewhere, at `where`: `outcome` says why
  new_gait,       ///< `value` metres per second from now on
  new_body,       ///< of radius `value` and height `other`, metres, from now on
  boarded,        ///< the deck of `whom`
  left_deck,      ///< of `whom`
  no_place,       ///< was clicked: there was nothing but sky, so it was not sent
  held_up,        ///< by `whom`, and perhaps others, at `where`, for `value` seconds by now
  waits,          ///< until there is a way to `where`; `outcome` says why there is none
  goes_on,        ///< after `value` seconds in which it was held up, at `where`
  takes_detour,     ///< a jam at `where`, along a way of `value` metres, with `other` metres left of its own
  route_opened,   ///< a way of `value` metres, with `other` metres left of its own, which it takes instead
  crosses,        ///< as `errand` says (jumps up, climbs …), `value` metres up and `other` far, at `where`
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
