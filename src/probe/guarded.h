// The outermost function of a thread: what goes wrong in it ends its work, never the program.
#pragma once

#include <exception>
#include <spdlog/spdlog.h>
#include <string>
#include <utility>

namespace metrodos::probe {

/// `work`, to be run in a thread of its own. An exception that leaves it (no memory, no thread) is logged,
/// and `failed` is told of it.
template <typename Work, typename Failed>
[[nodiscard]] auto guarded(Work work, Failed failed) {
    return [work = std::move(work), failed = std::move(failed)](auto&&... arguments) mutable {
        try {
            work(std::forward<decltype(arguments)>(arguments)...);
        } catch (const std::exception& problem) {
            spdlog::warn("a thread has ended: {}", problem.what());
            failed(std::string(problem.what()));
        }
    };
}
template <typename Work>
[[nodiscard]] auto guarded(Work work) {
    return guarded(std::move(work), [](const std::string&) {});
}

} // namespace metrodos::probe
