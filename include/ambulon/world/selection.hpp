#pragma once

#include <memory>
#include <span>
#include <vector>

#include "ambulon/crowd/formation.hpp"
#include "ambulon/errand/click_to_move.hpp"
#include "ambulon/world/camera.hpp"
#include "ambulon/world/npc.hpp"

namespace ambulon {

/// NPCs that are sent together. Each goes to a spot of its own, so that they keep their places to one
/// another, as far as the ground allows; nobody's spot overlaps another's while there is room near by. NPCs
/// that are gone drop out by themselves.
class Selection {
 public:
  /// Takes somebody in, at the end, or out; nothing happens when that is so already, or when it is gone.
  void add(Npc npc);
  void remove(Npc npc);
  void clear();
  /// Takes in all whose feet or whose middle are seen in the box between two corners (points of the window).
  void add_box(World& world, const Camera& camera, vec2 corner, vec2 opposite);
  /// Takes in all who have one of the tags.
  void add_tagged(World& world, Tags tags);

  /// From the next place on that they are sent to, they stand there in that formation, facing the way they
  /// came, with `spacing` metres (0.1 to 100) between neighbours. Each takes the place by which all ways
  /// together are shortest. The problem, and no change, when the spacing is out of range.
  Expected<Formation> form(Formation formation, float spacing = 1.2f);

  bool holds(Npc npc) const;
  std::size_t size();
  std::vector<Npc> npcs();

  /// Sends all to a place (metres) in formation, as a company that keeps it on the way (`Company`); in a
  /// block when none was chosen. The problem, and no order, when it is not finite or nobody is selected; the
  /// same below.
  Expected<vec3> march(vec3 at, const MarchOptions& options = {});
  /// Sends all to where was clicked (metres): by the order that they were sent with before, while that runs
  /// and has the same options, or else by a new one. See `Clicks`.
  Expected<vec3> click(vec3 at, const ClickToMoveOptions& options = {});
  /// Sends them there after the places before.
  Expected<vec3> add_click(vec3 at, const ClickToMoveOptions& options = {});
  /// Sends them along with the pointer, until it is released.
  Expected<vec3> hold(vec3 at, const ClickToMoveOptions& options = {});
  void release();

 private:
  struct Member {
    Npc npc;
    vec2 place{0.f};  // metres, from the middle of all
    std::shared_ptr<Clicks> clicks = {};
    ClickToMoveOptions options = {};  // of its order
    Order order = {};
  };
  void drop_gone();
  void take_places(vec3 goal);
  Expected<vec3> send(vec3 at, const ClickToMoveOptions& options, Expected<vec3> (Clicks::*how)(vec3));

  std::vector<Member> members_;
  Formation formation_ = Formation::as_they_are;
  float spacing_ = 1.2f;
  bool held_ = false;
};

/// Somebody's place among others, and who it is for.
struct PlaceFor {
  Npc npc;
  vec2 offset{0.f};  ///< metres from the goal
};

/// A spot for each, as near to its place around `goal` (metres) as it can get: straight from the goal, so
/// that no wall comes between them, and no two overlap while there is room within some steps.
std::vector<vec3> spots_around(const Ground& ground, vec3 goal, std::span<const PlaceFor> places);

}  // namespace ambulon
