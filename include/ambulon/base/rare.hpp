#pragma once

#include <memory_resource>
#include <utility>

namespace ambulon {

/// A value that few of many hold at a time: it takes up memory only where there is one.
template <class Value>
class Rare {
 public:
  Rare() = default;
  ~Rare() { reset(); }
  Rare(const Rare&) = delete;
  Rare& operator=(const Rare&) = delete;

  /// Makes one in `memory`, in the place of the one there was.
  template <class... Parts>
  Value& make(std::pmr::memory_resource* memory, Parts&&... parts) {
    reset();
    std::pmr::polymorphic_allocator<Held> in(memory);
    held_ = in.template new_object<Held>(memory, Value{std::forward<Parts>(parts)...});
    return held_->value;
  }
  void reset() {
    if (held_ == nullptr) return;
    std::pmr::polymorphic_allocator<Held> in(held_->memory);
    in.delete_object(std::exchange(held_, nullptr));
  }

  explicit operator bool() const { return held_ != nullptr; }
  Value& operator*() { return held_->value; }
  const Value& operator*() const { return held_->value; }
  Value* operator->() { return &held_->value; }
  const Value* operator->() const { return &held_->value; }

 private:
  struct Held {
    Held(std::pmr::memory_resource* where, Value&& what) : memory(where), value(std::move(what)) {}
    std::pmr::memory_resource* memory;
    Value value;
  };
  Held* held_ = nullptr;
};

}  // namespace ambulon
