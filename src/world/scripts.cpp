#include "world/scripts.hpp"

#include <algorithm>

namespace ambulon {

void Scripts::start(std::uint32_t slot, std::unique_ptr<Script> script) {
  scripts_[slot] = std::move(script);
  state_.npcs[slot].scripted = true;
  state_.mark_fresh(slot);
  proceed(slot);
}

void Scripts::dismiss(std::uint32_t slot) {
  if (!state_.npcs[slot].scripted) return;
  state_.npcs[slot].scripted = false;
  dismissed_.push_back(std::move(value_of(scripts_, slot)));
  scripts_.erase(slot);
}

void Scripts::proceed(std::uint32_t slot) {
  if (!state_.npcs[slot].scripted) return;
  if (state_.clock.ticking) state_.clock.called_at = state_.moment(slot);
  Script* script = value_of(scripts_, slot).get();
  if (!script->proceed()) return;
  // The script may have been replaced while it ran.
  if (state_.npcs[slot].scripted && value_of(scripts_, slot).get() == script) dismiss(slot);
}

void Scripts::destroy_dismissed() {
  while (!dismissed_.empty()) {
    const std::unique_ptr<Script> script = std::move(dismissed_.back());
    dismissed_.pop_back();
  }
}

void Scripts::destroy_all() {
  while (!scripts_.empty()) {
    state_.npcs[scripts_.begin()->first].scripted = false;
    scripts_.extract(scripts_.begin());
  }
  destroy_dismissed();
}

void Scripts::add_sleeping() {
  const auto awake = static_cast<std::ptrdiff_t>(running_.size());
  for (const auto& [slot, script] : scripts_)
    if (state_.surroundings.asleep(slot)) running_.push_back(slot);
  std::inplace_merge(running_.begin(), running_.begin() + awake, running_.end());
}

}  // namespace ambulon
