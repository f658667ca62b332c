// What a run over such a house gives, and what the machines at its ends see of it.
#include "independent/world.h"

#include <algorithm>
#include <cmath>

namespace independent {
namespace {

using namespace metrodos::house;
using metrodos::benchmark::Arrangement;
using metrodos::benchmark::Percentiles;
using metrodos::benchmark::Run;
using metrodos::benchmark::Sample;
using metrodos::quantity::BitRate;

constexpr double segment = 1448; // bytes
constexpr double seconds = 10;

double between(Random& random, double low, double high) {
    return std::uniform_real_distribution<double>(low, high)(random);
}
double about(Random& random, double low, double high) {
    return std::exp(between(random, std::log(low), std::log(high)));
}
double normal(Random& random) {
    return std::normal_distribution<double>(0, 1)(random);
}

bool altered(const Arrangement& how, const Id& element, AlterationKind kind) {
    return std::any_of(how.altered.begin(), how.altered.end(),
                       [&](const auto& a) { return a.element == element && a.kind == kind; });
}

} // namespace

double World::roundTrip(const Arrangement& how) const {
    const std::vector<bool> in = passed(route, how.setup, how.bypassed);
    double sum = 120e-6; // both machines
    for (std::size_t i = 0; i < route.size(); ++i)
        if (in[i]) sum += parts[i].delay;
    return sum;
}

std::vector<World::Held> World::bounds(bool forward, int streams, const Arrangement& how,
                                       bool datagrams) const {
    std::vector<Held> out;
    const std::vector<bool> in = passed(route, how.setup, how.bypassed);
    const RouteShape shape = shapeOf(route);
    double lost = 0;
    std::size_t loser = 0;
    double mostLost = 0;
    for (std::size_t i = 0; i < route.size(); ++i) {
        if (!in[i]) continue;
        // What goes with a machine that changed its place is passed the other way.
        const std::size_t way = forward != (how.swapped && shape.isAtEnd(i)) ? 0 : 1;
        const Part& part = parts[i];
        const bool clean = (part.cleanMoved && altered(how, route[i].id, AlterationKind::other_outlet)) ||
                           (part.cleanOff && altered(how, route[i].id, AlterationKind::appliances_off));
        out.push_back({clean ? part.clean[way] : part.ceiling[way], Held::network, i});
        lost += part.loss[way];
        if (part.loss[way] > mostLost) {
            mostLost = part.loss[way];
            loser = i;
        }
    }
    if (hiddenRate > 0 && how.setup == Setup::place && in[hiddenAt])
        out.push_back({hiddenRate, Held::hidden, hiddenAt});
    // The machine that sends is at the end `from` forward, unless they changed places.
    const std::size_t sender = forward != how.swapped ? 0 : 1;
    const auto hostAt = [&](std::size_t end) { return end == 0 ? std::size_t{0} : route.size() - 1; };
    if (in[hostAt(sender)]) out.push_back({machines[sender].sends, Held::sender, hostAt(sender)});
    if (in[hostAt(1 - sender)])
        out.push_back({machines[1 - sender].receives, Held::receiver, hostAt(1 - sender)});
    if (datagrams) return out;
    const double rtt = roundTrip(how);
    // Little's law: no more than a window a round trip.
    if (in[hostAt(1 - sender)])
        out.push_back({streams * machines[1 - sender].window * 8 / rtt, Held::window, hostAt(1 - sender)});
    // Mathis, Semke, Mahdavi and Ott (1997).
    if (lost > 0)
        out.push_back({streams * kindness * 1.22 * segment * 8 / (rtt * std::sqrt(lost)), Held::loss, loser});
    return out;
}

Run World::run(bool forward, int streams, const Arrangement& how, double pace) {
    const std::vector<Held> all = bounds(forward, streams, how, pace > 0);
    const Held held = *std::min_element(all.begin(), all.end(),
                                        [](const Held& a, const Held& b) { return a.rate < b.rate; });
    Run run;
    run.id = "r" + std::to_string(++made);
    run.startedAt = "2026-03-02T10:00:00Z";
    run.simulated = true;
    run.config.direction =
        forward ? metrodos::benchmark::Direction::forward : metrodos::benchmark::Direction::backward;
    run.config.streams = pace > 0 ? 1 : streams;
    run.config.seconds = run.seconds = seconds;
    run.config.arrangement = how;
    const bool wanders = held.by == Held::network;
    double wobble = wanders                   ? parts[held.element].wobble
                    : held.by == Held::loss   ? between(random, 0.02, 0.08)
                    : held.by == Held::hidden ? hiddenWobble
                    : held.by == Held::window ? 0.01
                                              : between(random, 0.005, 0.03);
    const double efficiency = pace > 0       ? 1
                              : streams == 1 ? between(random, 0.94, 1)
                                             : between(random, 0.98, 1);
    const double drift = wanders ? parts[held.element].wobble * 0.5 * normal(random) : 0;
    double limit = held.rate * efficiency * std::exp(drift);
    if (pace > 0) limit = std::min(limit, pace);
    // Slow start and adapters that wake: up to a second.
    const double rampUp = pace > 0 ? 0 : between(random, 0.1, 0.9);
    double slow = normal(random);
    double payload = 0;
    const double rtt = roundTrip(how);
    const bool queues = (held.by == Held::network || held.by == Held::hidden) && pace == 0;
    const double added =
        queues ? std::min(0.05, queue * 8 / limit) * between(random, 0.6, 1) : between(random, 0, 60e-6);
    const double memory = std::exp(-0.1);
    std::vector<Sample> samples;
    for (int k = 1; k <= 100; ++k) {
        slow = memory * slow + std::sqrt(1 - memory * memory) * normal(random);
        Sample s;
        s.t = 0.1 * k;
        const double shape = s.t < rampUp ? std::max(0.1, s.t / rampUp) : 1;
        s.goodputBps = std::max(0.0, limit * shape * std::exp(wobble * slow) * (1 + 0.008 * normal(random)));
        // A port lets nothing through faster than it is; its clock is good to 100 parts in a million.
        if (wanders && wobble < 0.005) s.goodputBps = std::min(s.goodputBps, held.rate * 1.0005);
        s.rttUs = (rtt + (s.t < rampUp ? 0 : added)) * 1e6 * (1 + 0.03 * normal(random));
        payload += s.goodputBps * 0.1 / 8;
        samples.push_back(s);
    }
    run.samples = samples;
    run.rttIdleUs = Percentiles{rtt * 1e6 * (1 + 0.02 * normal(random)), rtt * 1.3e6};
    if (pace > 0) {
        run.config.protocol = metrodos::benchmark::Protocol::udp;
        run.config.rate = BitRate::bitsPerSecond(pace);
        metrodos::benchmark::DatagramCount count;
        count.sent = static_cast<std::uint64_t>(pace * seconds / 8 / segment);
        count.received = std::min(count.sent, static_cast<std::uint64_t>(payload / segment));
        if (held.by == Held::receiver) count.dropped = count.sent - count.received;
        if (held.by == Held::sender) { // it does not get rid of more
            count.unsent = count.sent - count.received;
            count.sent = count.received;
        }
        run.datagrams = count;
    } else {
        // A full queue drops a little now and then; what is lost on the way is lost all the time.
        double lost = 0;
        for (std::size_t i = 0; i < route.size(); ++i)
            if (passed(route, how.setup, how.bypassed)[i]) lost += parts[i].loss[forward ? 0 : 1];
        const double share = lost + (queues ? about(random, 2e-6, 2e-4) : about(random, 1e-7, 1e-5));
        run.retransmits = static_cast<std::uint64_t>(std::llround(payload / segment * share));
        metrodos::benchmark::SenderLimited limited{1, 0, 0};
        const auto idle = [&] { return between(random, 0, 0.06); };
        limited.receiverWindow = held.by == Held::window     ? between(random, 0.6, 0.97)
                                 : held.by == Held::receiver ? between(random, 0.25, 0.9)
                                                             : idle();
        limited.sendBuffer = held.by == Held::sender ? between(random, 0.05, 0.7) : idle();
        limited.network = std::max(0.0, 1 - limited.receiverWindow - limited.sendBuffer);
        run.senderLimited = limited;
    }
    const std::size_t sender = forward != how.swapped ? 0 : 1;
    const double rate = payload * 8 / seconds;
    const auto core = [&](const Machine& m, double most) {
        const double busy =
            std::min(0.99, rate / most * between(random, 0.95, 1.05) + between(random, 0, 0.05));
        return m.coreShows ? busy : std::min(busy, between(random, 0.1, 0.5));
    };
    run.cpuSender = core(machines[sender], machines[sender].sends);
    run.cpuReceiver = core(machines[1 - sender], machines[1 - sender].receives);
    // A machine counts the frames that its own cable spoiled, and no others.
    const RouteShape shape = shapeOf(route);
    const std::size_t lastHop = forward ? shape.lastCable : shape.firstCable;
    const bool own = how.setup == Setup::place && !how.swapped;
    const double spoiled = own ? parts[lastHop].loss[forward ? 0 : 1] : 0;
    run.interfaceSender = {"lan0", static_cast<std::uint64_t>(payload * 1.06), 0, false, false, ""};
    run.interfaceReceiver = {"lan0",
                             static_cast<std::uint64_t>(payload * 1.06),
                             static_cast<std::uint64_t>(payload / segment * spoiled),
                             false,
                             false,
                             ""};
    run.config.warmup.reset();
    metrodos::benchmark::finish(run);
    return run;
}

void World::read(const Id& connection) {
    const Connection* c = real.connection(connection);
    if (c == nullptr) return;
    Connection& written = *survey.connection(connection);
    if (c->medium == Medium::bus) {
        for (const PortRef& end : c->ends)
            survey.port(end)->phy = real.port(end)->phy;
        written.linkedAt = BitRate::bitsPerSecond(480e6); // that it was read; of what is written down
        return;
    }
    if (c->medium == Medium::data_cable) {
        double rate = 10e9;
        for (const PortRef& end : c->ends) {
            const std::string& phy = real.port(end)->phy;
            rate = std::min(rate, phy == "100base-tx"   ? 100e6
                                  : phy == "1000base-t" ? 1e9
                                  : phy == "2.5gbase-t" ? 2.5e9
                                  : phy == "5gbase-t"   ? 5e9
                                                        : 10e9);
        }
        if (c->linkedAt) rate = std::min(rate, c->linkedAt->bps());
        written.linkedAt = BitRate::bitsPerSecond(rate);
        return;
    }
    // What modems show: of mains 35 to 55 % arrives as TCP, of coax and radio more.
    for (std::size_t i = 0; i < route.size(); ++i)
        if (route[i].connection == connection)
            for (const std::size_t way : {0, 1}) {
                const double share = route[i].kind == ElementKind::mains  ? between(random, 0.35, 0.55)
                                     : route[i].kind == ElementKind::coax ? between(random, 0.62, 0.8)
                                                                          : between(random, 0.45, 0.65);
                const Id& from = way == 0 ? route[i].entry.device : route[i].exit.device;
                const Id& to = way == 0 ? route[i].exit.device : route[i].entry.device;
                written.phyRates.push_back(
                    {from, to, BitRate::bitsPerSecond(parts[i].ceiling[way] / parts[i].shared / share)});
            }
}

std::vector<std::string> World::limiters() const {
    std::vector<std::string> out;
    std::array<std::vector<Held>, 2> all{bounds(true, 4, {}, false), bounds(false, 4, {}, false)};
    std::array<double, 2> least{1e15, 1e15};
    for (const std::size_t d : {0, 1})
        for (const Held& h : all[d])
            least[d] = std::min(least[d], h.rate);
    constexpr double alike = 1.03;
    for (const std::size_t d : {0, 1}) {
        if (least[d] > std::min(least[0], least[1]) * alike) continue;
        for (const Held& h : all[d])
            if (h.rate <= least[d] * alike)
                out.push_back(h.by == Held::hidden ? std::string(notWritten) : route[h.element].id);
    }
    return out;
}

} // namespace independent
