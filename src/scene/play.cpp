#include "ambulon/scene/play.hpp"

#include <fmt/format.h>

#include "ambulon/script/routine.hpp"

namespace ambulon {
namespace {

/// Waits for a step's order, but not beyond its time or its condition.
class StepWait {
 public:
  StepWait(Order order, const SceneStep& step, std::optional<Condition> until)
      : order_(order), seconds_(step.seconds), until_(until) {}

  bool over(double now) {
    if (began_ < 0) began_ = now;
    if (order_.over(now))
      outcome_ = order_.result();
    else if (until_ && now > began_)
      outcome_ = until_->check();
    if (!outcome_ && seconds_ && now - began_ >= *seconds_ - 1e-6)
      outcome_ = {.ending = Ending::timed_out, .cause = Cause::time_up, .value = *seconds_};
    return outcome_.has_value();
  }
  Outcome result() const { return *outcome_; }

 private:
  OrderWait order_;
  std::optional<float> seconds_;
  std::optional<Condition> until_;
  std::optional<Outcome> outcome_;
  double began_ = -1;
};

vec3 position_of(World& world, const ScenePoint& point) {
  return point.npc.empty() ? point.at : world.find(point.npc).position();
}

/// Gives the order that a step stands for.
struct Give {
  Npc me;

  Order operator()(const GoToStep& step) const {
    return me.go_to(position_of(*me.world(), step.to), step.options);
  }
  Order operator()(const TurnToStep& step) const {
    return step.heading ? me.turn_to_heading(*step.heading) : me.turn_to(position_of(*me.world(), step.to));
  }
  Order operator()(const PauseStep& step) const {
    return me.pause(me.random(step.seconds.least, step.seconds.most));
  }
  Order operator()(const PatrolStep& step) const { return me.patrol(step.beat, step.options); }
  Order operator()(const WaitForStep& step) const { return me.wait_for(step.signal); }
};

std::optional<Condition> condition(Npc me, const std::optional<SceneCondition>& until) {
  if (!until) return std::nullopt;
  if (!until->signal.empty()) return me.until_signal(until->signal);
  const Npc other = me.world()->find(until->npc);
  return until->apart ? me.until_apart(other, until->metres) : me.until_near(other, until->metres);
}

Routine work_through(Npc me, const SceneNpc& npc) {
  do {
    for (const SceneStep& step : npc.steps) {
      if (step.after > 0.f) co_await me.pause(step.after);
      while ((co_await StepWait(std::visit(Give{me}, step.verb), step, condition(me, step.until))).ending ==
             Ending::replaced) {
        // Somebody else sent it elsewhere: it lets that be done, and takes up its work again.
        co_await until([me] { return !me.busy(); });
      }
    }
  } while (npc.repeat);
}

}  // namespace

Play::Play(const Scene& scene, std::size_t journal)
    : scene_(scene), world_({.ground = nullptr, .seed = scene.seed, .journal = journal}) {}

Expected<std::unique_ptr<Play>> Play::put_up(const Scene& scene, std::size_t journal) {
  std::unique_ptr<Play> play(new Play(scene, journal));
  for (const SceneNpc& npc : scene.npcs) {
    auto added = play->world_.add(
        {.name = npc.name, .at = npc.at.at, .heading = npc.heading, .body = npc.body, .gait = npc.gait});
    if (!added)
      return problem(fmt::format("{}:{}:{}: {}: {}", scene.file, npc.where.line, npc.where.column, npc.name,
                                 added.error().text));
    play->npcs_.push_back(*added);
  }
  play->removed_.resize(scene.npcs.size());
  for (std::size_t i = 0; i < scene.npcs.size(); ++i)
    if (!scene.npcs[i].steps.empty())
      start(play->npcs_[i], [&npc = scene.npcs[i]](Npc me) { return work_through(me, npc); });
  return play;
}

void Play::happen(const SceneEvent& event) {
  if (const auto* signal = std::get_if<SignalEvent>(&event.what)) {
    world_.signal(signal->signal);
  } else if (const auto* send = std::get_if<SendEvent>(&event.what)) {
    world_.find(send->npc).go_to(position_of(world_, send->to), send->options);
  } else if (const auto* remove = std::get_if<RemoveEvent>(&event.what)) {
    for (std::size_t i = 0; i < npcs_.size(); ++i)
      if (npcs_[i].alive() && scene_.npcs[i].name == remove->npc)
        removed_[i] = Last{npcs_[i].tally(), npcs_[i].motion()};
    world_.find(remove->npc).remove();
  }
}

void Play::tick() {
  while (next_event_ < scene_.events.size() && scene_.events[next_event_].at <= world_.time() + 1e-6)
    happen(scene_.events[next_event_++]);
  (void)world_.tick(1.f / static_cast<float>(scene_.rate));  // the rate was checked when it was read
}

Tally Play::tally(std::size_t index) const {
  return removed_[index] ? removed_[index]->tally : npcs_[index].tally();
}

Motion Play::motion(std::size_t index) const {
  return removed_[index] ? removed_[index]->motion : npcs_[index].motion();
}

std::string Play::sentence(const Note& note) const {
  return world_.sentence(note, scene_.place_at(note.where));
}

}  // namespace ambulon
