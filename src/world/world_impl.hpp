#pragma once

#include <algorithm>
#include <deque>
#include <map>
#include <memory_resource>
#include <string>
#include <vector>

#include "ambulon/ground/open.hpp"
#include "ambulon/world/world.hpp"

#include "base/geometry.hpp"
#include "motion/arc.hpp"
#include "route/route_service.hpp"
#include "world/decks.hpp"
#include "world/mover.hpp"
#include "world/progress_watch.hpp"
#include "world/surroundings.hpp"
#include "world/watch.hpp"

namespace ambulon {

/// The state and the behaviour of a world. `World`, `Npc` and `Order` call it.
class World::Impl final : public NoteTaker {
 public:
  Impl(World& world, const WorldOptions& options);
  /// Ends scripts and destroys closures while the world can still be called. Call it before the destructor.
  void close();
  Impl(const Impl&) = delete;
  Impl& operator=(const Impl&) = delete;

  Expected<Npc> add(const NpcOptions& options);
  static Expected<void> validate_route_priority(int priority);
  void reserve(std::size_t npcs);
  Expected<double> tick(float seconds);
  Expected<void> set_viewers(std::span<const vec3> viewers, const Detail& detail);
  std::size_t sleeping() const;
  void signal(std::string_view word);
  Signal signal_named(std::string_view word);
  Expected<Tags> tag(std::string_view word);
  void tell(Note note);
  double time() const { return time_; }
  const Ground& ground() const { return *ground_; }
  std::pmr::memory_resource* memory() { return &pool_; }
  Npc find(std::string_view name);
  template <class Visit>
  void each(Visit&& visit) {
    for (std::uint32_t slot = 0; slot < movers_.size(); ++slot)
      if (movers_[slot].alive) visit(Npc(world_, {slot, movers_[slot].generation}));
  }
  std::string sentence(const Note& note, std::string_view place) const;

  /// State of each NPC that few phases of a tick need.
  struct NpcState {
    Random random{};
    double held_seconds = 0;
    std::uint32_t serial = 0;  // of its last order
    std::uint32_t arrivals = 0;
  };

  // Rarely used state, in maps by slot.

  /// A name. It outlives its NPC, for sentences about it, until another NPC takes the slot.
  struct Name {
    std::uint32_t generation;
    std::pmr::string text;
  };
  /// State of an NPC that Ambulon moves and that is slower than it wants.
  struct Headway {
    float left;           // metres of its route, when they last became fewer
    float seconds;        // since then
    std::uint32_t order;  // serial number
    vec3 goal;            // of that moment, metres
  };
  /// State of a game-driven body.
  struct Advised {
    Advice advice;
    vec2 velocity{0.f};  // at the end of the tick, as `advance` returned it
    vec3 reported{0.f};
    ReportOptions report;
    bool has_report = false;
    BodyWatch watch;
    ProgressWatch progress;                               // of the errand
    float left = std::numeric_limits<float>::infinity();  // metres of its route
    double side_step_until = 0;
    vec2 side_step{0.f};  // metres per second
  };
  /// The movement over a crossing.
  struct Flight {
    Arc arc;
    float gone = 0.f;  // seconds since its start
  };
  /// A knock-back.
  struct Push {
    vec2 velocity;
    double until;  // seconds since the world began
  };
  /// Callbacks of the present order.
  struct Callbacks {
    std::function<void(Npc, const Outcome&)> on_end;
    std::function<void(Npc, Npc, bool)> on_act;
  };
  /// The `Npc::on_touch` of an NPC.
  struct Touches {
    std::function<void(Npc, Npc, float)> on_touch;
    Tags tags;                        // of bodies that count; none: all
    std::pmr::vector<NpcId> touched;  // bodies in contact, by slot

    bool has(NpcId other) const;
  };
  /// The state of a body one tick ago.
  struct Earlier {
    vec3 at{0.f};
    vec2 velocity{0.f};
    std::uint32_t jumps = 0, generation = 0;
  };
  /// A new contact between two bodies, to be reported to `npc`.
  struct Contact {
    Npc npc, whom;
    float speed;  // metres per second
  };
  /// Time limit of the present order.
  struct TimeLimit {
    double deadline;
    float seconds;
  };
  /// How its orders ended, if any did.
  struct Ends {
    Outcome last;
    std::uint32_t serial = 0;  // of that order
    std::array<std::uint32_t, ending_count> counts{};
  };
  template <class Value>
  using BySlot = std::pmr::map<std::uint32_t, Value>;
  /// Returns the value of a slot that has one.
  template <class Value>
  static Value& of(BySlot<Value>& all, std::uint32_t slot) {
    return all.find(slot)->second;
  }
  template <class Value>
  static const Value& of(const BySlot<Value>& all, std::uint32_t slot) {
    return all.find(slot)->second;
  }

  struct Ended {
    Npc npc;
    Outcome outcome;
    std::function<void(Npc, const Outcome&)> on_end;
  };

  /// A removed NPC, and its `Npc::on_removed`.
  struct Removal {
    Npc npc;
    std::function<void(Npc)> then;
  };

