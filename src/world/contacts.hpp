#pragma once

#include <functional>
#include <vector>

#include "world/world_state.hpp"

namespace ambulon {

/// Contacts between bodies, for NPCs with an `on_touch` callback.
class Contacts {
 public:
  using OnTouch = std::function<void(Npc, Npc, float)>;

  explicit Contacts(WorldState& state)
      : state_(state),
        watched_(&state.pool),
        earlier_(state.memory),
        contacts_(state.memory),
        telling_(state.memory) {}

  /// Sets the callback of an NPC for bodies with one of `tags`, or for all if there are none. An empty one
  /// takes it back.
  void on_touch(std::uint32_t slot, OnTouch then, Tags tags);
  void remove(std::uint32_t slot) { watched_.dismiss(slot); }
  /// Finds the contacts that began in the previous tick.
  void find();
  /// Calls the callbacks of the contacts that were found.
  void call();
  void destroy_dismissed() { watched_.destroy_dismissed(); }
  /// Destroys a callback while it may still call the world. Returns false if there is none.
  bool destroy_some();

 private:
  /// The callback of an NPC.
  struct Watched {
    OnTouch on_touch;
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
  float metres_moved(std::uint32_t slot) const;
  void record(std::uint32_t slot, Watched& mine, std::uint32_t other);
  void forget_parted(std::uint32_t slot, Watched& mine);
  void call(const Contact& contact);

  WorldState& state_;
  Closures<Watched> watched_;
  std::pmr::vector<Earlier> earlier_;  // by slot; empty without callbacks
  std::pmr::vector<Contact> contacts_, telling_;
};

}  // namespace ambulon
