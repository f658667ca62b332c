// Options and small helpers that the commands of metrodos-cli share.
#pragma once

#include "benchmark/summary.h"
#include "house/house.h"
#include "job/open.h"
#include "quantity/problem.h"

#include <CLI/CLI.hpp>
#include <nlohmann/json_fwd.hpp>
#include <optional>

namespace metrodos::programs {

/// How a run is asked for on the command line.
struct RunOptions {
    std::string protocol = "tcp";
    int streams = 1;
    house::Directions directions = house::Directions::forward;
    std::string seconds = "10";
    std::string warmup = "auto";
    int repeat = 1;
    std::string rate;
    std::string bind;
    std::vector<std::string> allowed; ///< ranges of peers besides nearby ones, where "here" is an end
    std::string congestion;
    std::string window;
    std::string bytes; ///< TCP: end after so many
    int segment = 0;
    int dscp = 0;
    int family = 0; ///< 4, 6 or 0: as the name resolves
    std::string summary = "trimmed";
    bool json = false;
    std::string saveTo;
    std::string route;
};

void addRunOptions(CLI::App& command, RunOptions& options);

/// What goes on at once: one run, or one in each direction.
using Step = std::vector<benchmark::RunConfig>;

/// The runs that the options ask for, in order: each repeat with its directions in turn or at once.
[[nodiscard]] quantity::Result<std::vector<Step>> stepsOf(const RunOptions& options);

/// Prints the measurement: the document with --json, else one line a run and a summary.
void printMeasurement(const std::vector<benchmark::Run>& runs, const RunOptions& options);

/// Adds the runs to the job file named by --save.
[[nodiscard]] quantity::Result<void> saveRuns(const std::vector<benchmark::Run>& runs,
                                              const RunOptions& options);

void print(const nlohmann::json& document);
/// Says the problem on stderr; returns exit code 1.
int fail(const quantity::Problem& problem);

} // namespace metrodos::programs
