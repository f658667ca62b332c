#include "independent/follow.h"

#include "trace/diagnose.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <ostream>

namespace independent {
namespace {

using namespace metrodos;

trace::Diagnosis diagnosis(const World& world, const catalog::Catalog& catalog,
                           const std::vector<benchmark::Run>& runs,
                           const std::vector<std::string>& made = {}) {
    const auto prediction = capacity::predict(world.survey, catalog, world.survey.routes.front()).value();
    trace::Case asked{prediction, world.survey, catalog};
    asked.runs = runs;
    asked.declined = made; // nobody makes a test twice that told nothing
    return trace::diagnose(asked);
}

Said saidOf(const trace::Diagnosis& d, const std::vector<std::string>& truth) {
    Said out;
    const auto isTrue = [&](const std::string& id) {
        return std::find(truth.begin(), truth.end(), id) != truth.end();
    };
    const trace::Suspect& first = d.suspects.front();
    out.first = first.element;
    out.right = isTrue(first.element);
    for (const trace::Suspect& s : d.suspects)
        if (isTrue(s.element)) out.ofTruth += s.probability;
    out.said = first.probability;
    return out;
}

} // namespace

void tell(World world, const catalog::Catalog& catalog, std::ostream& out) {
    out << world.fault << "; hidden rate " << world.hiddenRate << "; limits:";
    for (const std::string& id : world.limiters())
        out << ' ' << id;
    out << '\n';
    const auto prediction = capacity::predict(world.survey, catalog, world.survey.routes.front()).value();
    for (std::size_t i = 0; i < world.route.size(); ++i) {
        const auto& e = prediction.elements[i];
        out << "  " << world.route[i].id << ": really " << world.parts[i].ceiling[0] << ", "
            << world.parts[i].ceiling[1] << "; loss " << world.parts[i].loss[0] << "; expected "
            << e.forward.p10.bps() << " to " << e.forward.p90.bps() << '\n';
    }
    for (const auto& m : world.machines)
        out << "  machine sends " << m.sends << ", receives " << m.receives << ", window " << m.window
            << '\n';
    std::vector<benchmark::Run> runs;
    for (const int streams : {4, 1})
        for (const bool forward : {true, false})
            runs.push_back(world.run(forward, streams));
    for (const benchmark::Run& r : runs)
        out << (r.config.direction == benchmark::Direction::forward ? "> " : "< ") << r.config.streams << ": "
            << r.goodput.inMegabits() << " Mbit/s, delay " << r.rttIdleUs->p50 << " to "
            << (r.rttLoadedUs ? r.rttLoadedUs->p50 : 0) << ", again " << *r.retransmits << ", window "
            << r.senderLimited->receiverWindow << ", buffer " << r.senderLimited->sendBuffer << ", cores "
            << *r.cpuSender << ' ' << *r.cpuReceiver << ", errors " << *r.interfaceReceiver->errors << '\n';
    const trace::Diagnosis d = diagnosis(world, catalog, runs);
    for (const trace::Suspect& s : d.suspects) {
        out << s.element << ' ' << s.probability << ' ' << s.state << '\n';
        for (const std::string& line : s.because)
            out << "    " << line << '\n';
    }
    for (const std::string& w : d.warnings)
        out << "! " << w << '\n';
    for (const trace::NextTest& t : d.nextTests)
        out << "? " << t.id << ' ' << t.informationBits << '\n';
}

Judged judge(World world, const catalog::Catalog& catalog, int maxTests) {
    Judged out;
    out.fault = world.fault;
    out.truth = world.limiters();
    std::vector<benchmark::Run> runs;
    for (const int streams : {4, 1})
        for (const bool forward : {true, false})
            runs.push_back(world.run(forward, streams));
    trace::Diagnosis d = diagnosis(world, catalog, runs);
    out.afterFour = saidOf(d, out.truth);
    for (int k = 0; k < maxTests && !d.nextTests.empty(); ++k) {
        const trace::NextTest test = d.nextTests.front();
        out.tests.push_back(test.id);
        if (test.kind == trace::TestKind::read) {
            for (const house::Id& id : test.reads)
                world.read(id);
        } else {
            const bool datagrams = test.shape.streams == benchmark::maxStreams;
            for (const bool forward : {true, false})
                runs.push_back(world.run(forward, datagrams ? 1 : test.shape.streams, test.shape.arrangement,
                                         datagrams && test.pace ? test.pace->bps() : 0));
        }
        d = diagnosis(world, catalog, runs, out.tests);
    }
    out.atEnd = saidOf(d, out.truth);
    return out;
}

int handRoutine(const World& world) {
    const auto rateUpTo = [&](std::size_t from) { // with this element and all behind it left out
        benchmark::Arrangement how;
        for (std::size_t k = from; k < world.route.size(); ++k)
            how.bypassed.push_back(world.route[k].id);
        double least = 1e15;
        for (const bool forward : {true, false})
            for (const World::Held& held : world.bounds(forward, 4, how, false))
                least = std::min(least, held.rate);
        return least;
    };
    const std::vector<std::string> limiters = world.limiters();
    const double whole = rateUpTo(world.route.size());
    int tests = 1;
    std::size_t from = 0;
    for (std::size_t i = 1; i <= world.route.size(); ++i) {
        const bool isLast = i == world.route.size();
        if (!isLast && world.route[i].kind != house::ElementKind::cable) continue;
        if (!isLast) ++tests; // the last stretch needs no run: it is the whole
        if (isLast || rateUpTo(i) < whole * 1.05) {
            for (std::size_t k = from; k + 1 < i; ++k) { // the last part needs no exchange
                ++tests;
                if (std::find(limiters.begin(), limiters.end(), world.route[k].id) != limiters.end()) break;
            }
            return tests;
        }
        from = i;
    }
    return tests;
}

std::vector<double> timesOfVerdicts(const catalog::Catalog& catalog, int times) {
    const auto distance = [](const World& w) { return std::abs(static_cast<int>(w.route.size()) - 25); };
    World longest = draw(1);
    for (unsigned seed = 2; seed < 300; ++seed)
        if (World other = draw(seed); distance(other) < distance(longest)) longest = std::move(other);
    std::vector<benchmark::Run> runs;
    for (std::size_t k = 0; k < 50; ++k) {
        benchmark::Arrangement how;
        if (k % 10 == 0) how.bypassed = {longest.route[k % longest.route.size()].id};
        constexpr std::array<int, 5> streams{1, 4, 8, 4, 2};
        runs.push_back(longest.run(k % 2 == 0, streams[k / 2 % streams.size()], how));
    }
    std::vector<double> out;
    for (int i = 0; i < times; ++i) {
        const auto before = std::chrono::steady_clock::now();
        (void)diagnosis(longest, catalog, runs);
        const std::chrono::duration<double, std::milli> took = std::chrono::steady_clock::now() - before;
        out.push_back(took.count());
    }
    std::sort(out.begin(), out.end());
    return out;
}

} // namespace independent
