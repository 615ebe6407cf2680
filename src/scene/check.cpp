// What will look wrong in play, found by reading.

#include "ambulon/scene/check.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <set>

#include <fmt/format.h>

#include "ambulon/base/written.hpp"
#include "ambulon/motion/motion.hpp"

#include "hindrance.hpp"
#include "signals.hpp"

namespace ambulon {
namespace {

/// The arrival distance of a verb that walks to a point.
struct ArrivalDistance {
  using Distance = std::optional<float>;
  Distance operator()(const GoToStep& step) const { return step.options.within; }
  Distance operator()(const PatrolStep& step) const { return step.options.within; }
  Distance operator()(const RoamStep& step) const { return step.options.within; }
  Distance operator()(const HopStep& step) const { return step.options.within; }
  Distance operator()(const FlowStep& step) const { return step.options.within; }
  template <class Other>
  Distance operator()(const Other&) const {
    return std::nullopt;
  }
};

/// Metres from its target within which a verb acts.
struct ActWithin {
  template <class Verb>
  float operator()(const Verb& step) const {
    if constexpr (requires { step.options.act_within; }) return step.options.act_within;
    return SceneLimits::any;
  }
};

/// The target of a verb that goes after somebody.
struct TargetOf {
  const SceneTarget* operator()(const FollowStep& step) const { return &step.target; }
  const SceneTarget* operator()(const ChaseStep& step) const { return &step.target; }
  template <class Other>
  const SceneTarget* operator()(const Other&) const {
    return nullptr;
  }
};

class Checker {
 public:
  explicit Checker(const Scene& scene)
      : scene_(scene),
        signals_(scene::signals_of(scene)),
        ground_(scene.ground.make()),
        tiles_(scene.ground.tiles ? static_cast<const TileGround*>(ground_.get()) : nullptr),
        mesh_(scene.ground.is_mesh() ? static_cast<MeshGround*>(ground_.get()) : nullptr) {
    // A crossing that is opened at some time is one.
    for (const SceneEvent& event : scene.events)
      if (const auto* open = std::get_if<ShutEvent>(&event.what); open != nullptr && !open->shut)
        (void)mesh_->open(mesh_->placed_crossings()[open->crossing].id);
  }

  std::vector<Finding> check() {
    unused_names();
    unheard_signals();
    blocked_places();
    crossings();
    built_ground();
    open_pieces();
    for (const SceneNpc& npc : scene_.npcs) {
      // Many are alike.
      if (npc_ != nullptr && !npc.many.empty() && npc.many == npc_->many) continue;
      npc_ = &npc;
      standing_in_one_another();
      body();
      place();
      gait(npc.gait, npc.where);
      stands_ = npc.at.at;
      steps(npc.steps, npc.gait, npc.repeat);
    }
    npc_ = nullptr;
    events();
    std::ranges::stable_sort(findings_, {}, [](const Finding& each) { return each.where.line; });
    return std::move(findings_);
  }

 private:
  void find(FilePlace where, std::string what, std::string why, std::string instead) {
    findings_.push_back(
        {where, npc_ != nullptr ? npc_->name : "", std::move(what), std::move(why), std::move(instead)});
  }

  void unused_names() {
    for (const Place& place : scene_.places) {
      if (place.used) continue;
      find(place.where, fmt::format("the place {} is not used", place.name),
           "nobody goes there; perhaps a name is spelt differently elsewhere", "use it, or leave it out");
    }
    for (const SceneGait& gait : scene_.gaits) {
      if (gait.used) continue;
      find(gait.where, fmt::format("the gait {} is not used", gait.name),
           "who was meant to have it moves differently", "use it, or leave it out");
    }
    for (const SceneTag& tag : scene_.tags)
      if (!tag.used)
        find(tag.where, fmt::format("the tag {} is not used", tag.name),
             "nothing asks for it; perhaps its name is spelt differently elsewhere",
             "use it, or leave it out");
    for (const SceneCamera& camera : scene_.cameras)
      if (!camera.used)
        find(camera.where, fmt::format("the camera {} is not used", camera.name),
             "no event clicks through it", "use it, or leave it out");
  }

  void unheard_signals() {
    for (const SceneEvent& event : scene_.events)
      if (const auto* signal = std::get_if<SignalEvent>(&event.what)) unheard(signal->signal, event.where);
    for (const SceneNpc& npc : scene_.npcs) {
      if (!npc.many.empty() && npc.name != npc.many + " 1") continue;
      unheard(npc.on_touch.signal, npc.where);
      each_step(npc.steps, [&](const SceneStep& step) {
        const SceneAct* act = scene::act_of(step);
        if (act == nullptr) return;
        unheard(act->enter, step.where);
        unheard(act->leave, step.where);
      });
    }
  }

