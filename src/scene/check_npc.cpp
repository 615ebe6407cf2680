// Checks a character and its steps.

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "ambulon/motion/motion.hpp"

#include "base/geometry.hpp"
#include "scene/checker.hpp"
#include "scene/verbs/verb.hpp"

namespace ambulon::scene {

void Checker::standing_in_one_another() {
  const float width = 2.f * npc_->body.radius;
  if (!npc_->many.empty() && npc_->spacing < width)
    find(npc_->where,
         fmt::format("{} begin {:g} m apart and are {:g} m wide", npc_->many, npc_->spacing, width),
         "bodies in one place look wrong until they part", fmt::format("spacing = {:g} or more", width));
  if (!npc_->many.empty()) return;
  for (const SceneNpc& other : scene_.npcs) {
    if (&other == npc_) break;
    if (!other.many.empty()) continue;  // only their centre is known here
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

void Checker::body() {
  const vec2 size = scene_.ground.max() - scene_.ground.min();
  const float width = 2.f * npc_->body.radius, room = std::min(size.x, size.y);
  if (width > room && !npc_->steps.empty())
    find(npc_->where,
         fmt::format("{} is {:.2f} m wide, and the ground only {:.2f} m", npc_->name, width, room),
         "it cannot move without leaving the ground",
         fmt::format("a radius of {:.2f} would do", 0.45f * room));
  for (const SceneEvent& event : scene_.events) {
    const auto* suspend = std::get_if<SuspendEvent>(&event.what);
    if (suspend == nullptr || !suspend->suspended || suspend->npc != npc_->name || event.at > 0) continue;
    const bool resumed = std::ranges::any_of(scene_.events, [&](const SceneEvent& later) {
      const auto* resume = std::get_if<SuspendEvent>(&later.what);
      return resume != nullptr && !resume->suspended && resume->npc == npc_->name;
    });
    if (!resumed)
      find(event.where, fmt::format("{} is suspended from the beginning and never resumed", npc_->name),
           "it will stand where it begins", "add an event with resume");
  }
}

void Checker::gait(const Gait& gait, FilePlace where) {
  const float fast = 3.f * run_speed(npc_->body);
  if (gait.speed > fast)
    find(where,
         fmt::format("{} moves at {:g} m/s with a height of {:g} m", npc_->name, gait.speed,
                     npc_->body.height),
         fmt::format("a body of that height runs at most about {:.1f} m/s", fast),
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
         "it turns before it sets off, and will hardly ever move", "a turn_rate of 90 or more");
}

void Checker::steps(const std::vector<SceneStep>& steps, Gait gait_now, bool repeat) {
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
           "give that one a `time_limit`, an `until` or a number of times");
    else if (endless && repeat && i > 0)
      find(each.where, fmt::format("{}'s list does not start over", npc_->name),
           fmt::format("its {} never ends, so `repeat` changes nothing", verb_of(each)),
           "give that one a `time_limit` or an `until`, or leave out `repeat`");
    if (const auto* inner = std::get_if<SequenceStep>(&each.verb))
      this->steps(inner->steps, gait_now, inner->times != 1);
  }
}

void Checker::step(const SceneStep& step, const Gait& gait_now) {
  const Verb& verb = verb_of(step.verb);
  if (const auto within = verb.arrival(step.verb)) {
    const float stride = gait_now.speed / static_cast<float>(scene_.rate);
    if (*within < stride)
      find(step.where,
           fmt::format("{}'s {} arrives within {:g} m, but at {:g} m/s a tick's step is {:.3f} m", npc_->name,
                       verb_of(step), *within, gait_now.speed, stride),
           "it may be there between two ticks only, so its arrival is not visible",
           fmt::format("a `within` of {:.2f} or more", std::ceil(stride * 100.f) / 100.f));
  }
  if (step.after > scene_.length)
    find(step.where, fmt::format("{}'s {} waits {:g} s first", npc_->name, verb_of(step), step.after),
         fmt::format("the scene ends at {:g} s", scene_.length), "an `after` within the scene's length");
  condition(step, step.when, "never begins");
  condition(step, step.until, "does not end by its condition");
  verb.check(*this, step, gait_now);
}

void Checker::awaits(const std::string& signal, const SceneStep& step) {
  if (signals_.given.contains(signal)) return;
  const auto never = signals_.never_given.find(signal);
  find(step.where,
       never == signals_.never_given.end()
           ? fmt::format("{} waits for \"{}\", which is never given", npc_->name, signal)
           : fmt::format("{} waits for \"{}\", which only {} gives, and that never begins", npc_->name,
                         signal, never->second),
       "it will stand there for ever", "add an event with that signal, or an `act` that gives it");
}

void Checker::condition(const SceneStep& step, const std::optional<SceneCondition>& condition,
                        std::string_view so) {
  if (!condition) return;
  if (condition->kind == Condition::Kind::near) near(condition->npc, condition->metres, step.where);
  if (condition->kind != Condition::Kind::signal || signals_.given.contains(condition->signal)) return;
  const auto never = signals_.never_given.find(condition->signal);
  find(step.where, fmt::format("{}'s {} {}", npc_->name, verb_of(step), so),
       never == signals_.never_given.end()
           ? fmt::format("no step or event gives the signal \"{}\"", condition->signal)
           : fmt::format("only {} gives the signal \"{}\", and that never begins", never->second,
                         condition->signal),
       "add an event with that signal, or an `act` that gives it");
}

/// Finds distances that two NPCs never reach, since they avoid each other.
void Checker::near(const std::string& name, float metres, FilePlace where) {
  if (!scene_.avoid || !npc_->avoidance.takes_part) return;
  const auto other = std::ranges::find(scene_.npcs, name, &SceneNpc::name);
  if (other == scene_.npcs.end() || !other->avoidance.takes_part || other->body.deck.x > 0.f ||
      passes(*npc_, *other) || passes(*other, *npc_))
    return;
  const float room = npc_->body.radius + other->body.radius;
  if (metres >= room) return;
  find(where, fmt::format("{} is to come within {:g} m of {}", npc_->name, metres, name),
       fmt::format("their bodies touch at {:.2f} m, and they avoid each other", room),
       fmt::format("{:.1f} or more", std::ceil(10.f * (1.1f * room + 0.1f)) / 10.f));
}

/// Returns true if the first one passes through the other.
bool Checker::passes(const SceneNpc& one, const SceneNpc& other) {
  return std::ranges::any_of(one.passes, [&](const std::string& tag) {
    return std::ranges::find(other.tags, tag) != other.tags.end();
  });
}

/// Returns true if neither its steps nor an event ever move it.
bool Checker::stands_for_ever(const SceneNpc& npc) const {
  return npc.steps.empty() && npc.many.empty() &&
         std::ranges::none_of(scene_.events, [&](const SceneEvent& event) {
           const auto* click = std::get_if<ClickEvent>(&event.what);
           const auto* put = std::get_if<TeleportEvent>(&event.what);
           const auto* send = std::get_if<SendEvent>(&event.what);
           return click != nullptr || (put != nullptr && put->npc == npc.name) ||
                  (send != nullptr && send->npc == npc.name);
         });
}

void Checker::acts(const SceneTarget& target, const SceneAct& act, float within, const SceneStep& step) {
  if (!act.enter.empty() || !act.leave.empty()) near(target.npc, within, step.where);
}

void Checker::keeps_up(const SceneTarget& target, float speed, std::string_view so, std::string_view instead,
                       const SceneStep& step) {
  for (const SceneNpc& other : scene_.npcs) {
    if (other.name != target.npc) continue;
    if (stands_for_ever(other)) reachable(other.at.at, step);
    if (other.steps.empty() || other.gait.speed < speed) continue;
    find(step.where,
         fmt::format("{} goes after {} at {:g} m/s, who moves at {:g} m/s", npc_->name, other.name, speed,
                     other.gait.speed),
         std::string(so), fmt::format("a speed of {:.1f} or more{}", 1.2f * other.gait.speed, instead));
  }
}

}  // namespace ambulon::scene
