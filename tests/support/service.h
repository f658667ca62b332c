// What tests ask of the service test.
#pragma once

#include "probe/service_test.h"

namespace metrodos::testing {

inline probe::ServiceTestConfig serviceTest(const std::string& url, bool down, double seconds = 1,
                                            int streams = 4) {
    probe::ServiceTestConfig out{url, down, {}};
    out.run.direction = down ? benchmark::Direction::forward : benchmark::Direction::backward;
    out.run.streams = streams;
    out.run.seconds = seconds;
    return out;
}

} // namespace metrodos::testing
