#include "probe/reception.h"

#include <algorithm>
#include <poll.h>

namespace metrodos::probe {

using Clock = std::chrono::steady_clock;

Reception::Place Reception::leave(Place stranger) {
    const auto count = m_perNetwork.find(stranger->network);
    if (--count->second == 0) m_perNetwork.erase(count);
    return m_strangers.erase(stranger);
}

void Reception::dropOldestOf(const std::string& network) {
    const auto isOfIt = [&](const Stranger& s) { return s.network == network; };
    // Whose first message named a key, and was not refused, has shown by its binder that he has it (RFC 8446,
    // 4.2.11.2), or that he has seen somebody who has: he goes last.
    auto oldest = std::find_if(m_strangers.begin(), m_strangers.end(),
                               [&](const Stranger& s) { return isOfIt(s) && s.handshake.named().empty(); });
    if (oldest == m_strangers.end()) oldest = std::find_if(m_strangers.begin(), m_strangers.end(), isOfIt);
    leave(oldest);
}

void Reception::makeRoom(const std::string& network) {
    const auto own = m_perNetwork.find(network);
    if (own != m_perNetwork.end() && own->second >= m_limits.strangersOfOne) return dropOldestOf(network);
    if (m_strangers.size() < m_limits.strangers) return;
    const auto fullest =
        std::ranges::max_element(m_perNetwork, {}, [](const auto& one) { return one.second; });
    dropOldestOf(std::string(fullest->first)); // a copy: the entry may go with him
}

void Reception::admit(Fd socket) {
    const std::string network = peerAddress(socket.get()).network();
    auto handshake = m_tls.begin(std::move(socket));
    if (!handshake) return; // no memory for it
    makeRoom(network);
    m_strangers.push_back({std::move(*handshake), network, Clock::now() + m_limits.time});
    ++m_perNetwork[network];
}

Reception::Outcome Reception::wait(int listener, std::chrono::milliseconds limit) {
    std::vector<pollfd> items{{listener, POLLIN, 0}};
    for (const Stranger& s : m_strangers)
        items.push_back({s.handshake.socket(),
                         static_cast<short>(s.wants == Handshake::Wants::toWrite ? POLLOUT : POLLIN), 0});
    ::poll(items.data(), items.size(), static_cast<int>(limit.count()));
    Outcome out;
    out.isKnocking = items.front().revents != 0;
    auto item = items.begin() + 1;
    const auto now = Clock::now();
    for (auto it = m_strangers.begin(); it != m_strangers.end(); ++item) {
        bool isDone = now > it->until;
        if (item->revents != 0) {
            const auto wants = it->handshake.step();
            if (!wants) {
                out.refused.push_back(it->handshake.named());
                isDone = true;
            } else if (*wants == Handshake::Wants::nothing) {
                out.known.push_back(it->handshake.finish());
                isDone = true;
            } else {
                it->wants = *wants;
            }
        }
        if (!isDone) {
            ++it;
            continue;
        }
        it = leave(it);
    }
    return out;
}

} // namespace metrodos::probe
