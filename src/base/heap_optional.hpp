#pragma once

#include <memory_resource>
#include <utility>

namespace ambulon {

/// An optional value that is allocated separately: an empty one is the size of a pointer. For members that
/// few of many objects have.
template <class Value>
class HeapOptional {
 public:
  HeapOptional() = default;
  ~HeapOptional() { reset(); }
  HeapOptional(HeapOptional&& other) noexcept : held_(std::exchange(other.held_, nullptr)) {}
  HeapOptional(const HeapOptional&) = delete;
  HeapOptional& operator=(const HeapOptional&) = delete;

  /// Constructs a value from `parts`, in memory of `memory`, after destroying the previous one. `memory` must
  /// outlive it.
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
