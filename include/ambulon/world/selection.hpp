#pragma once

#include <memory>
#include <span>
#include <vector>

#include "ambulon/base/public.hpp"
#include "ambulon/crowd/formation.hpp"
#include "ambulon/errand/order_options.hpp"
#include "ambulon/world/npc.hpp"

namespace AMBULON_PUBLIC ambulon {

class Camera;

/// NPCs that a player sends together, as in strategy games. Each gets a goal of its own, so that they keep
/// their relative positions as far as the ground allows, and no two goals overlap while there is room nearby.
/// NPCs that are removed from the world drop out.
class Selection {
 public:
  /// Adds an NPC at the end, or removes it. Does nothing if it is in (or not in) already, or is gone.
  void add(Npc npc);
  void remove(Npc npc);
  void clear();
  /// Adds all NPCs whose feet or centre are seen in the box between two corners (points of the window).
  void add_box(World& world, const Camera& camera, vec2 corner, vec2 opposite);
  /// Adds all NPCs that have one of the tags.
  void add_tagged(World& world, Tags tags);

  /// Sets the formation for the next goals, facing the direction of travel, with `spacing` metres (0.1 to
  /// 100) between neighbours. Places are assigned so that the sum of distances is smallest. Returns a
  /// problem, and changes nothing, if the spacing is out of range.
  Expected<void> form(Formation formation, float spacing = 1.2f);

  bool holds(Npc npc) const;
  std::size_t size();
  std::vector<Npc> npcs();

  // Each of these returns a problem, and gives no order, if the place is not finite or no NPC is selected.

  /// Sends all NPCs to a place (metres) as a squad that keeps its formation on the way (`Squad`); without
  /// a formation, as a block.
  Expected<void> march(vec3 at, const MarchOptions& options = {});
  /// Sends all NPCs to a clicked place (metres). An order of an earlier click continues if it is running and
  /// its options are the same; otherwise a new one is given.
  Expected<void> click(vec3 at, const ClickToMoveOptions& options = {});
  /// Appends a place to the earlier clicks.
  Expected<void> add_click(vec3 at, const ClickToMoveOptions& options = {});
  /// Makes all NPCs follow the pointer until `release`.
  Expected<void> hold(vec3 at, const ClickToMoveOptions& options = {});
  void release();

 private:
  struct Member {
    Npc npc;
    vec2 place{0.f};  // metres, from the centre of all
    std::shared_ptr<Clicks> clicks = {};
    ClickToMoveOptions options = {};  // of its order
    Order order = {};
  };
  void drop_gone();
  void take_places(vec3 goal);
  Expected<void> send(vec3 at, const ClickToMoveOptions& options, Expected<void> (Clicks::*how)(vec3));

  std::vector<Member> members_;
  Formation formation_ = Formation::as_they_are;
  float spacing_ = 1.2f;
  bool held_ = false;
};

}  // namespace ambulon
