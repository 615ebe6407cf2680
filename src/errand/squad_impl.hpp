#pragma once

#include <optional>
#include <vector>

#include "ambulon/errand/errand.hpp"
#include "ambulon/errand/squad.hpp"

#include "errand/retry.hpp"
#include "route/route_service.hpp"

namespace ambulon {

/// What a squad does for its members (`March`), which ask it once a tick.
class Squad::Impl {
 public:
  explicit Impl(const SquadOptions& options) : options_(options) {}

  Expected<vec3> go_to(vec3 goal);
  void follow(NpcId leader);
  Expected<vec3> follow(vec3 point);
  std::size_t size() const { return members_.size(); }

  void join(NpcId who);
  void leave(NpcId who);
  /// Sees to it that the squad is where it should be by now; why it cannot go on, if so.
  std::optional<Outcome> go_on(const View& see);
  /// True while it cannot go on, and tries again later.
  bool waits() const { return failed_ && retry_.waits(); }
  /// Where a member should be by now, on the ground.
  vec3 place_of(const View& see);
  /// The unit direction in which the squad goes where that member is.
  vec2 direction_at(const View& see) const;
  /// The squad has come to its goal: all that is left is for each to take its place.
  bool at_goal() const { return leads_ == Leads::goal && planned_ && guide_ >= length_; }

 private:
  enum class Leads : std::uint8_t { nobody, goal, npc, point };

  struct Member {
    NpcId who;
    vec2 offset{0.f};     // metres: ahead of the guide, and to its left
    float along = 0.f;    // metres along the path
    float abreast = 1.f;  // part of the offset to the side that there is room for
    bool placed = false;  // its offset has been given out
  };

  const Member* find(NpcId who) const;
  std::optional<Outcome> plan(const View& see);
  void try_to_plan(const View& see);
  std::optional<Outcome> plan_route(const View& see, vec3 middle);
  bool find_way(const View& see, vec3 middle, const Spot& to, Route& route);
  std::vector<vec2> places() const;
  void take_places(const View& see);
  void look_for_opening(const View& see);
  void measure();
  void walk_on(float seconds);
  void trail(vec3 at);
  void line_up(const View& see, float seconds);
  vec3 point_at(float along) const;
  vec2 direction_along(float along) const;
  float room_at(const View& see, float along) const;

  SquadOptions options_;
  Leads leads_ = Leads::nobody;
  vec3 goal_{0.f};  // or the point that is followed
  NpcId leader_;
  std::vector<Member> members_;    // those ahead first, and of a rank those in its middle, once it is planned
  bool planned_ = false;           // since members or the goal changed last
  std::optional<Outcome> failed_;  // why it has no way, until it tries again
  Retry retry_;
  RouteTicket asked_;                   // for its way, while that is not there yet
  NpcId asker_;                         // the member that did
  std::uint64_t ground_revision_ = 0;   // as seen then
  bool opened_ = false;                 // ground, by which a shorter way may lead
  double next_opening_look_ = 0;        // seconds: not before, whether there is a shorter way
  float opening_wait_ = 1.f;            // seconds: longer each time that there was none
  double seen_at_ = -1;                 // seconds
  std::vector<vec3> path_;              // metres
  std::vector<float> along_;            // metres from its start, of each point
  float length_ = 0.f;                  // metres of the path
  float guide_ = 0.f;                   // metres along it: where the squad's middle is
  float pace_ = 0.f, next_pace_ = 0.f;  // metres per second: of the slowest, as seen and as being seen
  float left_ = 0.f, right_ = 0.f;      // metres from the middle to both ends of the widest rank
  float lag_ = 0.f, next_lag_ = 0.f;    // metres by which the last member is behind
};

}  // namespace ambulon
