#pragma once

#include <memory>
#include <vector>

#include "ambulon/base/id.hpp"
#include "ambulon/base/problem.hpp"
#include "ambulon/base/public.hpp"
#include "ambulon/base/vec.hpp"
#include "ambulon/crowd/formation.hpp"
#include "ambulon/errand/order_options.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Options of a squad. They are copied.
struct SquadOptions {
  Formation formation = Formation::block;  ///< not `as_they_are`
  float spacing = 1.2f;                    ///< metres between neighbours, 0.1 to 100
  /// Places used instead of the formation, metres: x ahead of the centre, y to the left. Members beyond their
  /// number take places of the formation.
  std::vector<vec2> offsets = {};
  Unreachable unreachable = Unreachable::wait;  ///< if no route leads to the goal
};

/// NPCs that march in formation along one route. `Npc::march` makes an NPC a member.
///
///     const auto watch = *ambulon::Squad::make({.formation = ambulon::Formation::column});
///     for (ambulon::Npc constable : constables) constable.march(watch);
///     watch->go_to({40, 12, 0});
///
/// 1. Each member has a place beside the route, which advances along it: ranks wheel at corners, and files
///    follow around them.
/// 2. Where the ground is too narrow, a rank closes up and its members fall behind one another; behind the
///    narrow place it opens again.
/// 3. Places are assigned so that the members' distances to them are smallest in sum: when the squad sets
///    out, and when a member joins or leaves.
/// 4. The squad moves at the speed of its slowest member and waits for members that fall behind.
class Squad {
 public:
  ~Squad();
  Squad(const Squad&) = delete;
  Squad& operator=(const Squad&) = delete;

  /// Makes a squad without members. Returns a problem if a value is out of range.
  static Expected<std::shared_ptr<Squad>> make(const SquadOptions& options = {});

  /// Goes to `goal` (metres). While the route is searched (`WorldOptions::route_work`), the squad goes on
  /// along its previous route, or stands. Returns a problem if `goal` is not finite.
  Expected<void> go_to(vec3 goal);
  /// Follows the path of an NPC.
  void follow(NpcId leader);
  /// Follows the path of a point that the game moves (metres, finite): call it in each tick in which the
  /// point moves.
  Expected<void> follow(vec3 point);

  /// Returns the number of members.
  std::size_t size() const;

  /// For the library itself: `Impl` is defined in no public header.
  class AMBULON_HIDDEN Impl;
  Impl& impl() const { return *impl_; }

 private:
  explicit Squad(const SquadOptions& options);

  std::unique_ptr<Impl> impl_;
};

}  // namespace ambulon
