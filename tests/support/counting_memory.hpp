#pragma once

#include <memory_resource>

namespace ambulon {

/// Counts the bytes that are allocated at present.
class CountingMemory final : public std::pmr::memory_resource {
 public:
  std::size_t bytes = 0;

 private:
  void* do_allocate(std::size_t size, std::size_t align) override {
    bytes += size;
    return std::pmr::new_delete_resource()->allocate(size, align);
  }
  void do_deallocate(void* place, std::size_t size, std::size_t align) override {
    bytes -= size;
    std::pmr::new_delete_resource()->deallocate(place, size, align);
  }
  bool do_is_equal(const memory_resource& other) const noexcept override { return this == &other; }
};

}  // namespace ambulon