  void unheard(const std::string& signal, FilePlace where) {
    if (signal.empty() || signals_.heard.contains(signal)) return;
    find(where, fmt::format("nobody waits for the signal \"{}\"", signal),
         "nothing happens when it is given; perhaps its name is spelt differently elsewhere",
         "a wait_for, `when`, `until` or switch with that name, or leave it out");
  }

  void built_ground() {
    const auto& built = scene_.ground.built;
    if (built && built->outdated)
      find({}, fmt::format("the ground is older than {}, of which it was built", built->source),
           "who walks on it does not see what has changed there since",
           "build it anew: ambulon build, with the same options");
  }

  /// Pieces of a level that are not closed, though the scene says that all are.
  void open_pieces() {
    constexpr std::size_t most_named = 5;
    const auto pieces = mesh_ != nullptr ? mesh_->open_pieces() : std::span<const OpenPiece>();
    for (const OpenPiece& piece : pieces.first(std::min(pieces.size(), most_named)))
      find({},
           fmt::format("a piece of the level is not closed: {} near ({:.2f}, {:.2f}, {:.2f})",
                       name(piece.fault), piece.at.x, piece.at.y, piece.at.z),
           fmt::format("its {} triangles, from number {} on, have no inside; what lies below them is ground",
                       piece.triangles, piece.first_triangle + 1),
           "close it, or leave closed = true out");
    if (pieces.size() > most_named)
      find({}, fmt::format("{} more pieces of the level are not closed", pieces.size() - most_named),
           "they have no inside", "ambulon build --closed lists all of them");
  }

  /// Crossings placed by hand that lead from or to where nobody can stand.
  void crossings() {
    for (const SceneGround::NamedCrossing& each : scene_.ground.crossings) {
      const auto off = [&](vec3 end, const Body& body) {  // metres beyond where it is taken to
        const Snap snap = ground_->snap(end, 0.f, body);
        return snap.found ? snap.off - MeshGround::end_reach(body) : 1e6f;
      };
      float least[] = {1e6f, 1e6f};
      bool taken = false;
      std::vector<Body> bodies;
      for (const SceneNpc& npc : scene_.npcs) bodies.push_back(npc.body);
      if (bodies.empty()) bodies.emplace_back();
      for (const Body& body : bodies) {
        const float from = off(each.crossing.from, body), to = off(each.crossing.to, body);
        taken = taken || (from <= 0.f && to <= 0.f);
        least[0] = std::min(least[0], from), least[1] = std::min(least[1], to);
      }
      if (taken) {
        unused(each);
        continue;
      }
      const bool at_from = least[0] >= least[1];
      find(each.where,
           fmt::format("the {} {} begins or ends {:.2f} m too far off the ground", name(each.crossing.kind),
                       each.name, std::max(least[0], least[1])),
           "nobody of this scene can get on it there",
           fmt::format("move its `{}` to where somebody can stand", at_from ? "from" : "to"));
    }
  }

  /// A crossing on which no character ever gets.
  void unused(const SceneGround::NamedCrossing& each) {
    const auto number = static_cast<std::size_t>(&each - scene_.ground.crossings.data());
    const bool opened = std::ranges::any_of(scene_.events, [&](const SceneEvent& event) {
      const auto* open = std::get_if<ShutEvent>(&event.what);
      return open != nullptr && !open->shut && open->crossing == number;
    });
    const std::string_view kind = name(each.crossing.kind);
    if (each.shut && !opened)
      return find(each.where, fmt::format("the {} {} is shut and never opened", kind, each.name),
                  "nobody gets over it", "an event with open, or leave shut out");
    const auto gets_on = [&](const SceneNpc& npc) {
      const Snap here = ground_->snap(npc.at.at, reach, npc.body);
      const auto ends_at = [&](vec3 end) {
        const Snap there = ground_->snap(end, MeshGround::end_reach(npc.body), npc.body);
        return there && ground_->reachable(here.spot, there.spot);
      };
      return here && (ends_at(each.crossing.from) || (each.crossing.both_ways && ends_at(each.crossing.to)));
    };
    if (!scene_.npcs.empty() && std::ranges::none_of(scene_.npcs, gets_on))
      find(each.where, fmt::format("the {} {} is not used", kind, each.name),
           "no character can get to where it begins", "open a way there, or leave it out");
  }

  void standing_in_one_another() {
    const float width = 2.f * npc_->body.radius;
    if (!npc_->many.empty() && npc_->apart < width)
      find(npc_->where,
           fmt::format("{} begin {:g} m apart and are {:g} m wide", npc_->many, npc_->apart, width),
           "bodies in one place look wrong until they part", fmt::format("apart = {:g} or more", width));
    if (!npc_->many.empty()) return;
    for (const SceneNpc& other : scene_.npcs) {
      if (&other == npc_) break;
      if (!other.many.empty()) continue;  // only the middle of them is known here
      const bool carried = npc_->body.deck.x > 0.f || other.body.deck.x > 0.f;
      const float room = npc_->body.radius + other.body.radius;
      const float apart = flat_distance(npc_->at.at, other.at.at);
      const bool level = share_height(other.at.at.z - npc_->at.at.z, npc_->body.height, other.body.height);
      if (apart >= room || !level || carried || passes(*npc_, other) || passes(other, *npc_)) continue;
      find(npc_->where, fmt::format("{} begins {:.2f} m inside {}", npc_->name, room - apart, other.name),
           "two bodies in one place look wrong until they part",
           fmt::format("put them {:.2f} m apart or more", room));
    }
  }

