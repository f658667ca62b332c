// What a run asks of its sockets before they are connected.
#pragma once

#include "benchmark/run.h"
#include "probe/socket.h"

namespace metrodos::probe {

/// Congestion control, buffers, largest segment, code point and pace of one stream (the order's rate shared
/// among its streams). A Problem names the option that this machine refuses. `fd` is not connected yet.
[[nodiscard]] quantity::Result<void> setOptions(int fd, const benchmark::RunConfig& config);

/// Binds to a local address, or to the interface of that name; nothing for an empty text.
[[nodiscard]] quantity::Result<void> bindTo(int fd, const std::string& addressOrInterface);

} // namespace metrodos::probe
