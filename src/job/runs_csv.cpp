#include "job/runs_csv.h"

#include "job/csv_table.h"

#include <array>
#include <charconv>

namespace metrodos::job {
namespace {

using benchmark::Run;
using benchmark::Sample;

// The shortest digits that read back as the same number.
std::string digits(double value) {
    std::array<char, 32> buffer{};
    const auto end = std::to_chars(buffer.data(), buffer.data() + buffer.size(), value);
    return {buffer.data(), end.ptr};
}
template <typename T>
std::string digits(const std::optional<T>& value) {
    if constexpr (std::is_same_v<T, double>)
        return value ? digits(*value) : std::string();
    else
        return value ? std::to_string(*value) : std::string();
}
std::string yes(bool value) {
    return value ? "true" : "false";
}
std::string median(const std::optional<benchmark::Percentiles>& p) {
    return p ? digits(p->p50) : std::string();
}
std::string p95(const std::optional<benchmark::Percentiles>& p) {
    return p ? digits(p->p95) : std::string();
}
std::string joined(const std::vector<std::string>& words) {
    std::string out;
    for (const std::string& word : words)
        out += (out.empty() ? "" : "; ") + word;
    return out;
}

// What a table says of a thing, column by column: its name and how it is written stand side by side.
template <typename... Of>
struct Written {
    CsvColumn column;
    std::string (*text)(const Of&...);
};

using RunColumn = Written<Document, benchmark::RouteRun>;
const RunColumn ofRuns[] = {
    {{"run", "string", "id of the run"}, [](const Document&, const auto& r) { return r.run.id; }},
    {{"started_at", "string", "ISO 8601, UTC"},
     [](const Document&, const auto& r) { return r.run.startedAt; }},
    {{"route", "string", "id of the route"}, [](const Document&, const auto& r) { return r.route; }},
    {{"route_label", "string", "its name"},
     [](const Document& d, const auto& r) {
         const house::Route* route = d.house.route(r.route);
         return route == nullptr ? std::string() : route->label;
     }},
    {{"direction", "string", "forward or backward"},
     [](const Document&, const auto& r) { return std::string(name(r.run.config.direction)); }},
    {{"protocol", "string", "tcp or udp"},
     [](const Document&, const auto& r) { return std::string(name(r.run.config.protocol)); }},
    {{"streams", "integer", "streams at once"},
     [](const Document&, const auto& r) { return std::to_string(r.run.config.streams); }},
    {{"setup", "string", "place, baseline or bench"},
     [](const Document&, const auto& r) { return std::string(house::name(r.run.config.arrangement.setup)); }},
    {{"seconds", "number", "that it lasted"},
     [](const Document&, const auto& r) { return digits(r.run.seconds); }},
    {{"warmup_s", "number", "left out at the beginning"},
     [](const Document&, const auto& r) { return digits(r.run.warmupSeconds); }},
    {{"goodput_bps", "number", "payload that the receiving application got"},
     [](const Document&, const auto& r) { return digits(r.run.goodput.bps()); }},
    {{"rtt_idle_p50_us", "number", "median round trip before the load"},
     [](const Document&, const auto& r) { return median(r.run.rttIdleUs); }},
    {{"rtt_loaded_p50_us", "number", "median round trip beside the load"},
     [](const Document&, const auto& r) { return median(r.run.rttLoadedUs); }},
    {{"rtt_loaded_p95_us", "number", "its 95th percentile"},
     [](const Document&, const auto& r) { return p95(r.run.rttLoadedUs); }},
    {{"retransmits", "integer", "segments sent again"},
     [](const Document&, const auto& r) { return digits(r.run.retransmits); }},
    {{"cpu_sender", "number", "busy share of the busiest core, 0 to 1"},
     [](const Document&, const auto& r) { return digits(r.run.cpuSender); }},
    {{"cpu_receiver", "number", "the same at the other end"},
     [](const Document&, const auto& r) { return digits(r.run.cpuReceiver); }},
    {{"loss_ratio", "number", "of datagrams, 0 to 1"},
     [](const Document&, const auto& r) {
         return r.run.datagrams ? digits(r.run.datagrams->lossRatio()) : std::string();
     }},
    {{"others_active", "boolean", "whether other people used the network"},
     [](const Document&, const auto& r) {
         return r.run.conditions.othersActive ? yes(*r.run.conditions.othersActive) : std::string();
     }},
    {{"appliances", "string", "that ran, divided by semicolons"},
     [](const Document&, const auto& r) { return joined(r.run.conditions.appliances); }},
    {{"radio_up", "boolean", "whether a radio of one of the two machines was up"},
     [](const Document&, const auto& r) {
         return r.run.conditions.radioUp ? yes(*r.run.conditions.radioUp) : std::string();
     }},
    {{"complete", "boolean", "false: stopped before its time"},
     [](const Document&, const auto& r) { return yes(r.run.complete); }},
    {{"simulated", "boolean", "true: no real network"},
     [](const Document&, const auto& r) { return yes(r.run.simulated); }},
    {{"set_aside", "string", "why it does not count; empty: it does"},
     [](const Document& d, const auto& r) {
         const house::SetAside* why = d.house.whySetAside(r.run.id);
         return why == nullptr ? std::string() : why->reason;
     }},
};

using SampleColumn = Written<Run, Sample>;
const SampleColumn ofSamples[] = {
    {{"run", "string", "id of the run"}, [](const Run& r, const Sample&) { return r.id; }},
    {{"t_s", "number", "since the first byte, at the end of the sample"},
     [](const Run&, const Sample& s) { return digits(s.t); }},
    {{"goodput_bps", "number", "at the receiver"},
     [](const Run&, const Sample& s) { return digits(s.goodputBps); }},
    {{"rtt_us", "number", "round trip of the delay probe"},
     [](const Run&, const Sample& s) { return digits(s.rttUs); }},
    {{"tcp_rtt_us", "number", "smoothed estimate of the sender's kernel"},
     [](const Run&, const Sample& s) { return digits(s.tcpRttUs); }},
    {{"window_bytes", "number", "congestion windows of all streams"},
     [](const Run&, const Sample& s) { return digits(s.windowBytes); }},
    {{"retransmits", "integer", "segments since the start"},
     [](const Run&, const Sample& s) { return digits(s.retransmits); }},
    {{"cpu_sender", "number", "busy share of the busiest core, 0 to 1"},
     [](const Run&, const Sample& s) { return digits(s.cpuSender); }},
    {{"cpu_receiver", "number", "the same at the other end"},
     [](const Run&, const Sample& s) { return digits(s.cpuReceiver); }},
    {{"loss_ratio", "number", "of the datagrams due, 0 to 1"},
     [](const Run&, const Sample& s) { return digits(s.lossRatio); }},
};

template <typename Columns>
std::vector<CsvColumn> columnsOf(const Columns& all) {
    std::vector<CsvColumn> out;
    for (const auto& one : all)
        out.push_back(one.column);
    return out;
}
std::string headRow(const std::vector<CsvColumn>& columns) {
    std::vector<std::string> names;
    for (const CsvColumn& c : columns)
        names.emplace_back(c.name);
    return csvRow(names);
}

} // namespace

const std::vector<CsvColumn>& runColumns() {
    static const std::vector<CsvColumn> columns = columnsOf(ofRuns);
    return columns;
}

std::string runsToCsv(const Document& document) {
    std::string out = headRow(runColumns());
    for (const benchmark::RouteRun& r : document.runs) {
        std::vector<std::string> row;
        for (const RunColumn& c : ofRuns)
            row.push_back(c.text(document, r));
        out += csvRow(row);
    }
    return out;
}

const std::vector<CsvColumn>& sampleColumns() {
    static const std::vector<CsvColumn> columns = columnsOf(ofSamples);
    return columns;
}

std::string samplesToCsv(const Document& document) {
    std::string out = headRow(sampleColumns());
    for (const benchmark::RouteRun& r : document.runs)
        for (const Sample& s : r.run.samples) {
            std::vector<std::string> row;
            for (const SampleColumn& c : ofSamples)
                row.push_back(c.text(r.run, s));
            out += csvRow(row);
        }
    return out;
}

} // namespace metrodos::job