  void body() {
    const vec2 size = scene_.ground.most() - scene_.ground.least();
    const float width = 2.f * npc_->body.radius, room = std::min(size.x, size.y);
    if (width > room && !npc_->steps.empty())
      find(npc_->where,
           fmt::format("{} is {:.2f} m wide, and the ground only {:.2f} m", npc_->name, width, room),
           "it cannot move without leaving the ground",
           fmt::format("a radius of {:.2f} would do", 0.45f * room));
    for (const SceneEvent& event : scene_.events) {
      const auto* halt = std::get_if<HaltEvent>(&event.what);
      if (halt == nullptr || !halt->halted || halt->npc != npc_->name || event.at > 0) continue;
      const bool resumed = std::ranges::any_of(scene_.events, [&](const SceneEvent& later) {
        const auto* resume = std::get_if<HaltEvent>(&later.what);
        return resume != nullptr && !resume->halted && resume->npc == npc_->name;
      });
      if (!resumed)
        find(event.where, fmt::format("{} is halted from the beginning and never may go on", npc_->name),
             "it will stand where it begins", "add an event with resume");
    }
  }

  void gait(const Gait& gait, FilePlace where) {
    const float fast = 3.f * run_speed(npc_->body);
    if (gait.speed > fast)
      find(where,
           fmt::format("{} moves at {:g} m/s with a height of {:g} m", npc_->name, gait.speed,
                       npc_->body.height),
           fmt::format("nobody of that height runs faster than about {:.1f} m/s", fast),
           fmt::format("a speed of {:.1f} or less", fast));
    if (gait.speed < 0.05f)
      find(where, fmt::format("{} moves at {:g} m/s", npc_->name, gait.speed),
           fmt::format("it takes {:.0f} s for one metre and looks as if it stood", 1.f / gait.speed),
           "a speed of 0.05 or more");
    const float stopping = gait.speed * gait.speed / (2.f * gait.braking);
    if (gait.slowing_distance > 0.f && gait.slowing_distance < stopping)
      find(where,
           fmt::format("{} slows down over {:g} m, but needs {:.2f} m to brake from {:g} m/s", npc_->name,
                       gait.slowing_distance, stopping, gait.speed),
           "it brakes as hard as it can instead of slowing down evenly",
           fmt::format("a slowing_distance of {:.2f} or more, or a braking of {:.1f}", stopping,
                       gait.speed * gait.speed / (2.f * gait.slowing_distance)));
    if (const float half_turn = pi / gait.turn_rate; half_turn > 20.f)
      find(where, fmt::format("{} takes {:.0f} s to turn half round", npc_->name, half_turn),
           gait.turn_first ? "it turns before it sets off, and will hardly ever move"
                           : "it will walk sideways and backwards most of the time",
           "a turn_rate of 90 or more");
  }

  void steps(const std::vector<SceneStep>& steps, Gait gait_now, bool repeat) {
    for (std::size_t i = 0; i < steps.size(); ++i) {
      const SceneStep& each = steps[i];
      if (each.gait) {
        gait_now = *each.gait;
        gait(gait_now, each.where);
      }
      step(each, gait_now);
      const bool endless = scene::never_ends(each);
      if (endless && i + 1 < steps.size())
        find(steps[i + 1].where, fmt::format("{}'s {} never begins", npc_->name, verb_of(steps[i + 1])),
             fmt::format("the {} before it never ends", verb_of(each)),
             "give that one a `for`, an `until` or a number of times");
      else if (endless && repeat && i > 0)
        find(each.where, fmt::format("{}'s list does not start over", npc_->name),
             fmt::format("its {} never ends, so `repeat` changes nothing", verb_of(each)),
             "give that one a `for` or an `until`, or leave out `repeat`");
      if (const auto* inner = std::get_if<SequenceStep>(&each.verb))
        this->steps(inner->steps, gait_now, inner->times != 1);
    }
  }

