#include "ambulon/world/condition.hpp"

#include <algorithm>

#include "ambulon/world/world.hpp"

namespace ambulon {

std::optional<Outcome> Condition::check() const {
  if (world_ == nullptr) return Outcome{.ending = Ending::gone, .cause = Cause::no_such_npc};
  const Npc me(*world_, who_), other(*world_, other_);
  if (!me.alive()) return Outcome{.ending = Ending::gone, .cause = Cause::no_such_npc};
  if (kind_ == Kind::signal) {
    const auto heard = world_->heard();
    if (std::ranges::find(heard, signal_) == heard.end()) return std::nullopt;
    return Outcome{};
  }
  if (!other.alive()) return Outcome{.ending = Ending::gone, .cause = Cause::target_gone};
  const bool near = flat_distance(me.position(), other.position()) <= metres_;
  if (near != (kind_ == Kind::near)) return std::nullopt;
  return Outcome{};
}

}  // namespace ambulon
