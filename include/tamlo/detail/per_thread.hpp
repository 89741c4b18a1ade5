// SPDX-License-Identifier: Apache-2.0
#pragma once

#include <pthread.h>

#include <memory>
#include <new>

namespace tamlo::detail {

/// A T for each thread, made when the thread first asks and destroyed when it ends: thread_local,
/// also where compilers for Windows free the memory of such objects before they destroy them. For
/// static objects alone: its key is kept until the program ends.
template <class T>
class PerThread {
 public:
  PerThread() {
    if (pthread_key_create(&key_, [](void* own) { delete static_cast<T*>(own); }) != 0)
      throw std::bad_alloc();
  }
  PerThread(const PerThread&) = delete;
  PerThread& operator=(const PerThread&) = delete;

  T& own() const {
    if (void* const there = pthread_getspecific(key_)) return *static_cast<T*>(there);
    auto made = std::make_unique<T>();
    if (pthread_setspecific(key_, made.get()) != 0) throw std::bad_alloc();
    return *made.release();
  }

 private:
  pthread_key_t key_{};
};

}  // namespace tamlo::detail