  void step(const SceneStep& step, const Gait& gait_now) {
    if (const auto within = std::visit(ArrivalDistance(), step.verb)) {
      const float stride = gait_now.speed / static_cast<float>(scene_.rate);
      if (*within < stride)
        find(step.where,
             fmt::format("{}'s {} arrives within {:g} m, but at {:g} m/s a tick's step is {:.3f} m",
                         npc_->name, verb_of(step), *within, gait_now.speed, stride),
             "it may be there between two ticks only, so that nobody sees it arrive",
             fmt::format("a `within` of {:.2f} or more", std::ceil(stride * 100.f) / 100.f));
    }
    if (step.after > scene_.length)
      find(step.where, fmt::format("{}'s {} waits {:g} s first", npc_->name, verb_of(step), step.after),
           fmt::format("the scene is over after {:g} s", scene_.length),
           "an `after` within the scene's length");
    condition(step, step.when, "never begins");
    condition(step, step.until, "does not end by its condition");
    if (const auto* wait = std::get_if<WaitForStep>(&step.verb);
        wait != nullptr && !signals_.given.contains(wait->signal)) {
      const auto never = signals_.never_given.find(wait->signal);
      find(step.where,
           never == signals_.never_given.end()
               ? fmt::format("{} waits for \"{}\", which nobody gives", npc_->name, wait->signal)
               : fmt::format("{} waits for \"{}\", which only {} gives, and that never begins", npc_->name,
                             wait->signal, never->second),
           "it will stand there for ever", "add an event with that signal, or an `act` that gives it");
    }
    points(step);
    target(step, gait_now);
    if (const auto* escort = std::get_if<EscortStep>(&step.verb);
        escort != nullptr && escort->options.leash < 1.15f * escort->options.ring.most)
      find(step.where,
           fmt::format("{}'s leash is {:g} m and its ring reaches {:g} m", npc_->name, escort->options.leash,
                       escort->options.ring.most),
           "from the rim of the ring it sets off again at the leader's first step",
           fmt::format("a leash of {:.1f} or more", 1.5f * escort->options.ring.most));
    if (const auto* escort = std::get_if<EscortStep>(&step.verb))
      for (const SceneNpc& leader : scene_.npcs)
        if (leader.name == escort->leader && !leader.steps.empty() && leader.gait.speed > gait_now.speed)
          find(step.where,
               fmt::format("{} escorts {} at {:g} m/s, who moves at {:g} m/s", npc_->name, leader.name,
                           gait_now.speed, leader.gait.speed),
               "it falls behind", fmt::format("a speed of {:.1f} or more", 1.2f * leader.gait.speed));
    if (const auto* hop = std::get_if<HopStep>(&step.verb);
        hop != nullptr && hop->points->size() == 1 && !hop->options.repeats && hop->options.visits != 1)
      find(step.where, fmt::format("{} hops among one point only", npc_->name),
           "it may not choose the same point twice in a row, so its second leg ends as no_way",
           "more points, or repeats = true");
  }

  void condition(const SceneStep& step, const std::optional<SceneCondition>& condition, std::string_view so) {
    if (!condition) return;
    if (condition->kind == Condition::Kind::near) near(condition->npc, condition->metres, step.where);
    if (condition->kind != Condition::Kind::signal || signals_.given.contains(condition->signal)) return;
    const auto never = signals_.never_given.find(condition->signal);
    find(step.where, fmt::format("{}'s {} {}", npc_->name, verb_of(step), so),
         never == signals_.never_given.end()
             ? fmt::format("nobody gives the signal \"{}\"", condition->signal)
             : fmt::format("only {} gives the signal \"{}\", and that never begins", never->second,
                           condition->signal),
         "add an event with that signal, or an `act` that gives it");
  }

  /// Finds a distance within which two never come, since they keep out of each other's way.
  void near(const std::string& name, float metres, FilePlace where) {
    if (!scene_.avoid || !npc_->avoidance.takes_part) return;
    const auto other = std::ranges::find(scene_.npcs, name, &SceneNpc::name);
    if (other == scene_.npcs.end() || !other->avoidance.takes_part || other->body.deck.x > 0.f ||
        passes(*npc_, *other) || passes(*other, *npc_))
      return;
    const float room = npc_->body.radius + other->body.radius;
    if (metres >= room) return;
    find(where, fmt::format("{} is to come within {:g} m of {}", npc_->name, metres, name),
         fmt::format("their bodies touch at {:.2f} m, and they keep out of each other's way", room),
         fmt::format("{:.1f} or more", std::ceil(10.f * (1.1f * room + 0.1f)) / 10.f));
  }

  /// True when the first one passes through the other.
  static bool passes(const SceneNpc& one, const SceneNpc& other) {
    return std::ranges::any_of(one.passes, [&](const std::string& tag) {
      return std::ranges::find(other.tags, tag) != other.tags.end();
    });
  }

