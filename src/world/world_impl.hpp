#pragma once

#include "world/contacts.hpp"
#include "world/headway.hpp"
#include "world/scripts.hpp"

namespace ambulon {

/// A world, made of parts with one job each. `World`, `Npc` and `Order` call the part that is responsible, or
/// a function of this class if several are.
class World::Impl {
 public:
  Impl(World& world, const WorldOptions& options);
  Impl(const Impl&) = delete;
  Impl& operator=(const Impl&) = delete;
  /// Ends scripts and destroys closures while the world can still be called. Call it before the destructor.
  void close();
  bool closed() const { return closed_; }

  Expected<Npc> add(const NpcOptions& options);
  void remove(NpcId id);
  static Expected<void> validate_route_priority(int priority);
  Expected<double> tick(float seconds);
  std::size_t deciding() const { return deciding_; }
  const Profile& profile() const { return profile_; }
  EventRange events(EventCursor& cursor) const;

  void set_gait(std::uint32_t slot, const Gait& gait);
  Expected<void> set_drive(std::uint32_t slot, Drive drive);
  void direct(std::uint32_t slot, std::unique_ptr<Script> script);

  WorldState state;
  LevelOfDetail detail;
  Locomotion locomotion;
  Orders orders;
  Crowd crowd;
  Headway headway;
  Contacts contacts;
  Scripts scripts;

 private:
  void tick_once(float seconds);
  // The phases of a tick.
  void sense();
  void decide();
  void find_routes();
  void move();
  void notify();
  void clean_up();

  void carry_out(std::uint32_t slot);
  void go_on(std::uint32_t slot);
  void call_back();
  void destroy_dismissed();

  std::pmr::vector<std::uint32_t> unfinished_, next_unfinished_;  // slots whose order ended within the tick
  std::uint64_t tick_noted_ = 0;                                  // number of the first note of the tick
  std::size_t deciding_ = 0;
  Profile profile_;
  bool closed_ = false;        // it is being destroyed
  std::uint32_t running_ = 0;  // nesting depth of scripts and destructors that run
};

}  // namespace ambulon
