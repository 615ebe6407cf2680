#pragma once

#include <limits>
#include <memory>
#include <memory_resource>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <utility>

#include "ambulon/base/random.hpp"
#include "ambulon/base/tags.hpp"
#include "ambulon/errand/note.hpp"
#include "ambulon/ground/ground.hpp"
#include "ambulon/motion/flocking.hpp"
#include "ambulon/motion/motion.hpp"

namespace ambulon {

class Beat;
class RouteService;
struct Arc;
struct ErrandReturn;

/// A name of a signal, made a number by the world.
enum class Signal : std::uint32_t {};

/// Another NPC, as it was when the tick began.
struct Other {
  NpcId id = {};  ///< of generation 0 where there is nobody
  vec3 position{0.f};
  vec2 velocity{0.f};
  vec2 facing{1.f, 0.f};
  float radius = 0.f;  ///< of its body, metres
  float height = 0.f;  ///< of its body, metres
  Tags tags = {};
};

/// The other NPCs of the world, as they were when the tick began: whatever an NPC does in a tick, the
/// others see it in the next.
class Others {
 public:
  /// The NPC of that id; nothing when it is gone.
  virtual std::optional<Other> find(NpcId id) const = 0;
  /// Of those with one of the `tags`, other than `except`: the one that is nearest to a body of `height`
  /// metres at `from`, by `metres_apart`. Nothing when there is none.
  virtual std::optional<Other> nearest(Tags tags, vec3 from, float height, NpcId except) const = 0;
  /// One of those at random, each as likely; nothing when there is none.
  virtual std::optional<Other> any(Tags tags, Random& random, NpcId except) const = 0;
  /// Those whose bodies come within `radius` metres of `from` on the plan and share height with a body of
  /// `height` metres there (nobody on the storey above or below), other than `except`, as seen from there:
  /// with one of the `tags`, when there are any, and with none of those that `without` names. Holds for
  /// three more such questions, so that one may be asked about each that was found; not into the next tick.
  virtual std::span<const Neighbour> near(vec3 from, float radius, float height, NpcId except, Tags tags,
                                          Tags without) const = 0;
  /// Those of them whose centres lie at most `half_angle` radians (0 to pi) to either side of `ahead` (unit
  /// vector): whom somebody who looks that way sees.
  virtual std::span<const Neighbour> in_cone(vec3 from, vec2 ahead, float half_angle, float radius,
                                             float height, NpcId except, Tags tags, Tags without) const = 0;
  /// The ids of all who escort `leader`, in a fixed order.
  virtual std::span<const NpcId> companions(NpcId leader) const = 0;

 protected:
  ~Others() = default;
};

/// What an errand sees of its NPC and of the world when it is asked what to do.
struct View {
  NpcId who;
  const Motion& me;
  vec2 was;  ///< where the NPC was when the errand was asked last, metres
  const Body& body;
  const Gait& gait;
  const Ground& ground;
  std::uint64_t ground_revision = 0;  ///< of the ground, in this tick
  std::uint32_t jumps = 0;            ///< how often the NPC was put elsewhere: then its ways are laid anew
  const Others& others;
  std::span<const Signal> heard;  ///< the signals given for this tick
  Random& random;                 ///< the NPC's own stream
  Arc& arc;                       ///< room for one along which the answer's intent crosses, to its end
  NoteTaker& notes;
  std::pmr::memory_resource* memory;  ///< of the world, for what the errand has to keep; of one thread
  double time = 0;                    ///< seconds since the world began
  bool avoids = false;    ///< it keeps out of others' way, so that they may take the place where it is to go
  float held = 0.f;       ///< seconds for which they have been in its way by now
  float patience = 1e6f;  ///< seconds of that after which it looks for a way round them
  RouteService* routes = nullptr;  ///< where it asks for ways; null: it finds them itself, at once
  int route_priority = 0;          ///< of what it asks for there

  /// Changes when the ground does, and when the NPC is put elsewhere.
  std::uint64_t revision() const { return ground_revision + jumps; }
  /// The spot nearest to `position` (metres) that the NPC could stand on.
  Spot spot_at(vec3 position) const {
    return ground.snap(position, std::numeric_limits<float>::infinity(), body).spot;
  }
  /// The spot the NPC stands on, or the nearest to it.
  Spot spot() const { return spot_at(me.position); }

  /// Metres between the NPC and another one, as of `metres_apart`.
  float metres_to(const Other& other) const {
    return metres_apart(other.position - me.position, body.height, other.height);
  }
  /// True when the NPC and another one are at one height: not one on the storey above the other.
  bool level_with(const Other& other) const {
    return share_height(other.position.z - me.position.z, body.height, other.height);
  }
  /// True when the NPC keeps out of another one's way, and does not pass through it.
  bool keeps_off(const Other& other) const;
  /// Metres between their middles at which the bodies of the NPC and another one touch, or as good as touch
  /// where NPCs keep out of each other's way.
  float touching(const Other& other) const;
  /// True when the NPC has come within `metres` of another one since it was asked last, at one height and
  /// with nothing between them. Where NPCs keep out of each other's way, touching is enough.
  bool reaches(const Other& other, float metres) const;
  /// The others near `from` at the NPC's height that it does not pass through, as of `Others::near`.
  std::span<const Neighbour> near(vec3 from, float radius, Tags tags = {}) const {
    return others.near(from, radius, body.height, who, tags, body.passes);
  }

