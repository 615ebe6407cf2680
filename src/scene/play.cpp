#include "ambulon/scene/play.hpp"

#include <algorithm>
#include <cmath>
#include <set>

#include <fmt/format.h>

#include "ambulon/errand/squad.hpp"
#include "ambulon/ground/field/flow_field.hpp"
#include "ambulon/ground/mesh/mesh_ground.hpp"
#include "ambulon/ground/tiles/tile_ground.hpp"
#include "ambulon/script/routine.hpp"

#include "base/geometry.hpp"
#include "base/written.hpp"
#include "played.hpp"
#include "values.hpp"

namespace ambulon {
namespace {

constexpr std::size_t nowhere = ~std::size_t{0};
constexpr double shortest_round = 0.1;  // seconds: a shorter round of steps did nothing
constexpr float longest_wait = 16.f;    // seconds before the next round

/// Waits for a step, at most until its time limit or its condition.
template <Wait W>
class StepWait {
 public:
  StepWait(W&& wait, std::optional<float> seconds, std::optional<Condition> until)
      : wait_(std::move(wait)), seconds_(seconds), until_(until) {}

  bool over(double now) {
    if (began_ < 0) began_ = now;
    if (wait_->over(now))
      outcome_ = wait_->result();
    else if (until_ && now > began_)
      give_up(until_->check());
    if (!outcome_ && seconds_ && now - began_ >= *seconds_ - 1e-6)
      outcome_ = {.ending = Ending::timed_out, .cause = Cause::time_up, .value = *seconds_};
    if (outcome_) wait_.reset();
    return outcome_.has_value();
  }
  Outcome result() const { return *outcome_; }

 private:
  void give_up(const std::optional<Outcome>& held) {
    if constexpr (std::same_as<W, OrderWait>)
      if (held) wait_->cancel(Cause::condition_held);
    outcome_ = held;
  }

  std::optional<W> wait_;
  std::optional<float> seconds_;
  std::optional<Condition> until_;
  std::optional<Outcome> outcome_;
  double began_ = -1;
};

Target target_of(World& world, const SceneTarget& target) {
  if (target.tag.empty()) return {.npc = world.find(target.npc).id()};
  return World::one_of(tags_of(world, std::span(&target.tag, 1)), target.pick);
}

BlendPtr blend_of(World& world, const SteerStep& step) {
  auto blend = std::make_shared<Blend>();
  for (const SceneTerm& each : step.terms) {
    Term term = each.term;
    const Target target = target_of(world, each.target);
    term.target = target.npc;
    term.tags = target.tags;
    (void)blend->add(std::move(term));  // checked when it was read
  }
  return blend;
}

/// Gives the order of a step.
struct Give {
  Play& play;
  Npc me;
  World& world = *me.world();

  Order operator()(const GoToStep& step) const { return me.go_to(position_of(world, step.to), step.options); }
  Order operator()(const TurnToStep& step) const {
    return step.heading ? me.turn_to_heading(*step.heading) : me.turn_to(position_of(world, step.to));
  }
  Order operator()(const PauseStep& step) const {
    return me.pause(me.random(step.seconds.min, step.seconds.max));
  }
  Order operator()(const PatrolStep& step) const {
    return me.patrol(play.waypoints(step.list, *step.beat), step.options);
  }
  Order operator()(const WaitForStep& step) const { return me.wait_for(step.signal); }
  Order operator()(const RoamStep& step) const {
    RoamOptions options = step.options;
    if (step.home) options.home = position_of(world, *step.home);
    return me.roam(options);
  }
  Order operator()(const HopStep& step) const {
    return me.hop(play.waypoints(step.list, *step.points), step.options);
  }
  Order operator()(const FollowStep& step) const {
    return acting(me.follow(target_of(world, step.target), step.options), step.act);
  }
  Order operator()(const ChaseStep& step) const {
    return acting(me.chase(target_of(world, step.target), step.options), step.act);
  }
  Order operator()(const FleeStep& step) const {
    return acting(me.flee(target_of(world, step.target), step.options), step.act);
  }
  Order operator()(const EscortStep& step) const { return me.escort(world.find(step.leader), step.options); }
  Order operator()(const MarchStep& step) const { return me.march(play.squad(step), step.options); }
  Order operator()(const EaseToStep& step) const {
    return me.ease_to(position_of(world, step.to), step.options);
  }
  Order operator()(const SwayStep& step) const { return me.sway(step.options); }
  Order operator()(const PaceStep& step) const { return me.pace(step.options); }
  Order operator()(const WanderStep& step) const {
    WanderOptions options = step.options;
    if (step.home) options.home = position_of(world, *step.home);
    return me.wander(options);
  }
  Order operator()(const FlowStep& step) const { return play.flow(me, step.goals, step.options); }
  Order operator()(const ThreadStep& step) const {
    ThreadOptions options = step.options;
    options.target = target_of(world, step.target);
    return me.thread(options);
  }
  Order operator()(const SteerStep& step) const { return me.steer(blend_of(world, step), step.options); }
  Order operator()(const TeleportStep& step) const {
    play.put(me, position_of(world, step.to));
    return me.pause(0.f);
  }
  Order operator()(const SequenceStep&) const { return {}; }  // several orders

