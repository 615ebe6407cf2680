#pragma once

#include <coroutine>
#include <exception>
#include <memory>

#include "ambulon/base/public.hpp"
#include "ambulon/script/wait.hpp"

// Without optimisation g++ warns that the frame's operator new, which takes the coroutine's parameters, does
// not match its operator delete. The warning appears at the coroutine, so it cannot be silenced for this
// header alone.
#if defined(__GNUC__) && !defined(__clang__)
#pragma GCC diagnostic ignored "-Wmismatched-new-delete"
#endif

namespace AMBULON_PUBLIC ambulon {

/// A coroutine that scripts one NPC: it gives an order, waits for its outcome, and gives the next.
///
///   Routine lamplighter(Npc me, std::vector<vec3> lamps) {
///     for (;;)
///       for (vec3 lamp : lamps)
///         if (co_await me.go_to(lamp)) co_await me.pause(2.f);
///   }
///   start(npc, lamplighter, lamps);
///
/// `co_await` takes an order, a condition, `seconds`, `any_of`, `all_of`, `within`, `until` or another
/// routine. Destroying a routine cancels the order it waits for. Its memory comes from the world of the Npc
/// among its parameters. An exception that leaves a routine ends the program.
///
/// g++ 12 compiles a coroutine wrongly that has no local variable and awaits in the condition of an
/// `if`, `while` or `switch`: its parameters are read where they no longer are. Keep the outcome, as in
/// `if (const auto caught = co_await me.chase(thief))`, or await before the condition.
class [[nodiscard]] Routine {
 public:
  class promise_type;
  using Handle = std::coroutine_handle<promise_type>;

  explicit Routine(Handle handle) : handle_(handle) {}
  Routine(Routine&& other) noexcept : handle_(std::exchange(other.handle_, nullptr)) {}
  Routine& operator=(Routine&&) = delete;
  ~Routine() {
    if (handle_) handle_.destroy();
  }

  /// Resumes it, and returns true if it has ended. With `result` this makes a routine a `Wait`, too.
  bool over(double now);
  Outcome result() const { return {}; }

 private:
  Handle handle_;
};

class Routine::promise_type {
 public:
  Routine get_return_object() { return Routine(Handle::from_promise(*this)); }
  std::suspend_always initial_suspend() noexcept { return {}; }
  std::suspend_always final_suspend() noexcept { return {}; }
  void return_void() {}
  [[noreturn]] void unhandled_exception() { std::terminate(); }

  template <class W>
  class Awaiter {
   public:
    Awaiter(promise_type& promise, W&& wait) : promise_(promise), wait_(std::move(wait)) {}
    /// At most `max_at_once` waits in a row may end as they begin; the next one waits for the next tick.
    /// Otherwise a loop around an order to an NPC that is gone would never end.
    bool await_ready() {
      over_ = wait_.over(promise_.since_);
      if constexpr (ends_within_tick) over_ = over_ || wait_.over(promise_.now_);
      return over_ && ++promise_.at_once_ <= max_at_once;
    }
    void await_suspend(Handle) {
      promise_.wait_ = this;
      promise_.over_ = [](void* awaiter, double now) { return static_cast<Awaiter*>(awaiter)->over(now); };
    }
    auto await_resume() {
      promise_.since_ = promise_.now_;
      if constexpr (ends_within_tick)
        if (wait_.ended() < promise_.now_) promise_.since_ = wait_.ended();
      return wait_.result();
    }

   private:
    static constexpr bool ends_within_tick = requires(W wait) { wait.ended(); };
    bool over(double now) { return over_ || (over_ = wait_.over(now)); }

    promise_type& promise_;
    W wait_;
    bool over_ = false;  // it is not asked again then
  };

  template <class T>
  auto await_transform(T&& awaited) {
    static_assert(
        requires { as_wait(std::forward<T>(awaited)); },
        "co_await in a Routine takes an order, a condition, seconds, any_of, all_of, within, until, "
        "borrow or another routine by value");
    return Awaiter<detail::WaitFrom<T>>(*this, as_wait(std::forward<T>(awaited)));
  }

  // The frame comes from the memory of the world of the first Npc among the parameters; a lambda's
  // first parameter is its closure.
  template <class... Args>
  static void* operator new(std::size_t size, Npc me, const Args&...) {
    return allocate(size, me.world() != nullptr ? me.world()->memory() : std::pmr::get_default_resource());
  }
  template <class Closure, class... Args>
    requires(!std::same_as<Closure, Npc>)
  static void* operator new(std::size_t size, const Closure&, Npc me, const Args&...) {
    return operator new(size, me);
  }
  static void* operator new(std::size_t size) { return allocate(size, std::pmr::get_default_resource()); }
  static void operator delete(void* frame, std::size_t size);

 private:
  friend class Routine;
  static void* allocate(std::size_t size, std::pmr::memory_resource* memory);
  static constexpr int max_at_once = 64;

  double now_ = 0;        // seconds since the world began
  double since_ = 0;      // when the last wait ended, at most `now_`
  int at_once_ = 0;       // waits that ended as they began, since it was resumed
  void* wait_ = nullptr;  // the awaiter in its own frame
  bool (*over_)(void* awaiter, double now) = nullptr;
};

/// Starts `script(npc, args...)`, which returns a `Routine`, as the script of the NPC. The callable and its
/// captures live as long as the routine.
template <class Callable, class... Args>
  requires std::same_as<std::invoke_result_t<Callable&, Npc, Args...>, Routine>
void start(Npc npc, Callable script, Args&&... args) {
  class Running final : public Script {
   public:
    Running(Npc npc, Callable&& script, Args&&... args)
        : world_(npc.world()),
          script_(std::move(script)),
          routine_(script_(npc, std::forward<Args>(args)...)) {}
    bool proceed() override { return routine_.over(world_->time()); }

   private:
    World* world_;
    Callable script_;
    Routine routine_;  // after what it refers to, so that it is destroyed first
  };
  if (npc.alive()) npc.direct(std::make_unique<Running>(npc, std::move(script), std::forward<Args>(args)...));
}

}  // namespace ambulon
