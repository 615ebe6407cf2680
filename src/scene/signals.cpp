#include "scene/signals.hpp"

#include <algorithm>
#include <optional>
#include <vector>

#include <fmt/format.h>

#include "scene/verbs/verb.hpp"

namespace ambulon::scene {
namespace {

/// Follows the steps of all characters. A step that waits for a signal continues when that is given, so each
/// step is visited once per signal that it waits for.
class Follower {
 public:
  explicit Follower(const Scene& scene) : scene_(scene) {}

  Signals follow() {
    for (const SceneEvent& event : scene_.events)
      if (const auto* signal = std::get_if<SignalEvent>(&event.what)) give(signal->signal);
    for (const SceneNpc& npc : scene_.npcs) {
      if (npc.repeats_another()) continue;
      hear(npc);
      give(npc.on_touch.signal);
      to_look_at_.push_back(&npc);
    }
    while (!to_look_at_.empty()) {
      const SceneNpc& npc = *to_look_at_.back();
      to_look_at_.pop_back();
      waits_for_.clear();
      if (passes(npc.steps)) continue;
      for (const std::string& signal : waits_for_) waiting_[signal].push_back(&npc);
    }
    for (const SceneNpc& npc : scene_.npcs)
      each_step(npc.steps, [&](const SceneStep& step) {
        if (const SceneAct* act = act_of(step))
          for (const std::string& signal : {act->enter, act->leave})
            if (!signal.empty() && !signals_.given.contains(signal))
              signals_.never_given.try_emplace(signal, fmt::format("{}'s {}", npc.name, verb_of(step)));
      });
    return std::move(signals_);
  }

 private:
  void hear(const SceneNpc& npc) {
    const auto hear = [&](const SceneCondition& condition) {
      if (condition.kind == Condition::Kind::signal) signals_.heard.insert(condition.signal);
    };
    for (const GaitSwitch& each : npc.switches) hear(each.when);
    each_step(npc.steps, [&](const SceneStep& step) {
      if (step.when) hear(*step.when);
      if (step.until) hear(*step.until);
      if (const auto* wait = std::get_if<WaitForStep>(&step.verb)) signals_.heard.insert(wait->signal);
    });
  }

  void give(const std::string& signal) {
    if (signal.empty() || !signals_.given.insert(signal).second) return;
    for (const SceneNpc* npc : waiting_[signal]) to_look_at_.push_back(npc);
    waiting_.erase(signal);
  }

  /// Returns true if the signal is given; otherwise records it as awaited.
  bool comes(const std::string& signal) {
    if (signals_.given.contains(signal)) return true;
    waits_for_.push_back(signal);
    return false;
  }
  bool comes(const SceneCondition& condition) {
    return condition.kind != Condition::Kind::signal || comes(condition.signal);
  }

  /// Returns true if all steps are reached and end.
  bool passes(const std::vector<SceneStep>& steps) {
    return std::ranges::all_of(steps, [&](const SceneStep& step) { return passes(step); });
  }
  bool passes(const SceneStep& step) {
    if (step.when && !comes(*step.when)) return false;
    if (const SceneAct* act = act_of(step)) {
      give(act->enter);
      give(act->leave);
    }
    const auto* inner = std::get_if<SequenceStep>(&step.verb);
    const auto* wait = std::get_if<WaitForStep>(&step.verb);
    const bool ends = inner != nullptr  ? passes(inner->steps) && inner->times > 0
                      : wait != nullptr ? comes(wait->signal)
                                        : !verb_of(step.verb).endless(step.verb);
    return ends || step.time_limit || (step.until && comes(*step.until));
  }

  const Scene& scene_;
  Signals signals_;
  std::vector<const SceneNpc*> to_look_at_;
  std::vector<std::string> waits_for_;  // of the present step
  std::map<std::string, std::vector<const SceneNpc*>, std::less<>> waiting_;
};

}  // namespace

const SceneAct* act_of(const SceneStep& step) {
  return std::visit(
      [](const auto& verb) -> const SceneAct* {
        if constexpr (requires { verb.act; }) return &verb.act;
        return nullptr;
      },
      step.verb);
}

bool never_ends(const SceneStep& step) {
  return verb_of(step.verb).endless(step.verb) && !step.time_limit && !step.until;
}

Signals signals_of(const Scene& scene) { return Follower(scene).follow(); }

}  // namespace ambulon::scene
