#include "probe/run_stamp.h"

#include "probe/message.h"

#include <algorithm>
#include <array>
#include <openssl/rand.h>

namespace metrodos::probe {

std::string newRunId() {
    std::array<unsigned char, 8> bytes{};
    RAND_bytes(bytes.data(), static_cast<int>(bytes.size()));
    Token padded{};
    std::copy(bytes.begin(), bytes.end(), padded.begin());
    return "run-" + toHex(padded).substr(0, 2 * bytes.size());
}

} // namespace metrodos::probe
