#include "trace/next_tests.h"
#include "trace/limiter.h"

#include <algorithm>

namespace metrodos::trace {
namespace {

using house::ElementKind;

bool measured(const std::vector<benchmark::Run>& runs, benchmark::Direction d, bool several) {
    return std::any_of(runs.begin(), runs.end(), [&](const benchmark::Run& run) {
        return run.order.direction == d && (!several || run.order.streams > 1) && !run.samples.empty();
    });
}

} // namespace

std::vector<NextTest> nextTests(const capacity::RoutePrediction& prediction,
                                const std::vector<double>& probability,
                                const std::vector<benchmark::Run>& runs) {
    std::vector<NextTest> tests;
    const auto& elements = prediction.elements;
    for (const auto d : {benchmark::Direction::forward, benchmark::Direction::backward}) {
        const bool forward = d == benchmark::Direction::forward;
        if (measured(runs, d, false)) continue;
        std::vector<capacity::Distribution> ceilings;
        for (const auto& e : elements)
            ceilings.push_back(forward ? e.ceiling.forward : e.ceiling.backward);
        // What is known already bounds what another run can tell.
        double left = 0;
        for (const double p : probability)
            left += binaryEntropy(p) / 2;
        tests.push_back(
            {forward ? "measure-forward" : "measure-backward",
             std::string("Run ") + (forward ? "forward" : "backward") + " with four streams, ten seconds",
             std::min(informationOfRun(ceilings), left), 1});
    }
    if (!runs.empty() && !measured(runs, benchmark::Direction::forward, true) &&
        !measured(runs, benchmark::Direction::backward, true))
        tests.push_back({"more-streams",
                         "Run again with four streams: if they carry more than one, it was the window",
                         binaryEntropy(probability.back()), 1});
    double ends = 0; // the machines with their sockets and ports
    const auto isEnd = [&](std::size_t i) {
        const auto kind = elements[i].element.kind;
        return kind == ElementKind::host || kind == ElementKind::bus ||
               elements[i].element.device == elements.front().element.device ||
               elements[i].element.device == elements.back().element.device;
    };
    for (std::size_t i = 0; i < elements.size(); ++i) {
        const ElementKind kind = elements[i].element.kind;
        if (isEnd(i)) ends += probability[i];
        if (kind == ElementKind::port)
            tests.push_back({"read-rate-" + elements[i].element.id,
                             "Read the negotiated rate at " + elements[i].element.label,
                             binaryEntropy(probability[i]), 2});
        if (kind == ElementKind::bus)
            tests.push_back(
                {"other-socket-" + elements[i].element.id,
                 "Move the adapter of “" + elements[i].element.label + "” to another socket and run again",
                 binaryEntropy(probability[i]), 3});
        if (kind == ElementKind::cable)
            tests.push_back(
                {"swap-cable-" + elements[i].element.id,
                 "Bridge “" + elements[i].element.label + "” with a cable known to be good and run again",
                 binaryEntropy(probability[i]), 6});
        if (kind == ElementKind::coax || kind == ElementKind::mains || kind == ElementKind::air)
            tests.push_back(
                {"bench-" + elements[i].element.id,
                 "Bring the two adapters of “" + elements[i].element.label + "” together and run again",
                 binaryEntropy(probability[i]), 12});
    }
    tests.push_back({"baseline",
                     "Join the two machines by one short good cable and run: the ceiling of the machines",
                     binaryEntropy(ends), 8});
    std::erase_if(tests, [](const NextTest& test) { return test.informationBits < 0.01; });
    std::stable_sort(tests.begin(), tests.end(), [](const NextTest& a, const NextTest& b) {
        return a.informationBits / a.minutes > b.informationBits / b.minutes;
    });
    if (tests.size() > 4) tests.resize(4);
    return tests;
}

} // namespace metrodos::trace