  void points(const SceneStep& step) {
    const auto go = [&](const ScenePoint& point, bool anywhere = false) {
      if (point.npc.empty() && !anywhere) reachable(point.at, step);
    };
    if (const auto* to = std::get_if<GoToStep>(&step.verb)) go(to->to);
    if (const auto* to = std::get_if<TeleportStep>(&step.verb)) go(to->to);
    if (const auto* to = std::get_if<GlideStep>(&step.verb)) go(to->to, to->options.anywhere);
    if (const auto* roam = std::get_if<RoamStep>(&step.verb); roam != nullptr && roam->home) go(*roam->home);
    if (const auto* flow = std::get_if<FlowStep>(&step.verb))
      for (const vec3 goal : flow->goals) reachable(goal, step);
    if (tiles_ == nullptr &&
        (std::holds_alternative<FlowStep>(step.verb) || std::holds_alternative<ThreadStep>(step.verb)))
      find(step.where, fmt::format("{}'s {} needs a ground of tiles", npc_->name, verb_of(step)),
           fmt::format("this ground is {}, so it is refused", scene_.ground.kind()),
           "give the ground tiles, or another verb");
    if (const auto* patrol = std::get_if<PatrolStep>(&step.verb)) {
      waypoints(*patrol->beat, step);
      lap(*patrol, step);
      curve(*patrol->beat, step);
    }
    if (const auto* hop = std::get_if<HopStep>(&step.verb)) waypoints(*hop->points, step);
  }

  void waypoints(const Beat& beat, const SceneStep& step) {
    for (std::size_t i = 0; i < beat.size(); ++i) reachable(beat[i].position, step);
    const auto* patrol = std::get_if<PatrolStep>(&step.verb);
    if (patrol == nullptr) return;
    const bool closed = beat.order() == BeatOrder::around && beat.size() > 2;
    for (std::size_t i = 0; i + (closed ? 0 : 1) < beat.size(); ++i) {
      const std::size_t next = (i + 1) % beat.size();
      const float apart = glm::distance(beat[i].position, beat[next].position);
      if (apart < 0.01f)
        find(step.where,
             fmt::format("{}'s waypoints {} and {} are the same point", npc_->name, i + 1, next + 1),
             "it arrives there twice without a step between", "leave one of them out");
      else if (apart <= patrol->options.within)
        find(step.where,
             fmt::format("{}'s waypoints {} and {} are {:.2f} m apart, and it arrives within {:g} m",
                         npc_->name, i + 1, next + 1, apart, patrol->options.within),
             "it arrives at both without a step between",
             fmt::format("leave one of them out, or a `within` of {:.2f} or less", 0.5f * apart));
    }
  }

  /// A lap that its pauses alone take up, or for which it would have to run faster than anybody can.
  void lap(const PatrolStep& patrol, const SceneStep& step) {
    const float seconds = patrol.options.lap;
    const Beat& beat = *patrol.beat;
    if (seconds <= 0.f || beat.size() < 2) return;
    const bool back = beat.order() == BeatOrder::back_and_forth;
    float pauses = 0.f, metres = 0.f;
    for (std::size_t i = 0; i < beat.size(); ++i) {
      const bool end = i == 0 || i + 1 == beat.size();
      pauses += (back && !end ? 2.f : 1.f) * beat[i].pause.middle();
      if (i + 1 < beat.size() || beat.order() == BeatOrder::around)
        metres += (back ? 2.f : 1.f) * flat_distance(beat[i].position, beat[(i + 1) % beat.size()].position);
    }
    const float fast = 3.f * run_speed(npc_->body), least = pauses + metres / fast;
    if (seconds > least) return;
    find(step.where, fmt::format("{}'s lap is to take {:g} s", npc_->name, seconds),
         pauses >= seconds
             ? fmt::format("its pauses alone take {:g} s", pauses)
             : fmt::format("that is {:.1f} m/s; nobody of its height runs faster than about {:.1f} m/s",
                           metres / (seconds - pauses), fast),
         fmt::format("a lap of {:.0f} or more", std::ceil(pauses + metres / npc_->gait.speed)));
  }

