// Finding machines by name and being found, with the library of the system's daemon replaced: it says what a
// network says (RFC 6763), also what no daemon here could be brought to say.
#include "probe/discovery.h"

#include <QElapsedTimer>
#include <QTest>
#include <avahi-client/client.h>
#include <avahi-client/lookup.h>
#include <avahi-client/publish.h>
#include <avahi-common/error.h>
#include <avahi-common/thread-watch.h>
#include <cstring>
#include <functional>
#include <set>

using namespace metrodos::probe;
using std::chrono::milliseconds;

namespace {

struct Service {
    std::string name = {};
    const char* address; // nullptr: it is not resolved
    std::uint16_t port;
};

// What is there, what fails, and what was asked of it.
struct Daemon {
    std::string fails; // the call that does
    std::vector<Service> services;
    std::set<std::string> taken; // names
    int refuses = 0;             // the error of a service that is added
    std::size_t resolved = 0;
    std::vector<std::string> published;
    std::set<const void*> open;
    AvahiClient* client = nullptr;
    AvahiEntryGroup* group = nullptr;
    std::function<void()> browse;
};
Daemon network;

template <typename T, typename... Is>
T* made(const char* call, Is... is) {
    if (network.fails == call) return nullptr;
    auto* out = new T{is...};
    network.open.insert(out);
    return out;
}
template <typename T>
void freed(T* one) {
    if (network.open.erase(one) != 1) qFatal("freed twice, or never made");
    delete one;
}

} // namespace

struct AvahiThreadedPoll {
    bool runs = false;
};
struct AvahiClient {
    AvahiClientCallback callback;
    void* self;
};
struct AvahiEntryGroup {
    AvahiClient* client;
    AvahiEntryGroupCallback callback;
    void* self;
    std::string name = {};
};
struct AvahiServiceBrowser {};
struct AvahiServiceResolver {};

extern "C" {
AvahiThreadedPoll* avahi_threaded_poll_new() {
    return made<AvahiThreadedPoll>("poll");
}
const AvahiPoll* avahi_threaded_poll_get(AvahiThreadedPoll*) {
    return nullptr;
}
int avahi_threaded_poll_start(AvahiThreadedPoll* p) {
    p->runs = true;
    if (network.browse) network.browse();
    return network.fails == "start" ? -1 : 0;
}
int avahi_threaded_poll_stop(AvahiThreadedPoll* p) {
    p->runs = false;
    return 0;
}
void avahi_threaded_poll_free(AvahiThreadedPoll* p) {
    if (p->runs) qFatal("freed while it runs");
    freed(p);
}
AvahiClient* avahi_client_new(const AvahiPoll*, AvahiClientFlags, AvahiClientCallback callback, void* self,
                              int*) {
    network.client = made<AvahiClient>("client", callback, self);
    if (network.client != nullptr) callback(network.client, AVAHI_CLIENT_S_RUNNING, self);
    return network.client;
}
void avahi_client_free(AvahiClient* c) {
    if (network.group != nullptr) freed(std::exchange(network.group, nullptr)); // with all that belongs to it
    freed(c);
}
AvahiEntryGroup* avahi_entry_group_new(AvahiClient* c, AvahiEntryGroupCallback callback, void* self) {
    return network.group = made<AvahiEntryGroup>("group", c, callback, self);
}
AvahiClient* avahi_entry_group_get_client(AvahiEntryGroup* g) {
    return g->client;
}
int avahi_entry_group_is_empty(AvahiEntryGroup* g) {
    return g->name.empty() ? 1 : 0;
}
int avahi_entry_group_reset(AvahiEntryGroup* g) {
    g->name.clear();
    return 0;
}
int avahi_entry_group_add_service(AvahiEntryGroup* g, AvahiIfIndex, AvahiProtocol, AvahiPublishFlags,
                                  const char* name, const char* type, const char*, const char*,
                                  std::uint16_t port, ...) {
    if (network.taken.contains(name)) return AVAHI_ERR_COLLISION;
    if (network.refuses != 0) return network.refuses;
    g->name = std::string(name) + " " + type + " " + std::to_string(port);
    return 0;
}
int avahi_entry_group_commit(AvahiEntryGroup* g) {
    network.published.push_back(g->name);
    return 0;
}
AvahiServiceBrowser* avahi_service_browser_new(AvahiClient*, AvahiIfIndex, AvahiProtocol, const char*,
                                               const char*, AvahiLookupFlags,
                                               AvahiServiceBrowserCallback callback, void* self) {
    static AvahiServiceBrowser browser;
    network.browse = [=] {
        const auto say = [&](AvahiBrowserEvent event, const char* name) {
            callback(&browser, 2, AVAHI_PROTO_INET, event, name, serviceType, "local", {}, self);
        };
        for (const Service& s : network.services)
            say(AVAHI_BROWSER_NEW, s.name.c_str());
        say(AVAHI_BROWSER_REMOVE, "Removed");
    };
    return network.fails == "browser" ? nullptr : &browser;
}
AvahiServiceResolver* avahi_service_resolver_new(AvahiClient*, AvahiIfIndex, AvahiProtocol, const char* name,
                                                 const char*, const char*, AvahiProtocol, AvahiLookupFlags,
                                                 AvahiServiceResolverCallback callback, void* self) {
    auto* resolver = made<AvahiServiceResolver>("resolver");
    const Service& s = network.services.at(network.resolved++);
    if (s.name != name) qFatal("asked for another");
    AvahiAddress address{AVAHI_PROTO_INET, {}};
    if (s.address != nullptr) avahi_address_parse(s.address, AVAHI_PROTO_INET, &address);
    callback(resolver, 2, AVAHI_PROTO_INET, s.port == 1 ? AVAHI_RESOLVER_FAILURE : AVAHI_RESOLVER_FOUND, name,
             "", "", "", s.address == nullptr ? nullptr : &address, s.port, nullptr, {}, self);
    return resolver;
}
int avahi_service_resolver_free(AvahiServiceResolver* r) {
    freed(r);
    return 0;
}
}