  /// The target of an order came near, or left.
  struct Act {
    Npc npc, whom;
    bool near;
  };

  void take(const Note& note) override;
  double moment(std::uint32_t slot) const;
  float time_left(std::uint32_t slot) const;
  float patience(std::uint32_t slot) const;
  void heed_patience(float seconds) {
    if (seconds > 0.f) min_patience_ = std::min(min_patience_, seconds);
  }
  View view_of(std::uint32_t slot, const Motion& me);
  Motion seen_motion(std::uint32_t slot) const;
  bool knows(NpcId id) const;
  std::string name_of(NpcId id) const;
  Expected<vec3> spot_for(vec3 at, const Body& body) const;

  Order start(NpcId id, ErrandPtr errand);
  void finish(std::uint32_t slot, Outcome outcome);
  void destroy_errand(Mover& mover);
  void remove(NpcId id);
  void dismiss_script(std::uint32_t slot);
  /// Values to be destroyed, by slot. Their nodes are moved here, so that nothing is destroyed at once.
  template <class Value>
  using Dismissed = std::pmr::multimap<std::uint32_t, Value>;
  /// Moves the value of a slot, if any, to `to`, where `clean_up` destroys it.
  template <class Value>
  static void dismiss(BySlot<Value>& from, std::uint32_t slot, Dismissed<Value>& to) {
    if (auto node = from.extract(slot)) to.insert(std::move(node));
  }
  Expected<vec3> put(std::uint32_t slot, vec3 at);
  void set_traits(std::uint32_t slot, const Traits& traits);
  void suspend(std::uint32_t slot, bool suspended);
  Expected<void> push(std::uint32_t slot, vec2 velocity, float seconds);
  void carry_push(std::uint32_t slot);
  Expected<void> set_drive(std::uint32_t slot, Drive drive);
  void set_name(std::uint32_t slot, std::string_view name);
  void set_user_data(std::uint32_t slot, std::uint64_t data);
  std::uint64_t user_data(std::uint32_t slot) const {
    return slot < user_data_.size() ? user_data_[slot] : 0;
  }
  Pose pose(std::uint32_t slot, float alpha) const;
  void set_body(std::uint32_t slot, const Body& body);

  void sense();
  void take_reports();
  void find_contacts();
  float metres_moved(std::uint32_t slot) const;
  void record_contact(std::uint32_t slot, Touches& mine, std::uint32_t other);
  void forget_parted(std::uint32_t slot, Touches& mine);
  void watch_headway(std::uint32_t slot, vec2 advised, vec2 gone);
  void watch_walkers();
  void watch_walker(std::uint32_t slot, float every);
  void hold_on_deck(std::uint32_t slot, NpcId deck, float seconds);
  void go_on_from_deck(std::uint32_t slot);
  void end_as_stuck(std::uint32_t slot, Cause cause);
  enum class Asked : std::uint8_t { no, keeps_on, next };
  void decide();
  Asked try_keep_on(std::uint32_t slot);
  static void set_intent(Mover& mover, const Intent& intent, float left);
  void find_routes();
  void mark_fresh(std::uint32_t slot);
  void update_near_distance();
  std::uint32_t ticks_between(std::uint32_t slot) const;
  float until_asked(std::uint32_t slot) const;
  static constexpr float nudge = 0.05f;  // metres: more than an NPC is usually pushed in a tick
  void wake_in_the_way(std::uint32_t slot, float reach = nudge);
  void wake_the_pushed();
  void fall_asleep();
  bool may_sleep(std::uint32_t slot) const;
  void avoid();
  void move();
  void notify();
  void clean_up();
  /// Cleans up at once; if a tick or a script is running, at its end.
  void clean_up_if_idle() {
    if (!ticking_ && running_ == 0) clean_up();
  }
  void destroy_dismissed();
  std::string_view lasting_name(std::string_view name);

  bool ask(std::uint32_t slot, float seconds);
  bool ask_with_routes(std::uint32_t slot, float seconds);
  void avoid(std::uint32_t slot);
  void avoid(std::uint32_t slot, const Surroundings::AvoidanceState& mine);
  void keep_clear(std::uint32_t slot, const Surroundings::AvoidanceState& mine);
  bool crowded(std::uint32_t slot) const;
  bool near_edges(std::uint32_t slot);
  void make_room(std::uint32_t slot, const Surroundings::AvoidanceState& mine);
  bool passes(const Body& body, std::uint32_t slot) const;
  bool count_held(std::uint32_t slot);
  void report_jam(std::uint32_t slot);
  NpcId nearest_in_way(std::uint32_t slot) const;
  template <class Visit>
  void each_in_way(std::uint32_t slot, float radius, Visit&& visit) const;
  void separate();
  // metres: more than two NPCs usually approach each other in a tick
  static constexpr float alone_within = 0.1f;
  void note_distance(std::uint32_t slot);
  void find_overlaps();
  bool gives_way(std::uint32_t slot) const;
  void update_overlaps();
  vec2 separation_of(std::uint32_t place);
  void carry_out(std::uint32_t slot);
  void go_on(std::uint32_t slot);
  void walk(std::uint32_t slot);
  void cross(std::uint32_t slot);
  void advise(std::uint32_t slot);
  static void count_steps(Mover& mover, vec3 from, vec2 faced, float seconds);
  void keep_on_ground(std::uint32_t slot, vec3 from);
  void keep_on_deck(Mover& mover, vec3 from);
  void leave_removed_deck(std::uint32_t slot);
  bool has_room(std::uint32_t slot, vec3 at, float metres);
  Snap find_spot(Mover& mover, float reach) const { return find_spot(mover, mover.motion.position, reach); }
  Snap find_spot(Mover& mover, vec3 at, float reach) const;
  void carry();
  void call_back();
  void call_back(const Act& act);
  void call_back(const Contact& contact);
  void tick_once(float seconds);
  /// Returns the time of the present call, seconds.
  double now() const { return ticking_ ? now_ : time_; }
  void proceed(std::uint32_t slot);

