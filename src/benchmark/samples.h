// The samples of a run, which are most of what a run holds: copies of a run share them, and those of a kept
// run are read when somebody looks at them. A job of 5,000 runs opens by their heads alone.
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

namespace metrodos::benchmark {

/// One tenth of a second of a run. What could not be taken is nothing, never 0.
struct Sample {
    double t = 0;                             ///< s since the first byte, at the end of the sample
    double goodputBps = 0;                    ///< at the receiver
    std::optional<double> rttUs;              ///< loaded round-trip time of the delay probe
    std::optional<double> tcpRttUs;           ///< the sender's kernel's smoothed estimate
    std::optional<double> windowBytes;        ///< congestion windows of all streams together
    std::optional<std::uint64_t> retransmits; ///< segments since the start
    std::optional<double> cpuSender;          ///< busy share of the sender's busiest core, 0–1
    std::optional<double> cpuReceiver;
    std::vector<double> streamBps;   ///< goodput of each stream at the receiver, where there are several
    std::optional<double> lossRatio; ///< UDP: share of the datagrams due in this tenth that did not come

    friend bool operator==(const Sample&, const Sample&) = default;
};

/// Like a vector of Sample. A copy shares what it holds until one of the two is changed; reading is safe from
/// several threads, changing is not.
class Samples {
  public:
    using Load = std::function<std::vector<Sample>()>; ///< from any thread; empty where nothing can be read

    Samples() = default;
    Samples(std::vector<Sample> samples); // NOLINT(google-explicit-constructor): it is one
    Samples(std::initializer_list<Sample> samples)
        : Samples(std::vector<Sample>(samples)) {}
    /// Loaded once, when first looked at, for all copies.
    [[nodiscard]] static Samples later(Load load);

    [[nodiscard]] const std::vector<Sample>& all() const;
    [[nodiscard]] std::size_t size() const { return all().size(); }
    [[nodiscard]] bool empty() const { return all().empty(); }
    [[nodiscard]] auto begin() const { return all().begin(); }
    [[nodiscard]] auto end() const { return all().end(); }
    [[nodiscard]] auto rbegin() const { return all().rbegin(); }
    [[nodiscard]] auto rend() const { return all().rend(); }
    [[nodiscard]] const Sample& front() const { return all().front(); }
    [[nodiscard]] const Sample& back() const { return all().back(); }
    [[nodiscard]] const Sample& operator[](std::size_t i) const { return all()[i]; }

    void push_back(Sample sample) { change().push_back(std::move(sample)); }
    void clear() { *this = {}; }
    /// The samples to be changed; those of copies stay as they were.
    [[nodiscard]] std::vector<Sample>& change();

  private:
    struct Shared;
    std::shared_ptr<Shared> m_shared; // nullptr: none
};

} // namespace metrodos::benchmark