class TestDiscovery : public QObject {
    Q_OBJECT

  private slots:
    void init() { network = {}; }
    void cleanup() { QVERIFY(network.open.empty()); }

    void withoutADaemonASentenceSaysWhatToDo() {
        for (const char* call : {"poll", "client", "browser", "start"}) {
            network = {};
            network.fails = call;
            const auto found = findEndpoints(milliseconds(1), {});
            QVERIFY2(!found && found.error().advice.starts_with("type their addresses"), call);
            QVERIFY(network.open.empty());
        }
        for (const char* call : {"poll", "client", "group"}) {
            network = {};
            network.fails = call;
            QVERIFY(!Announcement("Loft", 7).isMade());
        }
    }
    void whatIsThereIsFoundInOrder() {
        network.services = {{"Loft", "192.0.2.9", 7},       {"Attic", "192.0.2.8", 7},
                            {"Loft", "192.0.2.7", 7},       {"Loft", "192.0.2.9", 7},
                            {"Broken", "192.0.2.6", 1},     {"Nowhere", nullptr, 7},
                            {"Loft\x1b[2J", "192.0.2.9", 8}};
        QElapsedTimer timer;
        timer.start();
        const auto found = findEndpoints(milliseconds(80), {});
        QVERIFY(found && timer.elapsed() >= 80);
        std::string all;
        for (const FoundEndpoint& f : *found)
            all += f.name + " " + f.address + "; ";
        QCOMPARE(all,
                 std::string("Attic 192.0.2.8:7; Loft 192.0.2.7:7; Loft 192.0.2.9:7; Loft[2J 192.0.2.9:8; "));
    }
    void hundredsAreBounded() {
        for (std::size_t i = 0; i < 300; ++i)
            network.services.push_back({"n" + std::to_string(i), "192.0.2.1", 7});
        std::stop_source stop;
        stop.request_stop();
        QElapsedTimer timer;
        timer.start();
        const auto found = findEndpoints(std::chrono::seconds(20), stop.get_token());
        QVERIFY(found && timer.elapsed() < 5000); // stopped at once
        QCOMPARE(found->size(), std::size_t(256));
    }
    void anAnnouncementTakesAFreeName() {
        network.taken = {"Loft", "Loft #2"};
        Announcement one("Loft", 7);
        QCOMPARE(network.published, std::vector<std::string>{"Loft #3 _metrodos._tcp 7"});
        QVERIFY(!one.isMade()); // not before the network has been asked
        const auto say = [](AvahiEntryGroupState state) {
            network.group->callback(network.group, state, network.group->self);
        };
        say(AVAHI_ENTRY_GROUP_ESTABLISHED);
        QVERIFY(one.isMade());
        // Somebody else has it after all.
        say(AVAHI_ENTRY_GROUP_COLLISION);
        QVERIFY(!one.isMade());
        QCOMPARE(network.published.back(), std::string("Loft #4 _metrodos._tcp 7"));
        say(AVAHI_ENTRY_GROUP_ESTABLISHED);
        // The daemon registers its own names anew: so does this.
        const auto client = [](AvahiClientState state) {
            network.client->callback(network.client, state, network.client->self);
        };
        client(AVAHI_CLIENT_S_REGISTERING);
        QVERIFY(!one.isMade() && network.group->name.empty());
        client(AVAHI_CLIENT_S_RUNNING);
        QCOMPARE(network.published.size(), std::size_t(3));
        client(AVAHI_CLIENT_S_RUNNING); // nothing new
        QCOMPARE(network.published.size(), std::size_t(3));
        say(AVAHI_ENTRY_GROUP_ESTABLISHED);
        // It goes, and another comes.
        client(AVAHI_CLIENT_FAILURE);
        QVERIFY(!one.isMade());
        QCOMPARE(network.published.size(), std::size_t(4));
    }
    void whatIsRefusedIsNotMade() {
        network.refuses = AVAHI_ERR_INVALID_SERVICE_NAME;
        QVERIFY(!Announcement("Loft", 7).isMade());
        QVERIFY(network.published.empty());
    }
    void aNameIsCutBetweenLetters() {
        const Announcement one(QString(62, 'x').append(QChar(0xe4)).toStdString(), 7);
        QCOMPARE(network.published.at(0).substr(0, 63), QString(62, 'x').append(' ').toStdString());
    }
};

QTEST_GUILESS_MAIN(TestDiscovery)
#include "test_discovery.moc"