  World& world_;
  std::pmr::unsynchronized_pool_resource pool_;
  const Ground* ground_;
  OpenGround open_;
  std::uint64_t seed_;
  float patience_;
  bool avoid_;
  Jobs jobs_;
  std::uint64_t route_work_;
  Journal journal_;
  RouteService routes_;  // must outlive the errands, which hold tickets
  std::pmr::vector<Mover> movers_;
  Surroundings surroundings_;
  Decks decks_;
  std::pmr::vector<NpcState> npc_states_;
  TraitsPool traits_pool_;
  BySlot<Name> names_;
  BySlot<Advised> advised_;
  BySlot<Headway> headways_;
  BySlot<Flight> flights_;
  Arc arc_;  // of the NPC that is being asked
  BySlot<Callbacks> callbacks_;
  BySlot<Touches> touches_;
  BySlot<Push> pushes_;
  BySlot<std::function<void(Npc)>> removals_;
  std::pmr::vector<std::uint64_t> user_data_;  // by slot, once an NPC has some
  std::pmr::vector<std::uint32_t>
      jumped_at_;                       // by slot, once an NPC was teleported: tick of its last teleport
  std::pmr::vector<Earlier> earlier_;   // by slot; empty without touch callbacks
  std::pmr::vector<float> held_since_;  // seconds, by slot, of reported jams; empty until the first
  BySlot<TimeLimit> time_limits_;
  BySlot<float> patiences_;         // seconds, of present orders with their own patience
  float min_patience_ = patience_;  // seconds: the lowest so far
  BySlot<Ends> ends_;
  BySlot<std::unique_ptr<Script>> scripts_;
  std::pmr::vector<std::uint32_t> free_, removed_, unfinished_, next_unfinished_, scripted_;
  std::pmr::vector<std::uint32_t> waking_, tired_;
  std::pmr::vector<std::uint8_t> marks_;  // by index of awake NPCs: intermediate result of a phase
  std::pmr::vector<vec3> viewers_;
  Detail detail_;
  float near_square_ = 0.f;  // metres squared: within this distance all decide in each tick
  std::pmr::vector<Ended> ended_, telling_;
  std::pmr::vector<Act> acts_, telling_acts_;
  std::pmr::vector<Contact> contacts_, telling_contacts_;
  std::pmr::vector<Removal> removed_npcs_, telling_removed_;
  std::pmr::vector<std::unique_ptr<Script>> dismissed_;
  Dismissed<Callbacks> dismissed_callbacks_;
  Dismissed<Touches> dismissed_touches_;
  Dismissed<std::function<void(Npc)>> dismissed_removals_;
  std::pmr::deque<std::pmr::string> signal_names_;  // a deque, so that addresses stay valid
  std::pmr::deque<std::pmr::string> errand_names_;  // names of errands
  std::pmr::vector<Signal> raised_, heard_;
  std::pmr::vector<std::pmr::string> tags_;
  std::pmr::vector<std::uint32_t> overlapping_;  // places of bodies that overlap
  std::pmr::vector<vec2> separations_;           // and their displacements, metres
  std::uint64_t ground_revision_ = 0;
  bool convex_ = true;  // `Ground::convex`
  std::uint64_t appeared_ = 0, ticks_ = 0;
  std::size_t alive_ = 0;
  double time_ = 0, tick_end_ = 0;
  double now_ = 0;  // seconds: the time within the tick at which user code is called
  float last_seconds_ = 0.f, tick_seconds_ = 0.f;
  float furthest_ = 0.f;  // metres squared: maximum displacement in this tick
  std::size_t deciding_ = 0;
  Profile profile_;
  bool ticking_ = false;
  std::uint64_t tick_noted_ = 0;  // number of the first note of the tick
  bool closed_ = false;           // it is being destroyed
  std::uint32_t running_ = 0;     // nesting depth of scripts and destructors that run
  bool callbacks_over_ = false;   // some callbacks have ended
};

}  // namespace ambulon
