#include "ambulon/world/condition.hpp"

#include <algorithm>

#include "ambulon/world/world.hpp"

namespace ambulon {

Condition::Condition(World* world, Kind kind, NpcId who, NpcId other, float metres, Signal signal)
    : world_(world), who_(who), other_(other), kind_(kind), metres_(metres), signal_(signal) {
  before_ = count();
}

/// Returns how often the other NPC has arrived, or got stuck, so far.
std::uint32_t Condition::count() const {
  if (world_ == nullptr || (kind_ != Kind::arrived && kind_ != Kind::stuck)) return 0;
  const Statistics statistics = Npc(*world_, other_).statistics();
  return kind_ == Kind::arrived ? statistics.arrivals
                                : statistics.endings[static_cast<std::size_t>(Ending::stuck)];
}

std::optional<Outcome> Condition::check() const {
  if (world_ == nullptr) return Outcome{.ending = Ending::gone, .cause = Cause::no_such_npc};
  const Npc me(*world_, who_), other(*world_, other_);
  if (!me.alive()) return Outcome{.ending = Ending::gone, .cause = Cause::no_such_npc};
  bool holds = false;
  if (kind_ == Kind::signal) {
    holds = std::ranges::find(world_->heard(), signal_) != world_->heard().end();
  } else {
    if (!other.alive()) return Outcome{.ending = Ending::gone, .cause = Cause::target_gone};
    if (kind_ == Kind::near || kind_ == Kind::apart)
      holds = (metres_apart(other.position() - me.position(), me.body().height, other.body().height) <=
               metres_) == (kind_ == Kind::near);
    else
      holds = count() != before_;
  }
  return holds ? std::optional(Outcome{}) : std::nullopt;
}

}  // namespace ambulon
