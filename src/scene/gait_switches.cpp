#include "scene/gait_switches.hpp"

#include "scene/work.hpp"

namespace ambulon {

void GaitSwitches::watch(const Scene& scene, std::span<const Npc> npcs) {
  switches_.clear();
  for (std::size_t i = 0; i < npcs.size(); ++i)
    for (const GaitSwitch& each : scene.npcs[i].switches)
      switches_.push_back({npcs[i], &each, condition(npcs[i], each.when)});
}

void GaitSwitches::apply() {
  for (Switch& each : switches_) {
    const auto outcome = each.condition.check();
    const bool holds = outcome && *outcome;
    if (holds && !each.held) {
      (void)each.npc.set_gait(each.how->gait);               // checked when it was read
      each.condition = condition(each.npc, each.how->when);  // restarts the counts of arrived and stuck
    }
    each.held = holds;
  }
}

}  // namespace ambulon
