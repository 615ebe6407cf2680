#include "ambulon/script/routine.hpp"

namespace ambulon {
namespace {

constexpr std::size_t header = alignof(std::max_align_t);  // in front of a frame: the memory it came from

}  // namespace

void* Routine::promise_type::allocate(std::size_t size, std::pmr::memory_resource* memory) {
  auto* place = static_cast<std::byte*>(detail::pooled(size + header, memory));
  new (place) std::pmr::memory_resource*(memory);
  return place + header;
}

void Routine::promise_type::operator delete(void* frame, std::size_t size) {
  std::byte* place = static_cast<std::byte*>(frame) - header;
  detail::unpooled(place, size + header, *reinterpret_cast<std::pmr::memory_resource**>(place));
}

bool Routine::over(double now) {
  promise_type& promise = handle_.promise();
  promise.now_ = now;
  if (handle_.done()) return true;
  if (promise.wait_ == nullptr) promise.since_ = now;
  if (promise.wait_ != nullptr && !promise.over_(promise.wait_, now)) return false;
  promise.wait_ = nullptr;
  promise.at_once_ = 0;
  handle_.resume();
  return handle_.done();
}

}  // namespace ambulon
