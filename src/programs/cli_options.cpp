#include "programs/cli_options.h"

#include "benchmark/remarks.h"
#include "benchmark/run_json.h"
#include "benchmark/run_measures.h"
#include "job/store.h"
#include "quantity/format.h"
#include "quantity/parse.h"

#include <iostream>
#include <nlohmann/json.hpp>

namespace metrodos::programs {

using benchmark::Direction;
using quantity::problem;
using quantity::Result;

void addRunOptions(CLI::App& command, RunOptions& o) {
    command.add_option("--protocol", o.protocol, "tcp, or udp at the pace of --rate")
        ->check(CLI::IsMember({"tcp", "udp"}));
    command.add_option("--streams", o.streams, "parallel TCP connections")
        ->check(CLI::Range(1, benchmark::maxStreams));
    command
        .add_option_function<std::string>(
            "--direction", [&o](const std::string& name) { o.directions = *house::directions(name); },
            "forward is from → to")
        ->check(CLI::IsMember({"forward", "backward", "both", "together"}));
    command.add_option("--seconds", o.seconds, "length of a run, 0.5 s to 1 h");
    command.add_option("--warmup", o.warmup, "auto, or the time to leave out at the start");
    command.add_option("--repeat", o.repeat, "runs in each direction")->check(CLI::Range(1, 1000));
    command.add_option("--rate", o.rate, "pace of UDP, like 50M; with TCP its streams go no faster together");
    command.add_option("--bind", o.bind, "local address or interface to send from");
    command.add_option("--allow", o.allowed,
                       "CIDR of machines that may join runs with “here” besides loopback, private and "
                       "link-local ones");
    command.add_option("--congestion", o.congestion, "congestion control of TCP, as the kernel calls it");
    command.add_option("--window", o.window,
                       "socket buffers at both ends, like 256KiB; else the kernel sizes them");
    command.add_option("--bytes", o.bytes,
                       "end when so many were sent, like 1GB, if the time is not over before");
    command.add_option("--segment", o.segment, "largest TCP segment, or payload of a datagram, in bytes")
        ->check(CLI::Range(benchmark::minSegment, benchmark::maxSegment));
    command.add_option("--dscp", o.dscp, "code point of all that is sent")->check(CLI::Range(0, 63));
    command.add_option("--family", o.family, "4 or 6: which addresses to use")->check(CLI::IsMember({4, 6}));
    command.add_option("--summary", o.summary, "how repeated runs become one figure")
        ->check(CLI::IsMember({"trimmed", "median", "mean", "best", "sustained"}));
    command.add_flag("--json", o.json, "print the whole measurement as JSON");
    command.add_option("--save", o.saveTo, "job file to add the runs to");
}

Result<std::vector<Step>> stepsOf(const RunOptions& o) {
    benchmark::RunConfig config;
    config.protocol = o.protocol == "udp" ? benchmark::Protocol::udp : benchmark::Protocol::tcp;
    config.streams = o.streams;
    config.bind = o.bind;
    config.congestion = o.congestion;
    config.segmentBytes = o.segment;
    config.dscp = o.dscp;
    config.ipVersion = o.family;
    if (config.protocol == benchmark::Protocol::udp) {
        if (o.rate.empty())
            return problem("UDP needs a pace", "--rate",
                           "say how fast to send, like 50M; “metrodos-cli search” finds the highest");
        if (o.streams != 1) return problem("UDP has one flow", "--streams", "leave it out");
    }
    if (!o.rate.empty()) {
        const auto rate = quantity::parseBitRate(o.rate);
        if (!rate) return tl::unexpected(rate.error());
        if (rate->bps() < benchmark::minPace || rate->bps() > benchmark::maxPace)
            return problem("the pace is from 10 kbit/s to 100 Gbit/s", "--rate", "choose one between");
        config.rate = *rate;
    }
    if (!o.window.empty()) {
        const auto window = quantity::parseByteCount(o.window);
        if (!window) return tl::unexpected(window.error());
        if (window->bytes < 4096 || static_cast<double>(window->bytes) > benchmark::maxWindow)
            return problem("a window is from 4 KiB to 1 GB", "--window", "choose one between");
        config.windowBytes = window->bytes;
    }
    if (!o.bytes.empty()) {
        const auto bytes = quantity::parseByteCount(o.bytes);
        if (!bytes) return tl::unexpected(bytes.error());
        config.maxBytes = bytes->bytes;
    }
    const auto seconds = quantity::parseDuration(o.seconds);
    if (!seconds) return tl::unexpected(seconds.error());
    config.seconds = seconds->count();
    if (config.seconds < benchmark::minRun || config.seconds > benchmark::maxRun)
        return problem("a run lasts from 0.5 s to 1 h", "--seconds", "choose a length between");
    if (o.warmup != "auto") {
        const auto warmup = o.warmup == "0"
                                ? Result<std::chrono::duration<double>>(std::chrono::duration<double>(0))
                                : quantity::parseDuration(o.warmup);
        if (!warmup) return tl::unexpected(warmup.error());
        if (warmup->count() >= config.seconds)
            return problem("the warm-up is as long as the run", "--warmup", "choose a shorter one");
        config.warmup = warmup->count();
    }
    std::vector<Step> steps;
    for (int i = 0; i < o.repeat; ++i) {
        Step together;
        for (const Direction d : {Direction::forward, Direction::backward}) {
            config.direction = d;
            if (o.directions == house::Directions::together)
                together.push_back(config);
            else if (o.directions == house::Directions::both ||
                     house::name(o.directions) == benchmark::name(d))
                steps.push_back({config});
        }
        if (!together.empty()) steps.push_back(std::move(together));
    }
    return steps;
}

void printMeasurement(const std::vector<benchmark::Run>& runs, const RunOptions& o) {
    const auto rule = house::summaryRule(o.summary).value_or(benchmark::Rule::trimmed);
    if (o.json) {
        print(benchmark::measurementDocument(runs, rule));
        return;
    }
    for (const benchmark::Run& run : runs) {
        std::cout << (run.simulated ? "simulated " : "") << benchmark::name(run.config.direction) << ", ";
        if (run.config.protocol == benchmark::Protocol::udp)
            std::cout << "datagrams at " << plain(*run.config.rate);
        else
            std::cout << run.config.streams << (run.config.streams == 1 ? " stream" : " streams");
        std::cout << (run.config.group.empty() ? "" : ", both directions at once") << ": "
                  << plainBoth(run.goodput);
        for (const std::string& line : benchmark::remarks(run))
            std::cout << "\n  " << line;
        std::string figures;
        for (const benchmark::NamedFigure& f : benchmark::figuresOf(run))
            figures += (figures.empty() ? "\n  " : " · ") + f.name + ' ' + f.figure;
        std::cout << figures;
        std::cout << '\n';
    }
    for (const Direction d : {Direction::forward, Direction::backward})
        if (const auto s = benchmark::summarise(runs, d, rule)) {
            std::cout << benchmark::name(d) << ", " << house::name(s->rule) << " of " << s->runs << ": "
                      << plainBoth(s->goodput);
            if (s->low && s->high) std::cout << " (" << plain(*s->low) << " to " << plain(*s->high) << ")";
            std::cout << '\n';
        }
}

Result<void> saveRuns(const std::vector<benchmark::Run>& runs, const RunOptions& o) {
    if (o.saveTo.empty()) return {};
    if (o.route.empty())
        return problem("--save needs --route", "", "say to which route of the job the runs belong");
    auto store = job::Store::open(o.saveTo);
    if (!store) return tl::unexpected(store.error());
    if (store->house().route(o.route) == nullptr)
        return problem("the job has no route “" + o.route + "”", o.saveTo, "name a route of the job");
    for (const benchmark::Run& run : runs)
        if (auto added = store->addRun({o.route, run}); !added) return added;
    return {};
}

void print(const nlohmann::json& document) {
    std::cout << document.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) << '\n';
}

int fail(const quantity::Problem& problem) {
    std::cerr << "metrodos: " << problem.sentence() << '\n';
    return 1;
}

} // namespace metrodos::programs