  /// Where a curve leaves the ground between waypoints that are on it.
  void curve(const Beat& beat, const SceneStep& step) {
    constexpr float off_curve = 0.05f;  // metres
    if (beat.path() != BeatPath::curve || beat.size() < 2) return;
    const Curve& curve = beat.curve();
    const float part = std::max(0.5f, curve.length() / 10'000.f);  // metres between two looks
    for (float along = 0.f; along < curve.length(); along += part) {
      const vec3 at = curve.position(along);
      const Snap here = ground_->snap(at, std::numeric_limits<float>::infinity(), npc_->body);
      const float off = here.found ? flat_distance(here.spot.position, at) : 0.f;
      if (off <= off_curve) continue;
      return find(
          step.where,
          fmt::format("{}'s curve leaves the ground by {:.2f} m near {}", npc_->name, off, written(at, 1)),
          "it walks that leg by the shortest way instead, with corners",
          "a waypoint more there, or path = \"straight\"");
    }
  }

  void reachable(vec3 point, const SceneStep& step) {
    if (std::holds_alternative<TeleportStep>(step.verb)) {
      on_ground(point, step.where, fmt::format("{}'s {}", npc_->name, verb_of(step)));
      stands_ = point;
      return;
    }
    reachable(point, step.where, fmt::format("{}'s {}", npc_->name, verb_of(step)));
  }

  static constexpr float reach = 0.5f;  // metres

  /// Finds a point off the ground; false when it is.
  bool on_ground(vec3 point, FilePlace where, const std::string& what) {
    const Snap there = ground_->snap(point, reach, npc_->body);
    const bool told = !scene_.place_at(point).empty() && !ground_->snap(point, reach, thin);
    if (!there && !told)
      find(where, fmt::format("{} leads to {}, which is off the ground", what, as_given(point)),
           fmt::format("the nearest ground is {:.2f} m off", there.off),
           there.found ? written(there.spot.position) + " would do" : "make room for it");
    return there.within;
  }

  void reachable(vec3 point, FilePlace where, const std::string& who) {
    const Body& body = npc_->body;
    if (!on_ground(point, where, who)) return;
    const Snap there = ground_->snap(point, reach, body), here = ground_->snap(stands_, reach, body);
    const std::string what = fmt::format("{} leads to {}", who, as_given(point));
    if (!here || ground_->reachable(here.spot, there.spot)) return;
    const auto doorway = scene::too_narrow(*ground_, stands_, point, body);
    const auto high = !doorway && mesh_ != nullptr && mesh_->of_level()
                          ? scene::too_high(*mesh_, stands_, point, body)
                          : std::nullopt;
    if (high)
      find(where, what,
           fmt::format("on the way there is a step of {:.2f} m{} at {}, {:.2f} m too {} for it", high->metres,
                       high->down ? " down" : "", written(high->at, 1), high->over,
                       high->down ? "deep" : "high"),
           fmt::format("a step_up or {} of {:.2f} would do, or a ramp", high->down ? "drop_down" : "jump_up",
                       std::ceil(100 * high->metres) / 100));
    else if (doorway)
      find(where, what,
           fmt::format("it is {:.2f} m wide, and the only way is {:.2f} m wide beyond {}", 2 * body.radius,
                       2 * doorway->radius, written(doorway->at, 1)),
           fmt::format("a radius of {:.2f} would do", std::floor(100 * doorway->radius) / 100));
    else
      find(where, what, "no way leads there from where it begins",
           "open a way, or choose a point on this side");
  }

  /// Whether it has a place to stand and is not shut in.
  void place() {
    const Snap here = ground_->snap(npc_->at.at, npc_->body.radius, npc_->body);
    if (!here && npc_->body.deck.x <= 0.f)
      return find(
          npc_->where,
          fmt::format("{} begins at {}, where it has no room to stand", npc_->name, as_given(npc_->at.at)),
          "the scene cannot be played",
          here.found ? written(here.spot.position) + " would do" : "make room for it");
    if (npc_->steps.empty() || !here) return;
    if (mesh_ != nullptr)
      if (const double area = room_around(here.spot); area < little_room)
        find(npc_->where, fmt::format("{} begins walled in", npc_->name),
             fmt::format("its middle can get to no more than {:.2f} m2 from there", area),
             "open a way, or let it begin elsewhere");
    if (tiles_ == nullptr) return;
    const TileLayer& layer = tiles_->layer(npc_->body.radius);
    const std::uint32_t cells = layer.components().size(
        layer.components().component(layer.map(), layer.map().cell_of(here.spot.piece)));
    if (cells < few_cells)
      find(npc_->where, fmt::format("{} begins walled in", npc_->name),
           fmt::format("it can get to no more than {} cell{} from there", cells, cells == 1 ? "" : "s"),
           "open a way, or let it begin elsewhere");
  }

  /// Square metres that can be reached from a spot, or more than a little.
  double room_around(const Spot& spot) const {
    const ConvexMesh& mesh = mesh_->mesh(npc_->body);
    const MeshCrossings& crossings = mesh_->crossings(npc_->body);
    MeshCrossings::Reached reached;
    crossings.reach_from(mesh, spot.piece, reached);
    double area = 0;
    for (std::uint32_t polygon = 0; polygon < mesh.polygons().size() && area < little_room; ++polygon)
      if (mesh.polygons()[polygon].count > 0 && reached.components[mesh.component(polygon)])
        area += mesh.area(polygon) / 1e6;
    return area;
  }

  /// True when neither its steps nor an event ever move it.
  bool stands_for_ever(const SceneNpc& npc) const {
    return npc.steps.empty() && npc.many.empty() &&
           std::ranges::none_of(scene_.events, [&](const SceneEvent& event) {
             const auto* click = std::get_if<ClickEvent>(&event.what);
             const auto* put = std::get_if<TeleportEvent>(&event.what);
             const auto* send = std::get_if<SendEvent>(&event.what);
             return click != nullptr || (put != nullptr && put->npc == npc.name) ||
                    (send != nullptr && send->npc == npc.name);
           });
  }

  void blocked_places() {
    for (const Place& place : scene_.places)
      if (const Snap there = ground_->snap(place.at, 0.5f, thin); !there)
        find(place.where, fmt::format("the place {} is off the ground", place.name),
             fmt::format("nobody can stand there; the nearest ground is {:.2f} m off", there.off),
             there.found ? written(there.spot.position) + " would do" : "make room for it");
  }

  void target(const SceneStep& step, const Gait& gait_now) {
    const SceneTarget* target = std::visit(TargetOf(), step.verb);
    if (target == nullptr) return;
    const auto* follow = std::get_if<FollowStep>(&step.verb);
    const float speed =
        follow != nullptr ? std::max(gait_now.speed, follow->options.speeds.most) : gait_now.speed;
    if (const SceneAct* act = scene::act_of(step);
        act != nullptr && (!act->enter.empty() || !act->leave.empty()))
      near(target->npc, std::visit(ActWithin(), step.verb), step.where);
    for (const SceneNpc& other : scene_.npcs) {
      if (other.name == target->npc && stands_for_ever(other)) reachable(other.at.at, step);
      if (other.name != target->npc || other.steps.empty() || other.gait.speed < speed) continue;
      const auto* chase = std::get_if<ChaseStep>(&step.verb);
      if (chase != nullptr && (chase->options.give_up > 0.f || step.seconds || step.until)) continue;
      find(step.where,
           fmt::format("{} goes after {} at {:g} m/s, who moves at {:g} m/s", npc_->name, other.name, speed,
                       other.gait.speed),
           chase != nullptr ? "it never catches up and never gives up" : "once behind, it never catches up",
           fmt::format("a speed of {:.1f} or more{}", 1.2f * other.gait.speed,
                       chase != nullptr ? ", or a give_up, a `for` or an `until`" : ""));
    }
  }

  /// Barriers that are put and stay, and without which one would get somewhere.
  void shutting_barriers() {
    if (!scene_.ground.takes_barriers()) return;
    std::vector<const SceneEvent*> stay;
    for (const SceneEvent& event : scene_.events) {
      const auto* put = std::get_if<PutEvent>(&event.what);
      const bool leaves = put != nullptr && std::ranges::any_of(scene_.events, [&](const SceneEvent& other) {
                            const auto* gone = std::get_if<TakeAwayEvent>(&other.what);
                            const auto* moved = std::get_if<MoveEvent>(&other.what);
                            return (gone != nullptr && gone->barrier == put->barrier) ||
                                   (moved != nullptr && moved->barrier == put->barrier);
                          });
      if (put != nullptr && !leaves) stay.push_back(&event);
    }
    if (stay.empty()) return;
    const auto ground = scene_.ground.make();
    auto& barriers = static_cast<BarrierGround&>(*ground);
    for (const SceneEvent* event : stay) {
      const PutEvent& put = std::get<PutEvent>(event->what);
      const BarrierId id = barriers.put(put.shape);
      const std::string* many = nullptr;
      for (const SceneNpc& npc : scene_.npcs) {
        if (many != nullptr && *many == npc.many && !npc.many.empty()) continue;  // they are alike
        many = &npc.many;
        if (const auto goal = shut_off(npc, *ground)) {
          find(event->where,
               fmt::format("the barrier {} shuts the only way of {} to {}", put.barrier, npc.name,
                           as_given(*goal)),
               "it stays there, so from then on nobody gets through",
               "take it away later, or leave a way beside it");
          break;
        }
      }
      (void)barriers.remove(id);  // it is there
    }
  }

  /// A goal of the NPC that it could reach, but not on that ground.
  std::optional<vec3> shut_off(const SceneNpc& npc, const Ground& shut) const {
    std::vector<vec3> goals;
    each_step(npc.steps, [&](const SceneStep& step) {
      if (const auto* go = std::get_if<GoToStep>(&step.verb); go != nullptr && go->to.npc.empty())
        goals.push_back(go->to.at);
      const auto* patrol = std::get_if<PatrolStep>(&step.verb);
      const auto* hop = std::get_if<HopStep>(&step.verb);
      const Beat* beat = patrol != nullptr ? patrol->beat.get()
                         : hop != nullptr  ? hop->points.get()
                                           : nullptr;
      for (std::size_t i = 0; beat != nullptr && i < beat->size(); ++i) goals.push_back((*beat)[i].position);
    });
    const auto reaches = [&](const Ground& ground, vec3 goal) {
      const Snap here = ground.snap(npc.at.at, reach, npc.body), there = ground.snap(goal, reach, npc.body);
      return here && there && ground.reachable(here.spot, there.spot);
    };
    for (const vec3 goal : goals)
      if (reaches(*ground_, goal) && !reaches(shut, goal)) return goal;
    return std::nullopt;
  }

  /// Events for somebody, by name: their places, and whether they are still there.
  void errands_of_events() {
    std::set<std::string, std::less<>> gone;
    std::vector<const SceneEvent*> in_turn;
    for (const SceneEvent& event : scene_.events) in_turn.push_back(&event);
    std::ranges::stable_sort(in_turn, {}, &SceneEvent::at);
    for (const SceneEvent* event : in_turn) {
      const auto whom = std::visit(
          [](const auto& what) {
            if constexpr (requires { what.npc; }) return what.npc;
            return std::string();
          },
          event->what);
      if (whom.empty()) continue;
      if (gone.contains(whom)) {
        find(event->where,
             fmt::format("the event at {:g} s is for {}, who was removed before", event->at, whom),
             "nothing happens", "leave it out, or let it happen earlier");
        continue;
      }
      if (std::holds_alternative<RemoveEvent>(event->what)) gone.insert(whom);
      const auto npc = std::ranges::find(scene_.npcs, whom, &SceneNpc::name);
      if (npc == scene_.npcs.end()) continue;
      npc_ = &*npc;
      stands_ = npc->at.at;
      const std::string name = fmt::format("the event at {:g} s", event->at);
      if (const auto* send = std::get_if<SendEvent>(&event->what); send != nullptr && send->to.npc.empty())
        reachable(send->to.at, event->where, name);
      if (const auto* put = std::get_if<TeleportEvent>(&event->what); put != nullptr && put->to.npc.empty())
        on_ground(put->to.at, event->where, name);
      npc_ = nullptr;
    }
  }

  /// The goal of a click or a changed waypoint, for the first NPC that cannot get there.
  void goals_of_events() {
    for (const SceneEvent& event : scene_.events) {
      const std::string name = fmt::format("the event at {:g} s", event.at);
      // Others go to the nearest spot; and rays are what players click, who may miss.
      if (const auto* click = std::get_if<ClickEvent>(&event.what);
          click != nullptr && !click->ray && click->to.npc.empty() &&
          click->options.unreachable != Unreachable::nearest)
        goal_for(click->to.at, event, name, [&](const SceneNpc& npc) { return is_of(npc, click->who); });
      if (const auto* add = std::get_if<AddWaypointEvent>(&event.what))
        goal_for(add->waypoint.position, event, name,
                 [&](const SceneNpc& npc) { return npc.written_name() == add->list.npc; });
      if (const auto* move = std::get_if<MoveWaypointEvent>(&event.what))
        goal_for(move->to, event, name,
                 [&](const SceneNpc& npc) { return npc.written_name() == move->list.npc; });
    }
  }
  template <class Meant>
  void goal_for(vec3 goal, const SceneEvent& event, const std::string& name, Meant&& meant) {
    const std::size_t before = findings_.size();
    for (const SceneNpc& npc : scene_.npcs) {
      if (!meant(npc)) continue;
      npc_ = &npc;
      stands_ = npc.at.at;
      reachable(goal, event.where, name);
      npc_ = nullptr;
      if (findings_.size() > before || !npc.many.empty()) return;
    }
  }
  /// True when one of the names is its own or that of one of its tags.
  static bool is_of(const SceneNpc& npc, const std::vector<std::string>& names) {
    return std::ranges::any_of(names, [&](const std::string& name) {
      return name == npc.name || std::ranges::find(npc.tags, name) != npc.tags.end();
    });
  }

  void events() {
    errands_of_events();
    goals_of_events();
    shutting_barriers();
    for (const SceneEvent& event : scene_.events)
      if (const auto* click = std::get_if<ClickEvent>(&event.what);
          click != nullptr && click->ray && !ground_->first_met(*click->ray))
        find(event.where, fmt::format("the click at {:g} s meets nothing but sky", event.at),
             "nobody is sent anywhere", "a point of the window, or a ray, at which there is ground");
    for (const SceneEvent& event : scene_.events)
      if (event.at > scene_.length)
        find(event.where, fmt::format("the event at {:g} s does not happen", event.at),
             fmt::format("the scene is over after {:g} s", scene_.length),
             fmt::format("a length of {:g} or more", event.at + 1));
  }

  static constexpr Body thin{.radius = 0.01f};
  static constexpr std::uint32_t few_cells = 9;  // in which nobody gets about,
  static constexpr double little_room = 1;       // square metres in which neither

  const Scene& scene_;
  const scene::Signals signals_;
  const std::unique_ptr<Ground> ground_;
  const TileGround* tiles_;  // the ground, when it is of tiles
  MeshGround* mesh_;         // the ground, when it is a plan or a level
  const SceneNpc* npc_ = nullptr;
  vec3 stands_{0.f};  // where it begins, or was put last, in metres
  std::vector<Finding> findings_;
};

}  // namespace

std::vector<Finding> check(const Scene& scene) { return Checker(scene).check(); }

}  // namespace ambulon
