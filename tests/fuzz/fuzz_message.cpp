// A message from a peer that has the key, or pretends to.
#include "benchmark/run_json.h"
#include "probe/channel.h"
#include "probe/message.h"

#include <string_view>

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    const auto message = metrodos::probe::parseMessage({reinterpret_cast<const char*>(data), size});
    if (!message) return 0;
    (void)metrodos::probe::readTask(*message);
    (void)metrodos::probe::readTarget(*message);
    (void)metrodos::probe::readProblem(*message);
    (void)metrodos::benchmark::sampleFromJson(*message);
    (void)metrodos::benchmark::runFromJson(*message);
    return 0;
}