  /// Writes `note` into the journal, about this NPC and this moment.
  void tell(Note note) const {
    note.who = who;
    note.time = time;
    notes.take(note);
  }
};

/// What an errand answers: what it wants, or how it ended.
struct Step {
  Intent intent{};
  std::optional<Outcome> ended{};
};

/// How far an errand has come.
struct Progress {
  float metres = 0.f;     ///< walked of the way (of the lap, for a patrol)
  float of_metres = 0.f;  ///< length of the whole way; 0 for an errand that goes nowhere
  float fraction = 0.f;   ///< of the errand, 0 to 1
};

/// One movement order with its state. A game's own errand is a class like any other: it is asked
/// each tick and answers with an intent, until it ends.
class Errand {
 public:
  virtual ~Errand() = default;
  Errand(const Errand&) = delete;
  Errand& operator=(const Errand&) = delete;

  /// The verb, as scene files and the journal write it: the same for its whole life.
  virtual std::string_view name() const = 0;

  /// Where it leads, for the journal and for pictures; nothing when it goes nowhere.
  virtual std::optional<vec3> goal() const { return std::nullopt; }

  /// The NPC it is after at present; nobody for most.
  virtual NpcId target() const { return {}; }

  /// The NPC that it escorts; nobody for most. The same for the errand's whole life.
  virtual NpcId leader() const { return {}; }

  /// Metres from the goal that count as there, for pictures; 0 when it goes nowhere.
  virtual float arrival_radius() const { return 0.f; }

  /// Called once a tick, and again within a tick when an intent has run out before the tick has:
  /// what to do for the coming `seconds` (> 0) at the most.
  virtual Step step(const View& see, float seconds) = 0;

  /// Asked before `step`, of many errands at once on the game's threads: what to do where nothing happens but
  /// that it goes on. It may ask the ground, and `find` of the others; it tells nobody anything, asks for no
  /// way and draws no random number. Nothing where more is to be done, as by default: then `step` is asked.
  virtual std::optional<Intent> keep_on(const View& see, float seconds) {
    (void)see, (void)seconds;
    return std::nullopt;
  }

  /// Called when the NPC makes no headway, though its way was planned anew and it stepped aside. True:
  /// the errand gives up what it was making for and goes on with something else; false ends it, `why`.
  virtual bool give_up(const View& see, const Outcome& why) {
    (void)see, (void)why;
    return false;
  }

  virtual Progress progress(const View& see) const = 0;

  /// Metres still to go to its goal; nothing when it has none, or one that moves. An order of which they do
  /// not become less for as long as the world is patient ends as stuck.
  virtual std::optional<float> left(const View& see) const {
    (void)see;
    return std::nullopt;
  }

  /// The beat it walks, for pictures; null when it walks none.
  virtual const Beat* beat() const { return nullptr; }

  /// The way still before it, for pictures: from the bend behind it to its end, metres; none when it has no
  /// way.
  virtual std::span<const vec3> bends() const { return {}; }

  /// What it is doing, in words: "walking to waypoint 2 of 4".
  virtual std::string doing() const { return std::string(name()); }

 protected:
  Errand() = default;

 private:
  friend struct ErrandReturn;
  template <class E, class... Args>
  friend std::unique_ptr<Errand, ErrandReturn> make_errand(std::pmr::memory_resource* memory, Args&&... args);
  std::uint16_t size_ = 0;  // bytes that it takes up, once it is made
};

/// Gives an errand back to the memory it came from.
struct ErrandReturn {
  std::pmr::memory_resource* memory = nullptr;
  void operator()(Errand* errand) const {
    const std::size_t size = errand->size_;
    errand->~Errand();
    memory->deallocate(errand, size, alignof(std::max_align_t));
  }
};

/// An errand in a world's memory.
using ErrandPtr = std::unique_ptr<Errand, ErrandReturn>;

/// `size` rounded up to the strictest alignment: libstdc++'s pools (g++ 12) align blocks of 24 bytes
/// to 8, whatever alignment is asked for.
constexpr std::size_t pool_size(std::size_t size) {
  constexpr std::size_t align = alignof(std::max_align_t);
  return (size + align - 1) / align * align;
}

/// Makes an errand in `memory`.
template <class E, class... Args>
ErrandPtr make_errand(std::pmr::memory_resource* memory, Args&&... args) {
  static_assert(alignof(E) <= alignof(std::max_align_t));
  constexpr std::size_t size = pool_size(sizeof(E));
  static_assert(size <= std::numeric_limits<std::uint16_t>::max(), "keep what is that large elsewhere");
  void* place = memory->allocate(size, alignof(std::max_align_t));
  ErrandPtr errand(new (place) E(std::forward<Args>(args)...), ErrandReturn{memory});
  errand->size_ = size;
  return errand;
}

/// The end of an errand as a step.
inline Step ended(Outcome outcome) { return {.intent = {}, .ended = outcome}; }
inline Step ended(Ending ending) { return ended(Outcome{.ending = ending}); }

}  // namespace ambulon
