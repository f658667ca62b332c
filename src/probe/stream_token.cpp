#include "probe/stream_token.h"

#include <algorithm>
#include <openssl/evp.h>
#include <openssl/hmac.h>

namespace metrodos::probe {

Token streamToken(const Token& secret, StreamKind kind, unsigned index) {
    const std::array<unsigned char, 2> input{static_cast<unsigned char>(kind),
                                             static_cast<unsigned char>(index)};
    static_assert(benchmark::maxStreams <= 256, "an index is one byte");
    std::array<unsigned char, EVP_MAX_MD_SIZE> digest{};
    unsigned length = 0;
    HMAC(EVP_sha256(), secret.data(), static_cast<int>(secret.size()), input.data(), input.size(),
         digest.data(), &length);
    Token out{};
    std::copy_n(digest.begin(), out.size(), out.begin());
    return out;
}

} // namespace metrodos::probe
