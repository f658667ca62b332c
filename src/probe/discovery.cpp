#include "probe/discovery.h"

#include "quantity/text.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <avahi-client/client.h>
#include <avahi-client/lookup.h>
#include <avahi-client/publish.h>
#include <avahi-common/alternative.h>
#include <avahi-common/error.h>
#include <avahi-common/malloc.h>
#include <avahi-common/thread-watch.h>
#include <condition_variable>
#include <mutex>

namespace metrodos::probe {
namespace {

constexpr std::size_t maxNameBytes = 63; // RFC 6763, 4.1.1
constexpr std::size_t maxFound = 256;

std::string cut(std::string_view name) {
    return quantity::cutTo(name, maxNameBytes);
}

// Avahi's own thread, stopped before what it works on is freed.
struct Poll {
    AvahiThreadedPoll* poll = avahi_threaded_poll_new();
    ~Poll() {
        if (poll == nullptr) return;
        avahi_threaded_poll_stop(poll);
        avahi_threaded_poll_free(poll);
    }
};

} // namespace

struct Announcement::Impl {
    std::string name;
    std::uint16_t port = 0;
    std::atomic<bool> made{false};
    AvahiEntryGroup* group = nullptr;
    AvahiClient* client = nullptr;
    Poll thread;

    ~Impl() {
        if (thread.poll == nullptr) return;
        avahi_threaded_poll_stop(thread.poll);
        if (client != nullptr) avahi_client_free(client); // and its group
    }

    void make(AvahiClient* with) {
        if (group == nullptr)
            group = avahi_entry_group_new(
                with,
                [](AvahiEntryGroup*, AvahiEntryGroupState state, void* self) {
                    auto& me = *static_cast<Impl*>(self);
                    me.made = state == AVAHI_ENTRY_GROUP_ESTABLISHED;
                    if (state == AVAHI_ENTRY_GROUP_COLLISION) me.rename();
                },
                this);
        if (group == nullptr) return;
        while (avahi_entry_group_is_empty(group) != 0) {
            const int done =
                avahi_entry_group_add_service(group, AVAHI_IF_UNSPEC, AVAHI_PROTO_UNSPEC, {}, name.c_str(),
                                              serviceType, nullptr, nullptr, port, nullptr);
            if (done == AVAHI_ERR_COLLISION) {
                another();
                continue;
            }
            if (done < 0) return;
            (void)avahi_entry_group_commit(group);
        }
    }
    void another() {
        char* next = avahi_alternative_service_name(name.c_str());
        name = cut(next);
        avahi_free(next);
    }
    void rename() {
        another();
        (void)avahi_entry_group_reset(group);
        make(avahi_entry_group_get_client(group));
    }
    void changed(AvahiClient* with, AvahiClientState state) {
        switch (state) {
        case AVAHI_CLIENT_S_RUNNING:
            make(with);
            break;
        case AVAHI_CLIENT_FAILURE: // the daemon has gone: wait for the next
            made = false;
            group = nullptr;
            if (client != nullptr) {
                avahi_client_free(client);
                connect();
            }
            break;
        default:
            made = false;
            if (group != nullptr) (void)avahi_entry_group_reset(group);
        }
    }
    void connect() {
        int error = 0;
        client = avahi_client_new(
            avahi_threaded_poll_get(thread.poll), AVAHI_CLIENT_NO_FAIL,
            [](AvahiClient* with, AvahiClientState state, void* self) {
                static_cast<Impl*>(self)->changed(with, state);
            },
            this, &error);
    }
};

Announcement::Announcement(const std::string& name, std::uint16_t port)
    : m_impl(std::make_unique<Impl>()) {
    m_impl->name = cut(name.empty() ? "endpoint" : name);
    m_impl->port = port;
    if (m_impl->thread.poll == nullptr) return;
    m_impl->connect();
    (void)avahi_threaded_poll_start(m_impl->thread.poll);
}

Announcement::~Announcement() = default;

bool Announcement::isMade() const {
    return m_impl->made;
}

FoundEndpoint foundEndpoint(std::string_view name, const std::string& host, std::uint16_t port) {
    return {quantity::oneLine(cut(name)), host + ":" + std::to_string(port),
            std::chrono::system_clock::now()};
}

namespace {

class Search {
  public:
    // False: there is no daemon.
    bool begin() {
        if (m_thread.poll == nullptr) return false;
        int error = 0;
        m_client = avahi_client_new(
            avahi_threaded_poll_get(m_thread.poll), {}, [](AvahiClient*, AvahiClientState, void*) {}, nullptr,
            &error);
        if (m_client == nullptr) return false;
        const AvahiServiceBrowser* browser = avahi_service_browser_new(
            m_client, AVAHI_IF_UNSPEC, AVAHI_PROTO_INET, serviceType, nullptr, {}, &Search::browsed, this);
        if (browser == nullptr) return false;
        return avahi_threaded_poll_start(m_thread.poll) == 0;
    }
    ~Search() {
        if (m_thread.poll != nullptr) avahi_threaded_poll_stop(m_thread.poll);
        if (m_client != nullptr) avahi_client_free(m_client); // and all that belongs to it
    }
    std::vector<FoundEndpoint> wait(std::chrono::milliseconds span, const std::stop_token& stop) {
        std::unique_lock lock(m_mutex);
        std::condition_variable_any never;
        (void)never.wait_for(lock, stop, span, [] { return false; });
        std::ranges::sort(m_found, {}, [](const FoundEndpoint& f) { return std::tie(f.name, f.address); });
        return m_found;
    }

