#pragma once

#include <set>
#include <unordered_map>

#include "ambulon/base/public.hpp"

#include "crowd/neighbour_index.hpp"
#include "scene/play.hpp"
#include "scene/turns.hpp"

namespace AMBULON_PUBLIC ambulon {

/// Quality measures of the movement of one NPC.
struct Score {
  std::uint32_t legs = 0;             ///< walks of at least 1 m between a start and a goal or waypoint
  double detour = 0;                  ///< metres walked over the shortest route, of those legs; 0: no legs
  double time_over_ideal = 0;         ///< their duration over that at the gait's speed; 0: no legs
  std::uint32_t overlaps = 0;         ///< how often its body began to overlap another
  float deepest_overlap = 0.f;        ///< metres
  std::uint32_t speed_jitters = 0;    ///< reversals of its acceleration within 0.5 s
  std::uint32_t heading_jitters = 0;  ///< reversals of its turn within 0.5 s
  double stuck_seconds = 0;           ///< in which its body was held fast
  double bend_slowdown = 0;           ///< largest part of its speed that it lost within 1 m of a bend
  double sliding = 0;         ///< metres that feet animated at its stride phase slide, per metre walked
  float vertical_speed = 0;   ///< metres per second: the fastest rise or fall on foot
  double jam_turning = 0;     ///< degrees per second, while it is slower than 0.3 m/s and wants to move
  float short_of_goal = 0.f;  ///< metres from its goal at which a `go_to` ended as arrived
};

/// A limit of the scene (`SceneLimits`) that an NPC exceeds.
struct BrokenLimit {
  std::string_view limit;  ///< its key
  std::size_t npc;         ///< number in the scene: the NPC with the worst value
  std::size_t others;      ///< number of other NPCs that exceed it
  double value;            ///< of that NPC
  double max;              ///< the limit
};

/// Observes a play and scores each of its NPCs.
class Scorecard {
 public:
  /// The play must outlive it, and have a journal.
  explicit Scorecard(Play& play);

  /// Call it after each tick.
  void see();

  /// Returns the score of NPC `index` so far, or when it was removed.
  const Score& score(std::size_t index) const { return tracks_[index].score; }

  /// Returns the limits of the scene that are exceeded so far.
  std::vector<BrokenLimit> broken() const;

 private:
  /// Detects reversals that follow each other too soon.
  struct Trembling {
    Turns turns;
    double last_turn = -1e9;  // seconds
    bool see(float value, float threshold, double now);
  };

  struct Track {
    Score score;
    vec3 position{0.f};  // in the previous tick
    bool leg_begins = false, on_leg = false;
    vec3 from{0.f};
    double began = 0, metres_then = 0;  // metres on the plan
    float fastest = 0.01f;              // maximum speed of its gait during the leg
    double shortest = 0, walked = 0, ideal = 0, took = 0;
    Trembling speed, heading;
    double busy_until = 0;    // seconds: when it last had an order
    float heading_sum = 0.f;  // radians turned, continuous
    vec2 facing{1.f, 0.f};
    float stride_phase = 0.f;
    Stance stance = Stance::idle;                             // in the previous tick
    double walked_xy = 0, slid = 0;                           // metres
    double jam_since = -1, jam_seconds = 0, jam_radians = 0;  // it has been slow since then; negative: no
    bool up_to_speed = false;                                 // since its leg began
    std::optional<vec3> goal = {};                            // of its `go_to`
    NpcId deck = {};                                          // on which it stands
    vec3 deck_position{0.f};                                  // in the previous tick
    vec2 deck_facing{0.f};                                    // zero: not known yet
  };

  void take(const Note& note);
  void end_leg(Track& track, Npc npc);
  void watch(Track& track, Npc npc);
  vec3 carried(Track& track) const;
  void watch_feet(Track& track, Npc npc, const Motion& motion) const;
  static void watch_bend(Track& track, Npc npc, const Motion& motion);
  void overlaps();

  Play& play_;
  std::vector<Track> tracks_;
  std::unordered_map<std::uint32_t, std::size_t> by_slot_;  // index of the track
  std::uint64_t read_ = 0;                                  // notes read so far
  NeighbourIndex index_;
  std::set<std::pair<std::size_t, std::size_t>> touching_;
};

}  // namespace ambulon
