#include "world/callbacks.hpp"

namespace ambulon {

Callbacks::Callbacks(World& world, Npcs& npcs, Clock& clock, std::pmr::memory_resource* memory,
                     std::pmr::memory_resource* pool)
    : world_(world),
      npcs_(npcs),
      clock_(clock),
      orders_(pool),
      removals_(pool),
      ended_(memory),
      telling_ended_(memory),
      acts_(memory),
      telling_acts_(memory),
      removed_(memory),
      telling_removed_(memory) {}

void Callbacks::on_removed(std::uint32_t slot, OnRemoved then) {
  if (then)
    removals_[slot].swap(then);
  else
    removals_.extract(slot);  // taken out first, since its destructor may call back
}

void Callbacks::call_later(Npc npc, const Outcome& outcome, OnEnd then) {
  ended_.push_back({npc, outcome, std::move(then)});
}

void Callbacks::order_begins(std::uint32_t slot) {
  // An entry whose callbacks were called serves the next order.
  if (const OfOrder* told = orders_.find(slot); told != nullptr && (told->on_end || told->on_act))
    orders_.dismiss(slot);
}

void Callbacks::order_ends(std::uint32_t slot, const Outcome& outcome) {
  OfOrder* told = orders_.find(slot);
  if (told == nullptr) return;
  if (told->on_end)
    ended_.push_back({Npc(world_, npcs_.id(slot)), outcome, std::exchange(told->on_end, nullptr)});
  some_ended_ = true;
}

void Callbacks::target_moved(const Note& note) {
  if (orders_.find(note.who.slot) != nullptr)
    acts_.push_back({Npc(world_, note.who), Npc(world_, note.whom), note.event == Event::came_near});
}

void Callbacks::npc_removed(NpcId id) {
  orders_.dismiss(id.slot);
  if (auto removal = removals_.extract(id.slot))
    removed_.push_back({Npc(world_, id), std::move(removal.mapped())});
}

void Callbacks::call_acts() {
  std::swap(acts_, telling_acts_);
  for (const Act& act : telling_acts_) call(act);
  telling_acts_.clear();
}

void Callbacks::call(const Act& act) {
  if (!act.npc.alive()) return;
  const std::uint32_t slot = act.npc.id().slot, serial = npcs_.state(slot).serial;
  clock_.called_at = clock_.moment(npcs_[slot]);
  OfOrder* told = orders_.find(slot);
  if (told == nullptr || !told->on_act) return;
  // The callback may give another order, which would destroy it.
  auto on_act = std::exchange(told->on_act, nullptr);
  on_act(act.npc, act.whom, act.near);
  if (!act.npc.alive() || npcs_.state(slot).serial != serial) return;
  if (auto& now = orders_[slot].on_act; !now) now = std::move(on_act);
}

void Callbacks::call_ends() {
  std::swap(removed_, telling_removed_);
  clock_.called_at = clock_.tick_end;
  for (Removal& removal : telling_removed_) removal.then(removal.npc);
  telling_removed_.clear();
  std::swap(ended_, telling_ended_);
  for (Ended& ended : telling_ended_) {
    clock_.called_at = ended.npc.alive() ? clock_.moment(npcs_[ended.npc.id().slot]) : clock_.tick_end;
    ended.on_end(ended.npc, ended.outcome);
  }
  telling_ended_.clear();
}

void Callbacks::clean_up() {
  if (!std::exchange(some_ended_, false)) return;
  for (auto next = orders_.begin(); next != orders_.end();) {
    const std::uint32_t slot = (next++)->first;
    if (npcs_[slot].errand == nullptr) orders_.dismiss(slot);
  }
}

void Callbacks::destroy_dismissed() {
  orders_.destroy_dismissed();
  removals_.destroy_dismissed();
}

bool Callbacks::destroy_some() {
  if (orders_.empty() && removals_.empty() && !any_ends()) return false;
  if (!ended_.empty()) {
    const Ended last = std::move(ended_.back());
    ended_.pop_back();
  }
  if (!removed_.empty()) {
    const Removal last = std::move(removed_.back());
    removed_.pop_back();
  }
  removals_.dismiss_any();
  orders_.dismiss_any();
  destroy_dismissed();
  return true;
}

}  // namespace ambulon
