#include "programs/cli_options.h"

#include "benchmark/run_json.h"
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
    command.add_option("--protocol", o.protocol, "tcp")->check(CLI::IsMember({"tcp", "udp"}));
    command.add_option("--streams", o.streams, "parallel TCP connections")
        ->check(CLI::Range(1, benchmark::maximumStreams));
    command.add_option("--direction", o.direction, "forward is from → to")
        ->check(CLI::IsMember({"forward", "backward", "both", "together"}));
    command.add_option("--seconds", o.seconds, "length of a run, 0.5 s to 1 h");
    command.add_option("--warmup", o.warmup, "auto, or the time to leave out at the start");
    command.add_option("--repeat", o.repeat, "runs in each direction")->check(CLI::Range(1, 1000));
    command.add_option("--rate", o.rate, "pace of UDP");
    command.add_option("--bind", o.bind, "local address to send from");
    command.add_option("--summary", o.summary, "how repeated runs become one figure")
        ->check(CLI::IsMember({"trimmed", "median", "mean", "best", "sustained"}));
    command.add_flag("--json", o.json, "print the whole measurement as JSON");
    command.add_option("--save", o.saveTo, "job file to add the runs to");
}

Result<std::vector<benchmark::RunOrder>> ordersOf(const RunOptions& o) {
    if (o.protocol != "tcp" || !o.rate.empty())
        return problem("this version measures with TCP only", "", "leave out --protocol udp and --rate");
    if (o.direction == "together")
        return problem("this version runs one direction at a time", "",
                       "use --direction both, which runs them in turn");
    benchmark::RunOrder order;
    order.streams = o.streams;
    order.bind = o.bind;
    const auto seconds = quantity::parseDuration(o.seconds);
    if (!seconds) return tl::unexpected(seconds.error());
    order.seconds = seconds->count();
    if (order.seconds < benchmark::shortestRun || order.seconds > benchmark::longestRun)
        return problem("a run lasts from 0.5 s to 1 h", "--seconds", "choose a length between");
    if (o.warmup != "auto") {
        const auto warmup = o.warmup == "0"
                                ? Result<std::chrono::duration<double>>(std::chrono::duration<double>(0))
                                : quantity::parseDuration(o.warmup);
        if (!warmup) return tl::unexpected(warmup.error());
        if (warmup->count() >= order.seconds)
            return problem("the warm-up is as long as the run", "--warmup", "choose a shorter one");
        order.warmup = warmup->count();
    }
    std::vector<benchmark::RunOrder> orders;
    for (int i = 0; i < o.repeat; ++i) {
        for (const Direction d : {Direction::forward, Direction::backward}) {
            if (o.direction != "both" && o.direction != benchmark::name(d)) continue;
            order.direction = d;
            orders.push_back(order);
        }
    }
    return orders;
}

void printMeasurement(const std::vector<benchmark::Run>& runs, const RunOptions& o) {
    const auto rule = benchmark::ruleNamed(o.summary).value_or(benchmark::Rule::trimmed);
    if (o.json) {
        print(benchmark::measurementDocument(runs, rule));
        return;
    }
    for (const benchmark::Run& run : runs)
        std::cout << (run.simulated ? "simulated " : "") << benchmark::name(run.order.direction) << ", "
                  << run.order.streams << (run.order.streams == 1 ? " stream: " : " streams: ")
                  << plainBoth(run.goodput) << '\n';
    for (const Direction d : {Direction::forward, Direction::backward})
        if (const auto s = benchmark::summarise(runs, d, rule)) {
            std::cout << benchmark::name(d) << ", " << benchmark::name(s->rule) << " of " << s->runs << ": "
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