  private:
    static void browsed(AvahiServiceBrowser*, AvahiIfIndex interface, AvahiProtocol protocol,
                        AvahiBrowserEvent event, const char* name, const char* type, const char* domain,
                        AvahiLookupResultFlags, void* self) {
        auto& me = *static_cast<Search*>(self);
        if (event == AVAHI_BROWSER_NEW)
            (void)avahi_service_resolver_new(me.m_client, interface, protocol, name, type, domain,
                                             AVAHI_PROTO_INET, {}, &Search::resolved, self);
    }
    static void resolved(AvahiServiceResolver* resolver, AvahiIfIndex, AvahiProtocol,
                         AvahiResolverEvent event, const char* name, const char*, const char*, const char*,
                         const AvahiAddress* address, std::uint16_t port, AvahiStringList*,
                         AvahiLookupResultFlags, void* self) {
        auto& me = *static_cast<Search*>(self);
        if (event == AVAHI_RESOLVER_FOUND && address != nullptr) {
            std::array<char, AVAHI_ADDRESS_STR_MAX> text{};
            avahi_address_snprint(text.data(), text.size(), address);
            me.add(foundEndpoint(name, text.data(), port));
        }
        avahi_service_resolver_free(resolver);
    }
    // A machine with several ports is found on each of them.
    void add(FoundEndpoint found) {
        const std::lock_guard lock(m_mutex);
        for (FoundEndpoint& known : m_found)
            if (known.name == found.name && known.address == found.address) {
                known.seen = found.seen;
                return;
            }
        if (m_found.size() < maxFound) m_found.push_back(std::move(found));
    }

    std::mutex m_mutex;
    std::vector<FoundEndpoint> m_found;
    AvahiClient* m_client = nullptr;
    Poll m_thread;
};

} // namespace

quantity::Result<std::vector<FoundEndpoint>> findEndpoints(std::chrono::milliseconds span,
                                                           const std::stop_token& stop) {
    Search search;
    if (!search.begin())
        return quantity::problem("this system has no service that finds machines by name", "",
                                 "type their addresses, or install and start avahi-daemon");
    return search.wait(span, stop);
}

} // namespace metrodos::probe
