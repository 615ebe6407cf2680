#pragma once

#include <memory>
#include <mutex>
#include <vector>

namespace ambulon {

/// An object pool: each object is lent to one borrower at a time and reused after it. Thread-safe.
template <class Thing>
class Pool {
 public:
  /// Returns its object to the pool at the end of its scope. The pool must outlive it.
  class Loan {
   public:
    Loan(Pool& pool, std::unique_ptr<Thing> thing) : pool_(pool), thing_(std::move(thing)) {}
    ~Loan() {
      const std::scoped_lock lock(pool_.mutex_);
      pool_.idle_.push_back(std::move(thing_));
    }
    Loan(const Loan&) = delete;
    Loan& operator=(const Loan&) = delete;
    Thing& operator*() const { return *thing_; }

   private:
    Pool& pool_;
    std::unique_ptr<Thing> thing_;
  };

  /// Lends an idle object, or a new one constructed from `parts`.
  template <class... Parts>
  Loan borrow(Parts&&... parts) {
    {
      const std::scoped_lock lock(mutex_);
      if (!idle_.empty()) {
        std::unique_ptr<Thing> thing = std::move(idle_.back());
        idle_.pop_back();
        return Loan(*this, std::move(thing));
      }
      idle_.reserve(++made_);  // so that returning it does not allocate
    }
    return Loan(*this, std::make_unique<Thing>(std::forward<Parts>(parts)...));
  }

 private:
  std::mutex mutex_;
  std::vector<std::unique_ptr<Thing>> idle_;
  std::size_t made_ = 0;
};

}  // namespace ambulon
