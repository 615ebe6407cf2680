#pragma once

#include <cstdint>
#include <map>
#include <memory_resource>
#include <utility>

namespace ambulon {

/// Rarely used state of NPCs, by slot.
template <class Value>
using BySlot = std::pmr::map<std::uint32_t, Value>;

/// Returns the value of a slot that has one.
template <class Value>
Value& value_of(BySlot<Value>& all, std::uint32_t slot) {
  return all.find(slot)->second;
}
template <class Value>
const Value& value_of(const BySlot<Value>& all, std::uint32_t slot) {
  return all.find(slot)->second;
}

/// Values by slot that hold closures of the game. A closure may be running, and may call the world as it is
/// destroyed. So a value that is dismissed is set aside, and destroyed when no user code runs.
template <class Value>
class Closures {
 public:
  explicit Closures(std::pmr::memory_resource* memory) : values_(memory), dismissed_(memory) {}

  /// Returns the value of a slot; null if there is none.
  Value* find(std::uint32_t slot) {
    const auto value = values_.find(slot);
    return value != values_.end() ? &value->second : nullptr;
  }
  Value& operator[](std::uint32_t slot) { return values_[slot]; }
  Value& add(std::uint32_t slot, Value value) {
    return values_.emplace(slot, std::move(value)).first->second;
  }
  bool empty() const { return values_.empty(); }
  auto begin() { return values_.begin(); }
  auto end() { return values_.end(); }

  /// Takes out the value of a slot, if any, as a node, which destroys it.
  auto extract(std::uint32_t slot) { return values_.extract(slot); }
  /// Sets the value of a slot, if any, aside.
  void dismiss(std::uint32_t slot) {
    if (auto node = values_.extract(slot)) dismissed_.insert(std::move(node));
  }
  /// Sets one value aside, if there is any.
  void dismiss_any() {
    if (!values_.empty()) dismiss(values_.begin()->first);
  }
  /// Destroys what was dismissed. What the destructors dismiss is destroyed the next time, so that two of
  /// them cannot go on for ever.
  void destroy_dismissed() {
    for (std::size_t count = dismissed_.size(); count > 0; --count) {
      const auto node = dismissed_.extract(dismissed_.begin());
    }
  }

 private:
  BySlot<Value> values_;
  std::pmr::multimap<std::uint32_t, Value> dismissed_;
};

}  // namespace ambulon
