// What servers and the network say: pages of adapters, redirections, heads of requests, names of DNS-SD,
// texts of codes, frames of neighbours. The first byte chooses.
#include "probe/adapter_status.h"
#include "probe/discovery.h"
#include "probe/http_connection.h"
#include "probe/invitation.h"
#include "probe/lldp.h"
#include "probe/web_client.h"
#include "quantity/text.h"

#include <cstdlib>
#include <sys/socket.h>

using namespace metrodos;
using namespace metrodos::probe;

namespace {

void mustBeOneLine(const std::string& text) {
    if (quantity::oneLine(text) != text) std::abort();
}

// A client that says all this and goes.
void serve(std::string_view said) {
    int pair[2];
    if (::socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, pair) != 0) return;
    const std::atomic<bool> stop{false};
    HttpConnection connection(Fd(pair[0]), stop);
    {
        const Fd client(pair[1]);
        (void)::send(client.get(), said.data(), std::min<std::size_t>(said.size(), 60'000), MSG_NOSIGNAL);
    }
    constexpr int most = 20;
    for (int i = 0; i < most; ++i) {
        const auto request = connection.read();
        if (!request) return;
        if (request->length > maxBodyBytes) std::abort();
        if (!connection.skipBody()) return;
    }
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
    if (size == 0) return 0;
    const std::string_view text(reinterpret_cast<const char*>(data) + 1, size - 1);
    if (data[0] == 'L') {
        if (const auto heard = parseLldp({data + 1, size - 1}))
            for (const std::string* said : {&heard->system, &heard->port, &heard->description})
                mustBeOneLine(*said);
        return 0;
    }
    switch (data[0] % 5) {
    case 0:
        if (const auto status = adapterStatusIn(text)) {
            mustBeOneLine(status->name);
            for (const auto& peer : status->peers)
                mustBeOneLine(peer.name);
        }
        break;
    case 1:
        if (const auto next = sentOnTo({"https://127.0.0.1", "/"}, std::string(text)))
            if (!next->server.starts_with("https://")) std::abort();
        (void)webPlace(std::string(text));
        break;
    case 2:
        serve(text);
        break;
    case 3: {
        const auto found = foundEndpoint(text, "127.0.0.1", 1);
        mustBeOneLine(found.name);
        break;
    }
    default:
        if (const auto read = Invitation::parse(text))
            if (!(Invitation::parse(read->text()) == read)) std::abort();
    }
    return 0;
}
