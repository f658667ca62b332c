// The connections of a guest's run: streams that carry bytes, and the small requests whose delay is taken.
// Each function serves one request on the thread of its connection. Internal to the layer.
#pragma once

#include "probe/guest_run.h"
#include "probe/http_connection.h"

namespace metrodos::probe {

/// Carries one stream of the run until it is over. `small`: for a browser that cannot read while it loads, a
/// finite piece. False: the connection is at its end.
bool carryStream(HttpConnection& connection, GuestRun& run, bool small,
                 const std::vector<std::string>& fields, const std::atomic<bool>& stop);

/// The delay of small requests, by this side's clock: from an answer to the next request, the browser's turn
/// included. For all runs of the group, since they share the way. False: the connection is at its end.
bool answerPings(HttpConnection& connection, const std::string& target,
                 const std::vector<std::shared_ptr<GuestRun>>& group, const std::vector<std::string>& fields);

} // namespace metrodos::probe