  static Order acting(Order order, const SceneAct& act) {
    if (act.enter.empty() && act.leave.empty()) return order;
    return order.on_act([&act](Npc npc, Npc, bool near) {
      const std::string& signal = near ? act.enter : act.leave;
      if (!signal.empty()) npc.world()->signal(signal);
    });
  }
};

/// Gives the step's order, which keeps the time limit.
Order give(Play& play, Npc me, const SceneStep& step) {
  const Order order = std::visit(Give{play, me}, step.verb);
  if (step.patience) order.patience(*step.patience);
  return step.time_limit ? order.time_limit(*step.time_limit) : order;
}

Condition condition(Npc me, const SceneCondition& what) {
  if (what.kind == Condition::Kind::signal) return me.until_signal(what.signal);
  return {me.world(), what.kind, me.id(), me.world()->find(what.npc).id(), what.metres};
}

std::optional<Condition> condition(Npc me, const std::optional<SceneCondition>& what) {
  return what ? std::optional(condition(me, *what)) : std::nullopt;
}

/// Waits for some seconds, and until orders that others gave meanwhile have ended.
Routine idle(Npc me, float seconds) {
  const double until_then = me.world()->time() + static_cast<double>(seconds) - 1e-6;
  co_await until([me, until_then] { return me.world()->time() >= until_then && !me.busy(); });
}

/// Runs the steps in order, `times` times; 0: for ever. If a round takes no time, since its orders fail or
/// are done at once, the next one waits: 1 s at first, then longer.
Routine work_through(Play& play, Npc me, const std::vector<SceneStep>& steps, std::uint32_t times) {
  float wait = 0.f;  // seconds
  for (std::uint32_t time = 0; times == 0 || time < times; ++time) {
    if (wait > 0.f) co_await idle(me, wait);
    const double began = me.world()->time();
    for (const SceneStep& step : steps) {
      if (step.after > 0.f) co_await idle(me, step.after);
      if (step.when) co_await condition(me, *step.when);
      if (step.gait) (void)me.set_gait(*step.gait);  // checked when it was read
      if (const auto* inner = std::get_if<SequenceStep>(&step.verb)) {
        co_await StepWait(work_through(play, me, inner->steps, inner->times), step.time_limit,
                          condition(me, step.until));
        continue;
      }
      while ((co_await StepWait(as_wait(give(play, me, step)), std::nullopt, condition(me, step.until)))
                 .ending == Ending::replaced) {
        // Sent elsewhere by another order: waits for its end, then continues.
        co_await until([me] { return !me.busy(); });
      }
    }
    wait = me.world()->time() - began > shortest_round ? 0.f : std::clamp(2.f * wait, 1.f, longest_wait);
  }
}

}  // namespace

Play::Play(std::shared_ptr<const Scene> scene, std::size_t journal, Jobs jobs)
    : scene_(std::move(scene)),
      ground_(scene_->ground.make()),
      tiles_(scene_->ground.tiles ? static_cast<TileGround*>(ground_.get()) : nullptr),
      mesh_(scene_->ground.is_mesh() ? static_cast<MeshGround*>(ground_.get()) : nullptr),
      barrier_ground_(scene_->ground.takes_barriers() ? static_cast<BarrierGround*>(ground_.get()) : nullptr),
      world_({.ground = ground_.get(),
              .seed = scene_->seed,
              .journal = journal,
              .avoid = scene_->avoid,
              .patience = scene_->patience,
              .route_work = scene_->route_work,
              .jobs = std::move(jobs)}) {}

Expected<std::unique_ptr<Play>> Play::start(const Scene& scene, std::size_t journal, Jobs jobs) {
  return start(std::shared_ptr<const Scene>(std::shared_ptr<void>(), &scene), journal, std::move(jobs));
}

Expected<std::unique_ptr<Play>> Play::start(std::shared_ptr<const Scene> scene, std::size_t journal,
                                            Jobs jobs) {
  std::unique_ptr<Play> play(new Play(std::move(scene), journal, std::move(jobs)));
  play->world_.reserve(play->scene_->npcs.size());
  for (const SceneNpc& npc : play->scene_->npcs) {
    auto added = play->add(*play->scene_, npc);
    if (!added) return tl::unexpected(added.error());
    play->npcs_.push_back(*added);
  }
  play->removed_.resize(play->npcs_.size());
  if (auto looked = play->world_.set_viewers(play->scene_->viewers, play->scene_->detail); !looked)
    return tl::unexpected(looked.error());
  play->watch_switches();
  for (std::size_t i = 0; i < play->npcs_.size(); ++i) {
    play->watch_touch(i);
    play->begin_work(play->scene_, i);
  }
  return play;
}

std::shared_ptr<Beat> Play::waypoints(const WaypointList& list, const Beat& of) {
  std::shared_ptr<Beat>& known = waypoints_[list];
  if (!known) known = std::make_shared<Beat>(of);
  return known;
}

const Beat& Play::waypoints_now(const WaypointList& list, const Beat& of) const {
  const auto known = waypoints_.find(list);
  return known != waypoints_.end() ? *known->second : of;
}

/// Returns the squad of all that march like this; a new one if the last one has no members.
std::shared_ptr<Squad> Play::squad(const MarchStep& step) {
  std::weak_ptr<Squad>& known = squads_[fmt::format(
      "{} {} {} {} {} {} {}", step.to.npc, step.to.at.x, step.to.at.y, step.to.at.z,
      static_cast<int>(step.formation), step.spacing, static_cast<int>(step.unreachable))];
  if (auto squad = known.lock()) return squad;
  auto squad =
      Squad::make({.formation = step.formation, .spacing = step.spacing, .unreachable = step.unreachable})
          .value();  // checked when read
  known = squad;
  if (step.to.npc.empty())
    (void)squad->go_to(step.to.at);
  else
    squad->follow(world_.find(step.to.npc).id());
  return squad;
}

/// Returns where an NPC begins; for a `count` the next free place around their point. The places are on a
/// sunflower spiral: H. Vogel, "A Better Way to Construct the Sunflower Head" (1979).
Expected<vec3> Play::place_for(const Scene& scene, const SceneNpc& npc, const Body& body) {
  if (npc.many.empty()) return npc.at.at;
  constexpr float golden = 2.39996323f;  // radians
  constexpr float part = 0.65f;          // so that no two are closer than `spacing`
  constexpr std::uint32_t max_tried = 100'000;
  Many& many = many_[npc.many];
  while (many.places_tried < max_tried) {
    const auto seed = static_cast<float>(many.places_tried++);
    const vec3 at = npc.at.at + lift(part * npc.spacing * std::sqrt(seed + 0.5f) * unit(golden * seed));
    const Snap snap = ground_->snap(at, 0.05f, body);
    if (!snap || !has_room(scene, npc, snap.spot.position)) continue;
    many.begun.push_back({snap.spot.position, body.radius, body.height});
    return snap.spot.position;
  }
  return problem(fmt::format("there is no room for it {:g} m apart from the others around {}", npc.spacing,
                             written(npc.at.at)));
}

/// Returns true if an NPC of a `count` would not begin inside another NPC. On decks there is always room.
bool Play::has_room(const Scene& scene, const SceneNpc& npc, vec3 at) const {
  const auto touches = [&](const Stands& other) {
    return flat_distance(at, other.at) < npc.body.radius + other.radius &&
           share_height(other.at.z - at.z, npc.body.height, other.height);
  };
  for (const auto& [name, many] : many_)
    if (name != npc.many && std::ranges::any_of(many.begun, touches)) return false;
  return std::ranges::none_of(scene.npcs, [&](const SceneNpc& other) {
    return other.many.empty() && other.body.deck.x == 0.f &&
           touches({other.at.at, other.body.radius, other.body.height});
  });
}

Expected<Npc> Play::add(const Scene& scene, const SceneNpc& npc) {
  const auto wrong = [&](const Problem& why) {
    return problem(
        fmt::format("{}:{}:{}: {}: {}", scene.file, npc.where.line, npc.where.column, npc.name, why.text));
  };
  for (const auto* names : {&npc.tags, &npc.passes})
    for (const std::string& name : *names)
      if (auto tag = world_.tag(name); !tag) return wrong(tag.error());
  Body body = npc.body;
  body.passes = tags_of(world_, npc.passes);
  const auto at = place_for(scene, npc, body);
  if (!at) return wrong(at.error());
  auto added = world_.add({.name = npc.name,
                           .at = *at,
                           .heading = npc.heading,
                           .body = body,
                           .gait = npc.gait,
                           .avoidance = npc.avoidance,
                           .tags = tags_of(world_, npc.tags),
                           .route_priority = npc.route_priority});
  if (added) return added;
  // The ground around an NPC's start is kept, unless the NPC was added later or `reach_from` lists other
  // points.
  const bool kept =
      std::ranges::find(scene_->ground.rules.reach_from, npc.at.at) != scene_->ground.rules.reach_from.end();
  if (!scene_->ground.level || kept || mesh_->left_out(body).components == 0) return wrong(added.error());
  return wrong(
      {fmt::format("{}; ground that no point of reach_from leads to is left out: list one there, or "
                   "restart the scene",
                   added.error().text)});
}

/// Starts the steps of an NPC, which belong to that scene.
void Play::begin_work(const std::shared_ptr<const Scene>& scene, std::size_t index) {
  const SceneNpc& npc = scene->npcs[index];
  if (npc.steps.empty()) return;
  ambulon::start(npcs_[index], [&npc, scene, &all = *this](Npc me) {
    return work_through(all, me, npc.steps, npc.repeat ? 0 : 1);
  });
}

void Play::watch_switches() {
  switches_.clear();
  for (std::size_t i = 0; i < npcs_.size(); ++i)
    for (const GaitSwitch& each : scene_->npcs[i].switches)
      switches_.push_back({npcs_[i], each.gait, &each.when, condition(npcs_[i], each.when)});
}

/// Gives the NPC's touch signal, if it has one.
void Play::watch_touch(std::size_t index) {
  const SceneTouch& touch = scene_->npcs[index].on_touch;
  if (touch.signal.empty()) return npcs_[index].on_touch({});
  npcs_[index].on_touch([signal = touch.signal](Npc me, Npc, float) { me.world()->signal(signal); },
                        tags_of(world_, touch.tags));
}

Expected<void> Play::reload(std::shared_ptr<const Scene> next) {
  if (!next->same_world(*scene_))
    return problem(fmt::format(
        "{}: the ground, `avoid`, `patience` or `route_work` was changed; restart the scene", next->file));
  const std::shared_ptr<const Scene> before = scene_;
  const std::vector<std::size_t> places = places_before(*next);
  auto npcs = npcs_of(*next, places);
  if (!npcs) return tl::unexpected(npcs.error());
  for (const Npc npc : std::exchange(npcs_, std::move(*npcs)))
    if (std::ranges::find(npcs_, npc) == npcs_.end()) npc.remove();
  std::vector<std::optional<Last>> gone(npcs_.size());
  for (std::size_t i = 0; i < gone.size(); ++i)
    if (places[i] != nowhere) gone[i] = removed_[places[i]];
  removed_ = std::move(gone);
  scene_ = std::move(next);
  (void)world_.set_viewers(scene_->viewers, scene_->detail);  // checked when it was read
  watch_switches();
  forget_waypoints(*before, places);
  for (std::size_t i = 0; i < npcs_.size(); ++i)
    change(i, places[i] != nowhere ? &before->npcs[places[i]] : nullptr);
  const auto ahead = std::ranges::find_if(
      scene_->events, [&](const SceneEvent& event) { return event.at > world_.time() + 1e-6; });
  next_event_ = static_cast<std::size_t>(ahead - scene_->events.begin());
  return {};
}

/// Discards the changed waypoints of NPCs that are new or restart their steps.
void Play::forget_waypoints(const Scene& before, std::span<const std::size_t> places) {
  std::set<std::string, std::less<>> kept;
  for (std::size_t i = 0; i < places.size(); ++i)
    if (places[i] != nowhere && before.npcs[places[i]].work_sum == scene_->npcs[i].work_sum)
      kept.insert(scene_->npcs[i].written_name());
  std::erase_if(waypoints_, [&](const auto& each) { return !kept.contains(each.first.npc); });
}

/// Returns for each NPC of the next scene its number in the present one; `nowhere` for a new one. An NPC with
/// a changed value that cannot be set later counts as new.
std::vector<std::size_t> Play::places_before(const Scene& next) const {
  std::vector<std::size_t> places;
  for (const SceneNpc& npc : next.npcs) {
    const auto old = std::ranges::find(scene_->npcs, npc.name, &SceneNpc::name);
    const bool same = old != scene_->npcs.end() && old->tags == npc.tags && old->passes == npc.passes &&
                      old->avoidance == npc.avoidance && old->route_priority == npc.route_priority;
    places.push_back(same ? static_cast<std::size_t>(old - scene_->npcs.begin()) : nowhere);
  }
  return places;
}

/// Returns the NPCs of the next scene; new ones are added to the world. Returns a problem, and adds none, if
/// one cannot be added.
Expected<std::vector<Npc>> Play::npcs_of(const Scene& next, std::span<const std::size_t> places) {
  std::vector<Npc> npcs;
  for (std::size_t i = 0; i < places.size(); ++i) {
    auto npc = places[i] != nowhere ? npcs_[places[i]] : add(next, next.npcs[i]);
    if (npc) {
      npcs.push_back(*npc);
      continue;
    }
    for (std::size_t k = 0; k < i; ++k)
      if (places[k] == nowhere) npcs[k].remove();
    return tl::unexpected(npc.error());
  }
  return npcs;
}

/// Applies the changes of NPC `index`; `old`: its previous description, null if it is new.
void Play::change(std::size_t index, const SceneNpc* old) {
  const SceneNpc& now = scene_->npcs[index];
  const Npc npc = npcs_[index];
  if (old != nullptr && old->gait != now.gait) {  // only what has changed
    Gait gait = npc.gait();
    for (const auto& field : scene::gait_fields)
      if (old->gait.*field.value != now.gait.*field.value) gait.*field.value = now.gait.*field.value;
    if (old->gait.turn_first != now.gait.turn_first) gait.turn_first = now.gait.turn_first;
    if (old->gait.mass != now.gait.mass) gait.mass = now.gait.mass;
    (void)npc.set_gait(gait);  // checked when it was read
  }
  if (old != nullptr && old->body != now.body) {
    Body body = now.body;
    body.passes = tags_of(world_, now.passes);
    (void)npc.set_body(body);
  }
  watch_touch(index);
  if (old != nullptr && old->work_sum == now.work_sum) return;
  npc.direct({});  // ends its script
  begin_work(scene_, index);
}

/// Switches gaits when their conditions become true. A condition counts again after a tick in which it was
/// false.
void Play::switch_gaits() {
  for (Switch& each : switches_) {
    const auto outcome = each.condition.check();
    const bool holds = outcome && *outcome;
    if (holds && !each.held) {
      (void)each.npc.set_gait(each.gait);
      each.condition = condition(each.npc, *each.when);  // restarts the counts of arrived and stuck
    }
    each.held = holds;
  }
}

/// Discards fields that no order uses any more.
Order Play::flow(Npc me, std::span<const vec3> goals, const FlowOptions& options) {
  if (tiles_ == nullptr) return me.thread();  // the outcome says what is missing
  const Body body = me.body();
  for (Field& each : fields_)
    std::erase_if(each.used_by, [](const Order& order) { return !order.running(); });
  std::erase_if(fields_, [](const Field& each) { return each.used_by.empty(); });
  auto field = std::ranges::find_if(fields_, [&](const Field& each) {
    return each.radius == body.radius && std::ranges::equal(each.goals, goals);
  });
  if (field == fields_.end())
    field = fields_.insert(
        fields_.end(),
        {{goals.begin(), goals.end()}, body.radius, std::make_unique<FlowField>(*tiles_, goals, body), {}});
  return field->used_by.emplace_back(me.flow(*field->field, options));
}

void Play::tick() {
  while (next_event_ < scene_->events.size() && scene_->events[next_event_].at <= world_.time() + 1e-6)
    (void)happen(scene_->events[next_event_++]);  // a late one changes nothing
  for (const Field& each : fields_) each.field->update();
  (void)world_.tick(1.f / static_cast<float>(scene_->rate));  // the rate was checked when it was read
  switch_gaits();
}

Statistics Play::statistics(std::size_t index) const {
  return removed_[index] ? removed_[index]->statistics : npcs_[index].statistics();
}

Motion Play::motion(std::size_t index) const {
  return removed_[index] ? removed_[index]->motion : npcs_[index].motion();
}

std::string Play::sentence(const Note& note) const {
  return world_.sentence(note, scene_->place_at(note.where));
}

}  // namespace ambulon
